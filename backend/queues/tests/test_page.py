"""The rest of a queue's settings, and the caller's clock that is computed from them."""

from django.test import TestCase

from agents.models import Skill
from callcore.events import Kind
from callcore.tests.flows import short_line
from changelog import config_store
from exchange.live import reading
from exchange.models import Journal
from testkit import people


class PageTests(TestCase):
    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)
        self.queue = people.queue(self.admin, "Bookings")

    def change(self, **values):
        url = f"/api/v1/queues/{self.queue.pk}"
        revision = self.client.get(url).json()["revision"]
        return self.client.patch(url, {"revision": revision, **values})

    def test_settings_of_talk_and_afterwards_reach_the_exchange(self):
        flow = people.flow(self.admin, short_line(self.queue.pk))
        other = people.queue(self.admin, "Groups")
        answer = self.change(
            recording="share",
            recording_percent=20,
            transcribed=True,
            survey=str(flow.pk),
            link="https://find.example/{caller}",
            overflow=f"queue:{other.pk}",
            channels=["voice"],
        )
        self.assertEqual(answer.status_code, 200, answer.content)
        settings = reading.read().queues[str(self.queue.pk)]
        self.assertEqual(settings.recording[:2], ("share", 20))
        self.assertEqual((settings.survey, settings.channels), (str(flow.pk), ("voice",)))
        uses = self.client.delete(f"/api/v1/queues/{other.pk}").json()["uses"]
        self.assertEqual(uses[0]["name"], "Bookings")
        self.assertEqual(self.client.delete(f"/api/v1/flows/{flow.pk}").status_code, 409)

    def test_a_part_is_written_whole_also_by_a_change_of_some_fields(self):
        skill = config_store.create(self.admin, Skill, name="Welsh history")
        answer = self.change(
            widening=[{"after_s": 8, "lower": 3}, {"after_s": 20}],
            required_skills=[{"skill": str(skill.pk), "least": 3}],
        )
        self.assertEqual(answer.status_code, 200, answer.content)
        self.queue.refresh_from_db()
        self.assertEqual(
            self.queue.widening,
            [{"after_s": 8, "lower": 3, "teams": []}, {"after_s": 20, "lower": 0, "teams": []}],
        )
        for name, rows in (("widening", [{"lower": 3}]), ("required_skills", [{"skill": str(skill.pk)}])):
            missing = self.change(**{name: rows})
            self.assertEqual(missing.status_code, 400, missing.content)
            self.assertIn("required", str(missing.json()["fields"]))

    def test_what_does_not_fit_is_refused_at_its_field(self):
        number = people.number(self.admin, people.flow(self.admin, short_line("x")))
        for name, value in {
            "link": "javascript:alert(1)",
            "channels": [],
            "overflow": f"queue:{self.queue.pk}",
            "recording": "secretly",
            "recording_percent": 0,
            "text_number": str(number.pk),
            "supervisors": [str(self.admin.pk)],
        }.items():
            with self.subTest(name):
                answer = self.change(**{name: value})
                self.assertEqual(answer.status_code, 400, answer.content)
                self.assertTrue(any(f.startswith(name) for f in answer.json()["fields"]))
        gone = self.change(overflow="mailbox:00000000-0000-4000-8000-000000000000")
        self.assertIn("does not exist", gone.json()["fields"]["overflow"][0])

    def test_the_clock_answers_for_settings_that_are_not_saved(self):
        body = {
            "longest_wait_s": 120,
            "widening": [{"after_s": 30, "lower": 2, "teams": []}],
            "overflow": f"queue:{self.queue.pk}",
        }
        told = self.client.post("/api/v1/queues/clock", body).json()
        self.assertEqual((told["end_s"], told["leaves"]), (120, True))
        self.assertEqual([m["kind"] for m in told["marks"]], ["music", "widens", "leaves"])
        self.assertEqual(told["marks"][-1]["words"], "goes on to Bookings")
        for bad in ({"longest_wait_s": 1}, {"widening": [{"after_s": 0}]}, {"plan": "x"}):
            self.assertEqual(self.client.post("/api/v1/queues/clock", bad).status_code, 400)

    def test_a_code_that_contacts_carry_is_retired_and_not_offered(self):
        code = self.client.post("/api/v1/codes", {"name": "Brochure", "digits": "77"}).json()
        made = self.client.post("/api/v1/code-sets", {"name": "Set", "codes": [code["id"]]}).json()
        self.change(code_set=made["id"])
        Journal.objects.create(site="main", at_ms=1, kind=str(Kind.CODED), body={"code": code["id"]})
        self.client.patch(f"/api/v1/code-sets/{made['id']}", {"revision": 1, "codes": []})
        refused = self.client.delete(f"/api/v1/codes/{code['id']}")
        self.assertIn("retire it", refused.json()["detail"])
        self.client.patch(f"/api/v1/code-sets/{made['id']}", {"revision": 2, "codes": [code["id"]]})
        queue = str(self.queue.pk)
        self.assertEqual(len(reading.read().codes_of(queue)), 1)
        self.client.patch(f"/api/v1/codes/{code['id']}", {"revision": 1, "retired": True})
        self.assertEqual(reading.read().codes_of(queue), [])
