"""Contacts with their traces, callbacks, stand-ins, and versions that are not sound any more."""

import uuid

from django.conf import settings
from django.test import TestCase

from agents.models import Team
from callcore.centre.standing import Row
from callcore.events import Kind
from callcore.events import read as happened
from callcore.tests.flows import short_line
from changelog import config_store
from exchange.live import journal, reading
from exchange.models import Callback, Contact, Journal, Lease
from flows.services import publish
from flows.tasks import look_whether_sound
from queues.models import Queue
from testkit import people


class RecordTests(TestCase):
    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)
        self.flow = people.flow(self.admin, short_line(people.queue(self.admin).pk))
        self.version = publish(self.admin, self.flow, 1, "")
        self.owner = uuid.uuid4()
        journal.take_lease(settings.EXCHANGE_SITE, self.owner, "here")

    def write(self, *events):
        rows = [happened(at, kind, contact, "", body) for at, kind, contact, body in events]
        journal.write(settings.EXCHANGE_SITE, self.owner, rows, [], [])

    def test_an_event_of_a_later_version_is_stepped_over_with_a_line_in_the_log(self):
        self.write(self.arrived("c1"))
        for kind, body in (("contact.beamed", {}), ("contact.keyed", {"v": 9})):
            Journal.objects.create(site=settings.EXCHANGE_SITE, at_ms=1, kind=kind, contact="c1", body=body)
        with self.assertLogs("exchange.live.journal", "WARNING") as logged:
            self.assertEqual([h.kind for h in journal.story("c1")], [Kind.ARRIVED])
        self.assertEqual(len(logged.output), 2)

    def test_how_things_stand_is_written_and_the_newest_is_read(self):
        site = settings.EXCHANGE_SITE
        for rows in (
            [Row("contact", "c1", {"step": 1}), Row("agent", "ann", {"status": "away"})],
            [Row("contact", "c1", {"step": 2}), Row("contact", "c2", {"step": 1})],
            [Row("contact", "c2", None), Row("site", "whole", {})],
        ):
            journal.write(site, self.owner, [], rows, [])
        known = {row.name: row.body for row in journal.standing(site)}
        self.assertEqual(known, {"c1": {"step": 2}, "ann": {"status": "away"}, "whole": {}})
        self.assertEqual(journal.standing("elsewhere"), [])
        bad = Row("contact", "c3", {"words": "a\x00b"})
        self.assertEqual(list(journal.unwritable(site, [], [bad, Row("contact", "c4", {})])), ["c3"])
        journal.forget_everything(site)
        self.assertEqual(journal.standing(site), [])

    def arrived(self, contact, at=1_795_435_200_000, caller="+447700900123"):
        body = {
            "number": "+442079460210",
            "caller": caller,
            "flow": str(self.flow.pk),
            "flow_name": "Main line",
            "version": 1,
            "version_id": self.version.pk,
        }
        return (at, Kind.ARRIVED, contact, body)

    def test_a_supervisor_sees_the_contacts_of_their_queues_and_teams(self):
        deepa = people.person("supervisor", "deepa")
        team = config_store.create(self.admin, Team, name="Ostrel", supervisors=[deepa])
        ann = people.agent(self.admin, "Ann", "4191")
        ann = config_store.change(self.admin, ann, None, team=team)
        own, other = {"queue": str(people.queue(self.admin, "Own", ann).pk)}, {"queue": "other"}
        client, at = people.client_of(deepa), 1_795_435_201_000
        queued, answered = Kind.QUEUED, Kind.ANSWERED
        for events, status in (
            ([], 200),
            ([(queued, "", own)], 200),
            ([(queued, "", other)], 403),
            ([(queued, "", other), (answered, ann.pk, other)], 200),
            ([(answered, "somebody", {})], 403),
        ):
            one = str(uuid.uuid4())
            self.write(self.arrived(one))
            rows = [happened(at, kind, one, str(agent), body) for kind, agent, body in events]
            journal.write(settings.EXCHANGE_SITE, self.owner, rows, [], [])
            self.assertEqual(client.get(f"/api/v1/contacts/{one}").status_code, status, events)
            self.assertEqual(self.client.get(f"/api/v1/contacts/{one}").status_code, 200)

    def test_a_trace_tells_all_with_the_definition_that_was_run(self):
        one = str(uuid.uuid4())
        heard = {"step": "hello", "words": "Hello.", "run": ["secret"]}
        self.write(self.arrived(one), (1_795_435_201_000, Kind.HEARD, one, heard))
        trace = self.client.get(f"/api/v1/contacts/{one}").json()
        self.assertEqual([line["kind"] for line in trace["lines"]], ["contact.arrived", "contact.heard"])
        self.assertNotIn("run", trace["lines"][1]["body"])
        self.assertEqual(trace["definition"]["start"], "hello")
        self.assertEqual(self.client.get(f"/api/v1/contacts/{uuid.uuid4()}").status_code, 404)

    def test_why_an_agent_was_rung_names_those_whom_the_reader_reaches(self):
        deepa = people.person("supervisor", "deepa")
        team = config_store.create(self.admin, Team, name="Ostrel", supervisors=[deepa])
        ann, bea, cai = (people.agent(self.admin, n, f"41{i}1") for i, n in enumerate(("Ann", "Bea", "Cai")))
        bea = config_store.change(self.admin, bea, None, team=team)
        own = str(people.queue(self.admin, "Own", bea).pk)
        considered = [[str(ann.pk), "chosen"], [str(bea.pk), "away"], [str(cai.pk), "away"]]
        one, at = str(uuid.uuid4()), 1_795_435_201_000
        self.write(self.arrived(one), (at, Kind.QUEUED, one, {"queue": own}))
        body = {"queue": own, "rule": "turn", "considered": considered}
        journal.write(
            settings.EXCHANGE_SITE, self.owner, [happened(at, Kind.RANG, one, str(ann.pk), body)], [], []
        )
        for client, seen in (
            (self.client, {"words": "Away", "people": ["Bea", "Cai"], "more": 0}),
            (people.client_of(deepa), {"words": "Away", "people": ["Bea"], "more": 1}),
        ):
            line = client.get(f"/api/v1/contacts/{one}").json()["lines"][-1]
            self.assertEqual(
                (line["body"]["words"], line["body"]["considered"]), ("Nobody else could come", [seen])
            )

    def test_callbacks_are_listed_and_only_those_who_may_cancel_them(self):
        back = str(uuid.uuid4())
        body = {
            "origin": "c",
            "queue": "q",
            "number": "+44",
            "caller": "+441632960111",
            "flow": "",
            "entered_ms": 5,
            "next_ms": 9,
            "attempts": 3,
        }
        self.write((5, Kind.BOOKED, back, body), (9, Kind.NOT_REACHED, back, {"next_ms": 99}))
        row = self.client.get("/api/v1/callbacks", {"open": "yes"}).json()["results"][0]
        self.assertEqual((row["number"], row["state"]), ("01632 960111", "waiting"))
        self.assertEqual(row["queue_name"], "a queue that is gone")
        self.write((20, Kind.ENDED, back, {"ending": "cancelled"}))
        self.assertEqual(Callback.objects.get(pk=back).state, "cancelled")
        self.assertEqual(Contact.objects.get(pk=back).ending, "cancelled")
        Lease.objects.all().delete()
        away = self.client.post(f"/api/v1/callbacks/{back}/cancel")
        self.assertEqual((away.status_code, away.json()["code"]), (503, "exchange-away"))
        agent = people.client_of(people.person("agent"))
        for method, path in (
            ("get", "callbacks"),
            ("get", "stand-ins"),
            ("post", f"callbacks/{back}/cancel"),
        ):
            self.assertEqual(getattr(agent, method)(f"/api/v1/{path}").status_code, 403)

    def test_an_emergency_is_taken_by_those_who_supervise_its_agent(self):
        agent = people.agent(self.admin, "Ann", "4101")
        contact = str(uuid.uuid4())
        rows = [happened(5, Kind.EMERGENCY, contact, str(agent.pk), {"words": ""})]
        journal.write(settings.EXCHANGE_SITE, self.owner, rows, [], [])
        other = people.client_of(people.person("supervisor"))
        refused = other.post(f"/api/v1/alarms/{contact}/take")
        self.assertEqual((refused.status_code, refused.json()["code"]), (403, "not-yours"))
        self.assertEqual(self.client.post(f"/api/v1/alarms/{uuid.uuid4()}/take").status_code, 404)
        Lease.objects.all().delete()
        away = self.client.post(f"/api/v1/alarms/{contact}/take")
        self.assertEqual(away.json()["code"], "exchange-away")
        found = journal.emergencies(settings.EXCHANGE_SITE, 0)
        self.assertEqual([h.contact for h in found], [contact])

    def test_the_stand_ins_are_set_within_reason(self):
        for bad in ({"load": -1}, {"load": "many"}, {"agents": 1001}, {"seed": 0}):
            with self.subTest(bad):
                self.assertEqual(self.client.patch("/api/v1/stand-ins", bad).status_code, 400)
        Lease.objects.all().delete()
        self.assertTrue(self.client.patch("/api/v1/stand-ins", {"on": True}).json()["on"])
        self.assertTrue(journal.crowd_settings(settings.EXCHANGE_SITE).on)

    def test_a_version_in_force_that_becomes_invalid_is_told(self):
        table = self.client.post(
            "/api/v1/lookups",
            {
                "name": "Groups",
                "columns": [{"name": "Ref", "type": "text"}, {"name": "Party", "type": "text"}],
            },
        ).json()
        flow = people.flow(
            self.admin,
            {
                "start": "look",
                "steps": [
                    {
                        "kind": "lookup",
                        "id": "look",
                        "table": f"table:{table['id']}",
                        "key": "caller",
                        "take": [{"column": "Party", "into": "party"}],
                        "found": "end",
                        "not_found": "end",
                        "failed": "end",
                    },
                    {"kind": "end", "id": "end"},
                ],
            },
            "Groups",
        )
        publish(self.admin, flow, 1, "")
        self.assertEqual(reading.read().invalid, ())
        columns = [{"name": "Ref", "type": "text"}]
        changed = self.client.patch(f"/api/v1/lookups/{table['id']}", {"revision": 1, "columns": columns})
        self.assertEqual(changed.status_code, 200)
        self.assertEqual(reading.read().invalid_in_force, (), "it is looked at off the path of the calls")
        look_whether_sound()
        (found,) = reading.read().invalid_in_force
        self.assertEqual((found.id, found.name), (str(flow.pk), "Groups"))
        self.assertIn("version 1", found.message)
        self.assertIn("Party", found.message)

    def test_what_cannot_be_read_costs_itself_only_and_is_told(self):
        broken = people.queue(self.admin, "Broken")
        whole = people.queue(self.admin, "Whole")
        old = people.queue(self.admin, "Old")
        Queue.objects.filter(pk=broken.pk).update(widening=[{"lower": "much"}])
        Queue.objects.filter(pk=old.pk).update(widening=[{"after_s": 8, "lower": 3}])
        config = reading.read()
        self.assertNotIn(str(broken.pk), config.queues)
        self.assertIn(str(whole.pk), config.queues)
        self.assertEqual(config.queues[str(old.pk)].widening[0].agents, ())
        (found,) = config.invalid
        self.assertEqual((found.name, found.page), ("Broken", "/wait/queues"))
        self.assertIn("cannot be read", found.message)
        for queue in (broken, old):
            self.assertEqual(self.client.get(f"/api/v1/queues/{queue.pk}").status_code, 200)
        self.assertEqual(self.client.get("/api/v1/queues").status_code, 200)
