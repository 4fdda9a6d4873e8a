from datetime import timedelta

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.utils import timezone

from callcore.flow.definition import load
from callcore.tests.flows import short_line
from changelog.kinds import kind_named
from flows import services
from flows.models import Flow, Version
from flows.services import NotPublishable, publish, save_draft
from testkit import people


class FlowTests(TestCase):
    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)
        self.nerys = people.agent(self.admin, "Nerys Vaughan", "4101")
        self.queue = people.queue(self.admin, "Bookings", self.nerys)
        self.data = short_line(self.queue.pk)
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
            (
                {"steps": [{"kind": "queue", "id": "a", "queue": f"sound:{self.queue.pk}"}]},
                "this refers to a sound, where a queue is needed",
            ),
            (
                {"steps": [{"kind": "say", "id": "a", "prompt": {"kind": "text", "text": "x" * 2001}}]},
                "longer than 2000 characters",
            ),
            ({**self.data, "purpose": "plan"}, "stays what it is"),
            ("nonsense", "The flow"),
            (None, ""),
            ([1], "The flow"),
        ]
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
        self.assertEqual((finding["code"], finding["step"], finding["name"]), ("open-exit", "menu", "Menu"))
        self.assertEqual(finding["fix"]["patch"][1]["path"], "/steps/1/arms/0/next")
        stops = {stop["id"]: stop for stop in seen["stops"]}
        self.assertEqual(stops["wait"]["place"], "Bookings")
        self.assertEqual([e["name"] for e in stops["wait"]["exits"]], ["answered", "waited"])
        self.assertEqual(Flow.objects.get(pk=self.flow.pk).revision, 1)

    def test_inspection_tells_only_the_stops_that_have_changed(self):
        whole = self.inspect(self.data)
        self.assertEqual(whole["order"], [stop["id"] for stop in whole["stops"]])
        known = {stop["id"]: stop["mark"] for stop in whole["stops"]}

        def news():
            body = {"draft": self.data, "known": known}
            return self.client.post(f"{self.url}/inspect", body).json()

        again = news()
        self.assertEqual((again["stops"], again["order"]), ([], whole["order"]))
        self.assertEqual(again["findings"], whole["findings"])
        self.data["steps"][0]["prompt"]["text"] = "Good evening."
        self.assertEqual([stop["id"] for stop in news()["stops"]], [self.data["steps"][0]["id"]])
        self.data["steps"].append({"kind": "end", "id": "more"})
        self.assertIn("more", [stop["id"] for stop in news()["stops"]])

    def test_inspection_asks_the_database_no_more_for_a_longer_flow(self):
        with self.assertNumQueries(16):
            self.inspect(self.data)
        more = [
            {"kind": "end", "id": f"e{i}", "prompt": {"kind": "text", "text": f"Words {i}"}}
            for i in range(60)
        ]
        self.data["steps"] += more
        with self.assertNumQueries(16):
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


class OldDraftTests(TestCase):
    def test_a_draft_of_before_a_field_was_there_is_answered_whole(self):
        client = people.client_of(admin := people.person())
        queue = people.queue(admin)
        flow = people.flow(admin, short_line(queue.pk))
        for step in flow.draft["steps"]:
            step.pop("nobody", None)
        Flow.objects.filter(pk=flow.pk).update(draft=flow.draft)
        url = f"/api/v1/flows/{flow.pk}"
        (wait,) = (s for s in client.get(url).json()["draft"]["steps"] if s["kind"] == "queue")
        self.assertIsNone(wait["nobody"])


class TrialTests(TestCase):
    """Routes, trials on paper, and what they mean for publishing."""

    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)
        self.queue = people.queue(self.admin)
        self.data = short_line(self.queue.pk)
        self.flow = people.flow(self.admin, self.data)
        self.url = f"/api/v1/flows/{self.flow.pk}"

    def save(self, name="Bookings", keys=("1",), data=None):
        body = {"draft": data or self.data, "name": name, "setup": {"keys": list(keys)}}
        return self.client.post(f"{self.url}/trials", body)

    def changed(self):
        """The draft, with key 1 to the farewell."""
        self.data["steps"][1]["arms"][0]["next"] = "bye"
        return save_draft(self.admin, self.flow, None, self.data)

    def test_routes_come_with_their_shares_and_times(self):
        found = self.client.post(f"{self.url}/routes", {"draft": self.data}).json()
        self.assertEqual((found["total"], found["complete"]), (3, True))
        self.assertAlmostEqual(sum(r["share"] for r in found["listed"]), 1)
        self.assertEqual(found["listed"][0]["fate"], "person")

    def test_a_trial_is_run_step_by_step_and_keeps_nothing(self):
        body = {"draft": self.data, "setup": {}}
        waits = self.client.post(f"{self.url}/try", body).json()
        self.assertEqual((waits["open"], waits["ending"]), ("key", ""))
        body["setup"] = {"keys": ["1"], "pretend": {"waits": {f"queue:{self.queue.pk}": 40}}}
        over = self.client.post(f"{self.url}/try", body).json()
        self.assertEqual((over["ending"], over["place"]), ("person", "Bookings"))
        bad = self.client.post(f"{self.url}/try", {"draft": self.data, "setup": {"keys": ["?"]}})
        self.assertEqual(bad.status_code, 400)

    def test_a_saved_trial_that_goes_otherwise_blocks_publishing_until_a_reason_is_given(self):
        self.assertEqual(self.save().status_code, 201)
        self.assertIn("name", self.save().json()["fields"])
        saved = self.changed()
        (told,) = self.client.post(f"{self.url}/run-trials", {"draft": self.data}).json()
        self.assertFalse(told["passed"])
        body = {"revision": saved.revision, "note": "Key 1"}
        refused = self.client.post(f"{self.url}/publish", body)
        self.assertEqual((refused.status_code, refused.json()["code"]), (409, "trials-fail"))
        let_be = self.client.post(f"{self.url}/publish", {**body, "override": "The desk moved."})
        self.assertEqual(let_be.json()["version"]["overridden"], "The desk moved.")

    def test_what_happens_now_can_be_expected_from_now_on_and_a_trial_deleted(self):
        trial = f"/api/v1/trials/{self.save().json()['id']}"
        self.changed()
        self.assertEqual(self.client.post(trial, {"draft": self.data}).status_code, 204)
        (told,) = self.client.post(f"{self.url}/run-trials", {"draft": self.data}).json()
        self.assertTrue(told["passed"])
        self.assertEqual(self.client.delete(trial).status_code, 204)
        left = self.client.post(f"{self.url}/run-trials", {"draft": self.data}).json()
        self.assertEqual(left, [])

    def test_a_call_that_is_not_over_cannot_be_saved(self):
        self.data["steps"][1] |= {"no_key": "menu", "tries": None}
        waiting = {"waits": {f"queue:{self.queue.pk}": None}}
        people.config_store.change(self.admin, self.queue, None, longest_wait_s=None)
        body = {"draft": self.data, "name": "x", "setup": {"keys": ["1"], "pretend": waiting}}
        self.assertEqual(self.client.post(f"{self.url}/trials", body).json()["code"], "not-over")

    def test_two_hundred_trials_ask_the_database_no_more_than_one(self):
        self.save()
        for i in range(20):
            self.save(name=f"Trial {i}")
        with self.assertNumQueries(28):
            self.client.post(f"{self.url}/run-trials", {"draft": self.data})

    def test_a_version_can_be_dated_ahead_and_comes_into_force_by_itself(self):
        soon = timezone.now() + timedelta(hours=1)
        past = {"revision": 1, "at": timezone.now() - timedelta(minutes=1)}
        self.assertIn("at", self.client.post(f"{self.url}/publish", past).json()["fields"])
        publish(self.admin, self.flow, 1, "Summer", at=soon)
        self.assertEqual(services.promote_due(), soon)
        self.assertEqual(services.versions_in_force(), [])
        seen = self.client.get(self.url).json()
        self.assertEqual((seen["in_force"], seen["scheduled"]["number"]), (None, 1))
        Flow.objects.update(scheduled_at=timezone.now())
        self.assertIsNone(services.promote_due())
        self.assertEqual([v.number for v in services.versions_in_force()], [1])

    def test_a_dated_version_can_be_let_be(self):
        publish(self.admin, self.flow, 1, "", at=timezone.now() + timedelta(hours=1))
        done = self.client.post(f"{self.url}/unschedule", {"revision": 2}).json()
        self.assertIsNone(done["scheduled"])

    def test_versions_are_compared_in_words_and_brought_back(self):
        publish(self.admin, self.flow, 1, "")
        saved = self.changed()
        rows = self.client.get(f"{self.url}/compare?before=1").json()["changes"]
        self.assertEqual([(r["kind"], r["step"]) for r in rows], [("changed", "menu")])
        self.assertEqual(self.client.get(f"{self.url}/compare?before=9").status_code, 404)
        self.assertEqual(self.client.get(f"{self.url}/compare?before=x").status_code, 404)
        body = {"revision": saved.revision, "number": 1}
        back = self.client.post(f"{self.url}/bring-back", body).json()
        self.assertEqual(back["draft"]["steps"][1]["arms"][0]["next"], "wait")
        gone = {"revision": back["revision"], "number": 7}
        self.assertEqual(self.client.post(f"{self.url}/bring-back", gone).status_code, 404)

    def test_a_shared_block_in_use_is_named_and_its_versions_stay_apart(self):
        words = {"kind": "text", "text": "Hello.", "language": "en"}
        block = people.flow(
            self.admin,
            {
                "start": "say",
                "outputs": ["x"],
                "steps": [
                    {"kind": "set", "id": "say", "value": "x", "to": "1", "next": "end"},
                    {"kind": "end", "id": "end", "prompt": words},
                ],
            },
            "Block",
        )
        user = people.flow(
            self.admin,
            {
                "start": "use",
                "steps": [
                    {
                        "kind": "block",
                        "id": "use",
                        "flow": f"flow:{block.pk}",
                        "worked": "bye",
                        "not_worked": "bye",
                    },
                    {"kind": "end", "id": "bye"},
                ],
            },
            "User",
        )
        with self.assertRaisesRegex(NotPublishable, "is not in force yet"):
            publish(self.admin, user, 1, "")
        publish(self.admin, block, 1, "")
        publish(self.admin, user, 1, "")
        uses = self.client.get(f"/api/v1/flows/{block.pk}/uses").json()
        self.assertEqual([u["name"] for u in uses], ["User"])
        self.assertEqual(services.library(f"flow:{block.pk}", None), load(block.draft))
        self.assertIsNone(services.library(f"flow:{block.pk}", 7))


class FileTests(TestCase):
    """Flows out to a file and in from one."""

    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)
        self.queue = people.queue(self.admin)
        sound = {"name": "Hello", "recordings": [{"language": "en", "text": "Hello."}]}
        made = self.client.post("/api/v1/sounds", sound).json()
        data = short_line(self.queue.pk)
        data["steps"][0]["prompt"] = {"kind": "sound", "sound": f"sound:{made['id']}"}
        self.flow = people.flow(self.admin, data)
        self.url = f"/api/v1/flows/{self.flow.pk}/file"

    def send(self, what, text):
        data = text if isinstance(text, bytes) else text.encode()
        file = SimpleUploadedFile("flow.json", data)
        return self.client.post(f"/api/v1/flows/{what}", {"file": file}, format="multipart")

    def states(self, text):
        seen = self.send("preview", text).json()
        return {thing["name"]: thing["state"] for thing in seen["things"]}

    def test_a_file_says_what_it_brings_and_comes_in_whole(self):
        text = self.client.get(self.url).content.decode()
        self.assertEqual(self.states(text), {"Bookings": "same", "Hello": "same"})
        again = self.send("import", text).json()
        self.assertEqual((again["name"], again["draft"]), ("Main line 2", self.flow.draft))
        elsewhere = text.replace('"Bookings"', '"Freight"').replace("Hello.", "Good day.")
        self.assertEqual(self.states(elsewhere), {"Freight": "new", "Hello": "differs"})
        other = self.send("import", elsewhere).json()
        freight = kind_named("queue").model.objects.get(name="Freight")
        self.assertFalse(freight.finished)
        self.assertEqual(other["draft"]["steps"][2]["queue"], f"queue:{freight.pk}")

    def test_a_file_that_cannot_be_kept_leaves_nothing_behind(self):
        text = self.client.get(self.url).content.decode()
        spoilt = {'"hazeridge-flow"': '"x"', "Hello.": "a\\u0000b", '"wait_s"': '"wat_s"'}
        for bad in (b"\xff", "no json", "[]", *(text.replace(*pair) for pair in spoilt.items())):
            for what in ("preview", "import"):
                with self.subTest(what=what, bad=bad[:20]):
                    self.assertEqual(self.send(what, bad).status_code, 400)
        self.assertEqual(Flow.objects.count(), 1)

    def test_other_forms_come_out_and_unknown_ones_do_not(self):
        for form, words in (("scxml", b"<scxml"), ("voicexml", b"<vxml")):
            answer = self.client.get(f"{self.url}?form={form}")
            self.assertIn(words, answer.content)
            self.assertIn('filename="Main line.', answer["Content-Disposition"])
        self.assertEqual(self.client.get(f"{self.url}?form=pdf").status_code, 404)
        schema = self.client.get("/api/v1/schemas/flow-file").json()
        self.assertEqual(schema["title"], "FlowFile")
