from datetime import timedelta

from django.test import TestCase
from django.utils import timezone

from callcore.tests.flows import short_line
from diversions import services
from flows.services import publish
from testkit import people


class DiversionTests(TestCase):
    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)
        queue = people.queue(self.admin)
        self.flow = people.flow(self.admin, short_line(queue.pk))
        self.number = people.number(self.admin, self.flow)

    def make(self, **values):
        body = {
            "reason": "Storm",
            "numbers": [str(self.number.pk)],
            "where": "outside",
            "outside": "01632 960111",
            **values,
        }
        return self.client.post("/api/v1/diversions", body)

    def test_a_diversion_counts_at_once_and_until_it_is_lifted(self):
        made = self.make().json()
        self.assertEqual((made["state"], made["to"]), ("in force", "01632 960111"))
        (facts,) = services.rules()
        self.assertEqual((facts.numbers, facts.to), (("Main line",), "01632 960111"))
        uses = self.client.get(f"/api/v1/numbers/{self.number.pk}/uses").json()
        self.assertEqual(uses[0]["how"], "diverted")
        lifted = self.client.post(f"/api/v1/diversions/{made['id']}/lift", {"revision": 1}).json()
        self.assertEqual(lifted["state"], "lifted")
        self.assertEqual(services.rules(), [])
        again = self.client.post(f"/api/v1/diversions/{made['id']}/lift", {"revision": 2})
        self.assertEqual((again.status_code, again.json()["code"]), (409, "over"))

    def test_one_can_be_set_for_later_and_ends_by_itself(self):
        now = timezone.now()
        made = self.make(begins=now + timedelta(hours=1), until=now + timedelta(hours=2)).json()
        self.assertEqual(made["state"], "coming")
        (facts,) = services.rules()
        moments = [now + timedelta(minutes=m) for m in (0, 60, 119, 121)]
        self.assertEqual([facts.rule.in_force(m) for m in moments], [False, True, True, False])

    def test_what_does_not_fit_is_refused_at_its_field(self):
        text = people.number(self.admin, None, "+447700900100")
        text.channel = "text"
        text.save()
        plan = people.flow(self.admin, {"purpose": "plan", "steps": []}, "Waiting")
        texts = people.flow(self.admin, {"channel": "text", "steps": []}, "Texts")
        past = timezone.now() - timedelta(minutes=1)
        bad = [
            ({"outside": "hello"}, "outside", "is not a telephone number"),
            ({"outside": ""}, "outside", "Type the number"),
            ({"where": "mailbox"}, "mailbox", "Choose the mailbox"),
            ({"where": "flow", "flow": str(self.flow.pk)}, "flow", "is not in force"),
            ({"where": "flow", "flow": str(plan.pk)}, "flow", "waiting plan"),
            ({"then": "flow", "then_flow": str(texts.pk)}, "then_flow", "text messages only"),
            ({"then": "flow"}, "then_flow", "Choose what follows"),
            ({"numbers": []}, "numbers", "may not be empty"),
            ({"numbers": [str(text.pk)]}, "numbers", "takes text messages"),
            ({"until": past}, "until", "must be ahead"),
            ({"ring_s": 1}, "ring_s", "greater than"),
        ]
        for values, field, words in bad:
            with self.subTest(values):
                answer = self.make(**values)
                self.assertEqual(answer.status_code, 400)
                self.assertIn(words, str(answer.json()["fields"][field]))

    def test_a_flow_that_callers_are_diverted_to_cannot_be_deleted(self):
        publish(self.admin, self.flow, 1, "")
        other = people.number(self.admin, None, "+441632960100")
        self.make(where="flow", flow=str(self.flow.pk), numbers=[str(other.pk)])
        uses = self.client.get(f"/api/v1/flows/{self.flow.pk}/uses").json()
        self.assertIn("diversion", [use["how"] for use in uses])
