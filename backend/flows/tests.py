from django.test import TestCase

from flows.models import Flow, Version
from flows.services import NotPublishable, publish, save_draft
from testkit import people


class FlowTests(TestCase):
    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)
        self.nerys = people.agent(self.admin, "Nerys Vaughan", "4101")
        self.queue = people.queue(self.admin, "Bookings", self.nerys)
        self.data = people.definition(self.queue.pk)
        self.flow = people.flow(self.admin, self.data)
        self.url = f"/api/v1/flows/{self.flow.pk}"

    def inspect(self, data):
        return self.client.post(f"{self.url}/inspect", {"draft": data}).json()

    def test_a_new_flow_has_a_stop_to_begin_with(self):
        made = self.client.post("/api/v1/flows", {"name": "Night line"}).json()
        self.assertEqual((made["draft"]["start"], len(made["draft"]["steps"])), ("greeting", 1))

    def test_an_unfinished_draft_is_kept_and_a_broken_one_is_not(self):
        self.data["steps"][0]["next"] = None
        saved = self.client.patch(self.url, {"draft": self.data, "revision": 1})
        self.assertEqual((saved.status_code, saved.json()["revision"]), (200, 2))
        bad = [
            ({"steps": [{"kind": "teleport", "id": "a"}]}, "'teleport' is not a kind of step"),
            ({"steps": [{"kind": "queue", "id": "a", "queue": f"sound:{self.queue.pk}"}]},
             "this refers to a sound, where a queue is needed"),
            ({"steps": [{"kind": "say", "id": "a",
                         "prompt": {"kind": "text", "text": "x" * 2001}}]},
             "longer than 2000 characters"),
            ("nonsense", "The flow"), (None, ""), ([1], "The flow"),
        ]  # fmt: skip
        for draft, words in bad:
            with self.subTest(words):
                answer = self.client.patch(self.url, {"draft": draft, "revision": 2})
                self.assertEqual(answer.status_code, 400)
                self.assertIn(words, str(answer.json()))
        self.assertEqual(Flow.objects.get(pk=self.flow.pk).draft, self.data)

    def test_inspection_describes_and_checks_without_keeping(self):
        self.data["steps"][1]["arms"][0]["next"] = None
        seen = self.inspect(self.data)
        self.assertTrue(seen["blocked"])
        finding = seen["findings"][0]
        self.assertEqual((finding["code"], finding["step"], finding["name"]),
                         ("open-exit", "menu", "Menu"))  # fmt: skip
        self.assertEqual(finding["fix"]["patch"][1]["path"], "/steps/1/arms/0/next")
        stops = {stop["id"]: stop for stop in seen["stops"]}
        self.assertEqual(stops["wait"]["place"], "Bookings")
        self.assertEqual([e["name"] for e in stops["wait"]["exits"]], ["answered", "waited"])
        self.assertEqual(Flow.objects.get(pk=self.flow.pk).revision, 1)

    def test_inspection_asks_the_database_no_more_for_a_longer_flow(self):
        with self.assertNumQueries(13):
            self.inspect(self.data)
        more = [{"kind": "end", "id": f"e{i}",
                 "prompt": {"kind": "text", "text": f"Words {i}"}} for i in range(60)]  # fmt: skip
        self.data["steps"] += more
        with self.assertNumQueries(13):
            self.inspect(self.data)

    def test_publishing_makes_numbered_versions_and_speaks_every_text(self):
        first = publish(self.admin, self.flow, 1, "first")
        self.flow.refresh_from_db()
        self.data["steps"][0]["prompt"]["text"] = "Good evening."
        saved = save_draft(self.admin, self.flow, self.flow.revision, self.data)
        self.assertEqual(self.inspect(self.data)["changes"], 1)
        second = publish(self.admin, saved, saved.revision, "second")
        self.assertEqual((first.number, second.number), (1, 2))
        kept = Version.objects.get(pk=first.pk).definition["steps"][0]["prompt"]["text"]
        self.assertEqual(kept, "Hello.")
        self.assertGreater(self.inspect(self.data)["stops"][0]["seconds"], 0.3)

    def test_findings_that_block_keep_a_flow_from_being_published(self):
        self.data["steps"][0]["next"] = "nowhere"
        saved = save_draft(self.admin, self.flow, 1, self.data)
        with self.assertRaisesRegex(NotPublishable, "leads to a stop that does not exist"):
            publish(self.admin, saved, saved.revision, "")
        self.assertFalse(Version.objects.exists())

    def test_publishing_answers_that_the_exchange_is_away(self):
        answer = self.client.post(f"{self.url}/publish", {"revision": 1}).json()
        self.assertEqual((answer["version"]["number"], answer["in_effect"]), (1, None))

    def test_only_what_the_author_saw_is_published(self):
        answer = self.client.post(f"{self.url}/publish", {"revision": 7})
        self.assertEqual((answer.status_code, answer.json()["code"]), (409, "stale"))

    def test_a_queue_in_a_flow_in_force_cannot_be_deleted(self):
        publish(self.admin, self.flow, 1, "")
        self.flow.refresh_from_db()
        empty = {"start": None, "steps": []}
        save_draft(self.admin, self.flow, self.flow.revision, empty)
        uses = self.client.get(f"/api/v1/queues/{self.queue.pk}/uses").json()
        self.assertEqual(uses[0]["how"], "flow in force")
