"""How listed things stand, as the lists tell it."""

from unittest.mock import patch

from django.test import TestCase

from accounts.models import Role
from callcore.flow.definition import load
from callcore.hours.plan import Hours as Plan
from callcore.hours.plan import dump
from callcore.tests.flows import short_line
from changelog import config_store
from changelog.config_store import change
from flows.services import publish, save_draft
from opening_hours.models import Hours
from testkit import people


class GlanceTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.admin = people.person()
        cls.agent = people.agent(cls.admin, "Ann Vaughan", "4101")
        cls.hours = config_store.create(cls.admin, Hours, name="Office", **dump(Plan()))
        cls.queue = people.queue(cls.admin, "Bookings", cls.agent, hours=cls.hours)
        people.queue(cls.admin, "Refunds", cls.agent)
        cls.flow = people.flow(cls.admin, cls.asking(f"hours:{cls.hours.pk}"))
        publish(cls.admin, cls.flow, 1, "")
        cls.number = people.number(cls.admin, cls.flow)

    @classmethod
    def asking(cls, hours, inputs=()):
        """A flow that greets and then asks hours."""
        data = short_line(cls.queue.pk)
        for step in data["steps"]:
            if step["id"] == "hello":
                step["next"] = "open"
        asked = {"kind": "hours", "id": "open", "hours": hours, "open": "menu", "closed": "bye"}
        return {**data, "steps": [*data["steps"], asked], "inputs": [*inputs]}

    def one(self, kind, thing, role=Role.ADMINISTRATOR):
        user = self.admin if role == Role.ADMINISTRATOR else people.person(role)
        answer = people.client_of(user).get(f"/api/v1/glance/{kind}")
        self.assertEqual(answer.status_code, 200, answer.content[:200])
        return {row["id"]: row for row in answer.json()}[str(thing.pk)]

    def test_a_number_tells_the_hours_that_its_callers_meet_first(self):
        told = self.one("numbers", self.number)
        closed = {"name": "Office", "open": False, "words": "Closed, and stays so"}
        self.assertEqual((told["hours"], told["today"]), (closed, 0))
        other = people.flow(self.admin, short_line(self.queue.pk), "Plain")
        change(self.admin, self.number, self.number.revision, flow=other)
        self.assertIsNone(self.one("numbers", self.number)["hours"])

    def test_hours_that_a_number_brings_are_those_its_callers_meet(self):
        declared = {"name": "hours", "type": "hours", "label": "Hours"}
        flow = people.flow(self.admin, self.asking("value:hours", [declared]), "Each its own")
        publish(self.admin, flow, 1, "")
        values = {"hours": f"hours:{self.hours.pk}"}
        change(self.admin, self.number, self.number.revision, flow=flow, values=values)
        self.assertEqual(self.one("numbers", self.number)["hours"]["name"], "Office")
        self.number.refresh_from_db()
        change(self.admin, self.number, self.number.revision, values={})
        self.assertIsNone(self.one("numbers", self.number)["hours"])

    def test_a_flow_tells_its_numbers_and_whether_its_draft_differs(self):
        told = self.one("flows", self.flow)
        self.assertEqual((told["differs"], told["numbers"]), (False, ["Main line"]))
        changed = load(short_line(self.queue.pk))
        self.flow.refresh_from_db()
        save_draft(self.admin, self.flow, self.flow.revision, changed.model_dump(mode="json"))
        self.assertTrue(self.one("flows", self.flow)["differs"])
        draft = people.flow(self.admin, short_line(self.queue.pk), "Not yet")
        self.assertIsNone(self.one("flows", draft)["differs"])
        with patch("reports.now_api.snapshot", lambda _topic: {"data": {"here": {"menu": 2}}}):
            self.assertEqual(self.one("flows", self.flow)["now"], 2)

    def test_queues_tell_their_hours_and_agents_their_queues(self):
        self.assertEqual(self.one("queues", self.queue)["hours"]["name"], "Office")
        self.assertEqual(self.one("agents", self.agent)["queues"], ["Bookings", "Refunds"])

    def test_who_may_not_see_a_list_has_no_glance_at_it(self):
        self.one("queues", self.queue, Role.READ_ONLY)
        agent = people.client_of(self.agent.user)
        for kind in ("numbers", "flows", "queues", "agents"):
            self.assertEqual(agent.get(f"/api/v1/glance/{kind}").status_code, 403, kind)
