"""The exchange as a process: commands, publishing, kill -9, and a second one for the site."""

import asyncio
import json
import signal
from typing import Any

from asgiref.sync import sync_to_async
from asgiref.testing import ApplicationCommunicator
from channels.db import database_sync_to_async
from django.conf import settings
from django.db import connections
from django.test import SimpleTestCase, TransactionTestCase, override_settings
from redis.asyncio import Redis

from accounts.models import Role
from accounts.services import change_user
from callcore.tests.flows import short_line
from exchange.live.publisher import Publisher
from exchange.live.shell import database, release_connections
from exchange.models import Command, Contact
from exchange.snapshots import snapshot
from exchange.watching import seen
from hazeridge.asgi import application
from testkit import people, processes

CALLER = "07700 900123"


def answered(client, url, body):
    """What the exchange answers; where it has not got round to it, as the refusal says, again."""

    def ask():
        answer = client.post(url, body)
        return None if answer.status_code == 503 else answer

    return processes.until(ask)


class ExchangeTestCase(TransactionTestCase):
    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)
        self.nerys = people.agent(self.admin, "Nerys Vaughan", "4101")
        self.desk = people.client_of(self.nerys.user)
        self.queue = people.queue(self.admin, "Bookings", self.nerys)
        self.flow = people.flow(self.admin, short_line(self.queue.pk))
        self.url = f"/api/v1/flows/{self.flow.pk}"
        self.number = people.number(self.admin, self.flow)
        self.client.post(f"{self.url}/publish", {"revision": 1})
        self.exchange = processes.start_exchange()

    def tearDown(self):
        processes.stop(self.exchange)

    def call(self, **body):
        body = {"number": self.number.address, "caller": CALLER, **body}
        answer = answered(self.client, "/api/v1/calls", body)
        self.assertEqual(answer.status_code, 201, answer.content)
        return answer.json()["contact"]

    def press(self, contact, key):
        return answered(self.client, f"/api/v1/calls/{contact}/keys", {"key": key})

    def act(self, action, **body):
        return answered(self.desk, f"/api/v1/desk/{action}", body)

    def queued(self):
        contact = self.call()
        processes.until(lambda: self.phase(contact) and self.step(contact) == "menu")
        self.assertEqual(self.press(contact, "1").status_code, 204)
        return contact

    def seen(self, contact):
        kept = seen(f"call.{contact}")
        return kept["data"]["call"] if kept else {}

    def phase(self, contact):
        return self.seen(contact).get("phase")

    def step(self, contact):
        return self.seen(contact).get("step")

    def waiting(self):
        kept = snapshot("floor")
        queues = kept["data"]["queues"] if kept else {}
        return [w["contact"] for w in queues.get(str(self.queue.pk), {}).get("waiting", [])]

    def agent_status(self):
        kept = seen(f"desk.{self.nerys.pk}")
        return kept["data"]["agent"]["status"] if kept else None


class ShellTests(TransactionTestCase):
    def test_a_lost_connection_is_let_go_in_the_thread_that_uses_it(self):
        async def lose_and_use_again():
            await database(Contact.objects.count)
            await database(release_connections)
            count = await database(Contact.objects.count)
            await database(release_connections)
            return count

        self.assertEqual(asyncio.run(lose_and_use_again()), 0)


class ProcessTests(ExchangeTestCase):
    def test_a_call_from_dialling_to_wrap_up_through_the_api(self):
        for action in ("sign_in", "available"):
            self.assertEqual(self.act(action).status_code, 204)
        contact = self.queued()
        processes.until(lambda: self.agent_status() == "ringing")
        self.assertEqual(self.act("answer").status_code, 204)
        processes.until(lambda: self.phase(contact) == "with_person")
        self.act("end")
        processes.until(lambda: self.phase(contact) == "ended")
        refused = self.act("wrap_up", code=str(self.queue.pk))
        self.assertIn("not used by the queue", refused.json()["detail"])
        self.assertEqual(self.act("wrap_up").status_code, 204)
        processes.until(lambda: self.agent_status() == "available")
        self.assertEqual(Contact.objects.get(pk=contact).ending, "person")
        bad = self.press(contact, "1")
        self.assertEqual((bad.status_code, bad.json()["detail"]), (409, "This call is over."))

    def test_publishing_takes_effect_at_once_and_is_acknowledged(self):
        data = short_line(self.queue.pk)
        data["steps"][0]["prompt"]["text"] = "Good evening to all."
        revision = self.client.get(self.url).json()["revision"]
        saved = self.client.patch(self.url, {"draft": data, "revision": revision}).json()
        trial = self.call(flow=str(self.flow.pk))
        done = self.client.post(f"{self.url}/publish", {"revision": saved["revision"]}).json()
        newest = self.client.get("/api/v1/changes").json()["results"][0]["id"]
        self.assertEqual(done["in_effect"], newest)
        processes.until(lambda: self.seen(trial))
        self.assertEqual(self.seen(trial)["version"], 0)
        contact = self.call()
        processes.until(lambda: self.seen(contact))
        self.assertEqual(self.seen(contact)["version"], 2)
        lines = self.client.get(f"/api/v1/contacts/{contact}").json()["lines"]
        heard = [line["body"] for line in lines if line["kind"] == "contact.heard"]
        self.assertEqual(heard[0]["words"], "Good evening to all.")
        self.assertIsNotNone(heard[0]["take"])

    def test_kill_nine_loses_nothing(self):
        contacts = [self.queued() for _ in range(3)]
        gone = self.queued()
        self.client.post(f"/api/v1/calls/{gone}/hang-up")
        processes.until(lambda: self.waiting() == contacts)
        self.exchange.send_signal(signal.SIGKILL)
        self.exchange.wait()
        self.exchange = processes.start_exchange()
        processes.until(lambda: self.waiting() == contacts)
        self.assertEqual(Contact.objects.get(pk=gone).ending, "hung_up")
        self.assertEqual(Contact.objects.filter(ended_ms__isnull=True).count(), 3)
        for action in ("sign_in", "available", "answer"):
            self.assertEqual(self.act(action).status_code, 204)
        processes.until(lambda: self.phase(contacts[0]) == "with_person")

    def test_a_call_is_shown_only_while_somebody_watches_it(self):
        contact = self.queued_unseen()
        processes.until(lambda: contact in self.waiting())
        self.assertIsNone(snapshot(f"call.{contact}"))
        shown = self.client.get(f"/api/v1/live/call.{contact}").json()
        self.assertEqual(shown["data"]["call"]["phase"], "queued")
        self.client.post(f"/api/v1/calls/{contact}/hang-up")
        processes.until(lambda: self.phase(contact) == "ended")

    def queued_unseen(self):
        contact = self.call()
        processes.until(lambda: self.press(contact, "1").status_code == 204 and contact in self.waiting())
        return contact

    def test_a_second_exchange_for_the_site_is_refused_in_words(self):
        second = processes.start("manage.py", "exchange")
        self.assertEqual(second.wait(90), 3)
        self.assertIn("serves site main. Stop it first.", second.words)
        self.assertIsNone(self.exchange.poll())

    def test_without_an_exchange_nothing_is_done_and_it_is_said(self):
        processes.stop(self.exchange)
        answer = self.client.post("/api/v1/calls", {"number": "020 7946 0210", "caller": CALLER})
        self.assertEqual((answer.status_code, answer.json()["code"]), (503, "exchange-away"))
        self.exchange = processes.start_exchange()
        self.assertFalse(Contact.objects.exists())


class Line(ApplicationCommunicator):
    """One WebSocket into the application, without a network."""

    def __init__(self, client, origin="http://localhost"):
        cookie = "; ".join(f"{k}={v.value}" for k, v in client.cookies.items())
        headers = [(b"cookie", cookie.encode()), (b"host", b"localhost"), (b"origin", origin.encode())]
        scope = {"type": "websocket", "path": "/ws/live", "headers": headers, "query_string": b""}
        super().__init__(application, scope)

    async def open(self):
        await self.send_input({"type": "websocket.connect"})
        await self.receive_output(5)
        return self

    async def say(self, text):
        await self.send_input({"type": "websocket.receive", "text": text})

    async def hear(self, topic=None):
        while True:
            envelope = json.loads((await self.receive_output(5))["text"])
            if topic in (None, envelope["topic"]):
                return envelope

    async def close(self):
        await self.send_input({"type": "websocket.disconnect", "code": 1000})
        await self.wait(5)
        await database_sync_to_async(connections.close_all)()


@override_settings(EXCHANGE_SITE="kept")
class KeptTopicTests(SimpleTestCase):
    """What a topic last said, for whoever begins to watch."""

    def told(self, *views: dict[str, Any], away: bool = False) -> dict[str, Any]:
        """What is kept after a run of the exchange has shown some views, one after another."""

        async def tell() -> None:
            async with Redis.from_url(settings.REDIS_URL) as redis:
                publisher = Publisher(redis, "run")
                for number, view in enumerate(views):
                    if away:
                        publisher.forget()
                    await publisher.publish("floor", view, number, number)

        asyncio.run(tell())
        return snapshot("floor")

    def test_it_is_kept_item_by_item(self):
        one = {"queues": {"a": {"n": 1}, "b": {"n": 2}}, "agents": {}}
        two = {"queues": {"b": {"n": 3}, "c c": {"n": 4}}, "agents": {}}
        kept = self.told(one, one, two)
        self.assertEqual((kept["version"], kept["now_ms"], kept["data"]), (2, 2, two))

    def test_nothing_waits_for_ever_while_others_change_all_the_time(self):
        async def turns() -> list[str]:
            told = []
            async with Redis.from_url(settings.REDIS_URL) as redis:
                publisher = Publisher(redis, "run")
                topics = {"floor", "strip", *(f"desk.{n}" for n in range(6))}
                for number in range(5):
                    wall_ms = 1_000_000 + 300 * number
                    for topic in publisher.in_turn(topics, wall_ms)[:3]:
                        told.append(topic)
                        view = {"agent": {"n": number}}
                        await publisher.publish(topic, view, wall_ms, wall_ms)
                self.assertEqual(publisher.in_turn({"floor"}, wall_ms + 1), [])
            return told

        told = asyncio.run(turns())
        self.assertEqual(told[:2], ["floor", "strip"])
        self.assertEqual(len(set(told)), 7)

    def test_nothing_stays_of_what_was_told_before(self):
        old, new = {"agents": {"a": {"n": 1}}}, {"agents": {"b": {"n": 2}}}
        self.told(old)
        self.assertEqual(self.told(new)["data"], new)
        self.assertEqual(self.told(old, new, away=True)["data"], new)


class LineTests(ExchangeTestCase):
    """The WebSocket."""

    def test_a_snapshot_and_then_numbered_changes(self):
        async def watch():
            line = await Line(self.client).open()
            await line.say('{"watch": "floor"}')
            first = await line.hear("floor")
            await sync_to_async(self.desk.post)("/api/v1/desk/sign_in", {})
            second = await line.hear("floor")
            await line.close()
            return first, second

        processes.until(lambda: str(self.queue.pk) in str(snapshot("floor")))
        first, second = asyncio.run(watch())
        self.assertIn(str(self.queue.pk), first["data"]["queues"])
        self.assertEqual(second["version"], first["version"] + 1)
        self.assertEqual(second["set"]["agents"][str(self.nerys.pk)]["status"], "away")

    def test_another_run_of_the_exchange_is_told_which_desks_are_open(self):
        opened = Command.objects.filter(kind="desk.opened")

        def anew():
            self.exchange.send_signal(signal.SIGKILL)
            self.exchange.wait()
            self.exchange = processes.start_exchange()

        async def watch():
            line = await Line(self.desk).open()
            await line.say('{"watch": "heartbeat"}')
            await line.hear("heartbeat")
            await line.hear("heartbeat")
            await line.say(f'{{"watch": "desk.{self.nerys.pk}"}}')
            await line.hear(f"desk.{self.nerys.pk}")
            await sync_to_async(anew)()
            while await opened.acount() < 2:
                await line.hear("heartbeat")
            await line.close()

        asyncio.run(asyncio.wait_for(watch(), 60))
        self.assertEqual(opened.count(), 2)

    def test_what_may_not_be_watched_and_what_is_not_understood(self):
        async def ask(client, *messages):
            line = await Line(client).open()
            answers = []
            for message in messages:
                await line.say(message)
                answers.append(await line.hear())
            await line.close()
            return answers

        agent = asyncio.run(ask(self.desk, '{"watch": "floor"}'))
        self.assertEqual(agent[0]["refused"], "Your role does not allow this.")
        odd = ("{", "[]", '{"watch": 5}', '{"watch": "secrets"}', '{"a": 1, "b": 2}', "null")
        for answer in asyncio.run(ask(self.client, *odd)):
            self.assertEqual(answer["refused"], "This line does not understand that.")

    def test_nobody_watches_without_signing_in(self):
        async def closed():
            line = await Line(people.client_of(None)).open()
            answer = await line.receive_output(5)
            await database_sync_to_async(connections.close_all)()
            return answer

        self.assertEqual(asyncio.run(closed())["code"], 4401)

    def watched(self, client, act, user_topic="floor"):
        """What a line that watches hears last, after something was done."""

        async def watch():
            line = await Line(client).open()
            await line.say(f'{{"watch": "{user_topic}"}}')
            await line.hear(user_topic)
            await sync_to_async(act)()
            heard = await line.receive_output(5)
            while heard["type"] != "websocket.close" and "refused" not in heard.get("text", ""):
                heard = await line.receive_output(5)
            await line.close()
            return heard

        processes.until(lambda: str(self.queue.pk) in str(snapshot("floor")))
        return asyncio.run(watch())

    def test_signing_out_and_being_disabled_end_the_line_at_once(self):
        deepa = people.person(Role.SUPERVISOR, "deepa")
        ends = {
            "signing out": lambda client: client.delete("/api/v1/session"),
            "disabled": lambda _: change_user(self.admin, deepa, is_active=False),
        }
        for how, act in ends.items():
            with self.subTest(how):
                client = people.client_of(deepa)
                heard = self.watched(client, lambda act=act, client=client: act(client))
                self.assertEqual((heard["type"], heard["code"]), ("websocket.close", 4401))

    def test_losing_a_right_ends_what_it_was_needed_for(self):
        deepa = people.person(Role.SUPERVISOR, "deepa")
        heard = self.watched(people.client_of(deepa), lambda: change_user(self.admin, deepa, role=Role.AGENT))
        self.assertIn("any more", json.loads(heard["text"])["refused"])

    def test_a_page_of_another_port_gets_no_line(self):
        async def answers(origin):
            line = Line(self.client, origin)
            await line.send_input({"type": "websocket.connect"})
            answer = await line.receive_output(5)
            await line.close()
            return answer["type"]

        for origin, expected in {
            "http://localhost": "websocket.accept",
            "http://localhost:8081": "websocket.close",
            "http://elsewhere.example": "websocket.close",
            "": "websocket.close",
            "null": "websocket.close",
        }.items():
            self.assertEqual(asyncio.run(answers(origin)), expected, origin)
