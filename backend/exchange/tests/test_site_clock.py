"""The site's clock, what a supervisor sees of the floor, and writing by thousands."""

import json
from datetime import UTC, datetime, timedelta
from unittest import mock

from django.test import SimpleTestCase, TestCase
from django.utils import timezone

from agents.models import Notice
from agents.services import notices
from diversions.models import Diversion
from exchange.live import journal
from exchange.live.tables import copy_in, update_from
from exchange.models import Command, Contact, StandIns
from exchange.reach import Reach, within
from exchange.site_clock import SiteClock, wall_ms
from testkit import people


class ClockTests(SimpleTestCase):
    def test_it_is_the_walls_until_it_runs_faster_and_never_goes_back(self):
        clock = SiteClock()
        self.assertEqual(clock.at(5_000), 5_000)
        fast = clock.at_speed(60, 5_000)
        self.assertEqual((fast.at(5_000), fast.at(6_000)), (5_000, 65_000))
        slow = fast.at_speed(1, 6_000)
        self.assertEqual((slow.at(6_000), slow.at(7_000)), (65_000, 66_000))

    def test_a_machine_whose_clock_is_set_back_does_not_take_waits_back(self):
        before = wall_ms()
        with mock.patch("exchange.site_clock.time.time_ns", return_value=0):
            self.assertGreaterEqual(wall_ms(), before)
        self.assertLess(abs(wall_ms() - before), 5_000)

    def test_a_supervisor_is_told_of_their_own_agents_and_alerts(self):
        agents = {"a": {"team_id": "t1"}, "b": {"team_id": "t2"}}
        alerts = {
            name: {"queue": queue, "teams": teams}
            for name, queue, teams in (
                ("all", "", []),
                ("own", "q1", []),
                ("foreign", "q2", []),
                ("for us", "q2", ["t1", "t3"]),
                ("for others", "q1", ["t2"]),
            )
        }
        mine = Reach(frozenset({"t1"}), frozenset({"q1"}))
        floor = {"topic": "floor", "data": {"agents": agents, "queues": {"q": 1}}}
        self.assertEqual(within(Reach(None, None), floor), floor)
        seen = within(mine, floor)["data"]
        self.assertEqual((list(seen["agents"]), seen["queues"]), (["a"], {"q": 1}))
        data = {"alarms": agents, "alerts": alerts, "figures": {"f": 1}}
        seen = within(mine, {"topic": "strip", "data": data})["data"]
        self.assertEqual((list(seen["alarms"]), seen["figures"]), (["a"], {"f": 1}))
        self.assertEqual(list(seen["alerts"]), ["all", "own", "for us"])
        change = {"topic": "floor", "set": {"agents": {"b": agents["b"]}}, "gone": {}}
        self.assertEqual(within(mine, change)["set"]["agents"], {})


class StandInTests(TestCase):
    def setUp(self):
        self.client = people.client_of(people.person())

    def test_the_speed_is_kept_with_the_moment_from_which_it_counts(self):
        told = self.client.patch("/api/v1/stand-ins", {"speed": 30}).json()
        self.assertEqual(told["speed"], 30)
        clock = journal.site_clock("main")
        self.assertEqual(clock.speed, 30)
        self.assertEqual(clock.at(clock.from_ms + 1000), clock.since_ms + 30_000)
        self.client.patch("/api/v1/stand-ins", {"fax": False})
        self.assertEqual(journal.site_clock("main"), clock)
        self.assertFalse(journal.crowd_settings("main").fax)
        self.assertEqual(self.client.patch("/api/v1/stand-ins", {"speed": 7}).status_code, 400)

    def test_notices_and_diversions_go_by_it(self):
        ahead = wall_ms() + 3_600_000
        StandIns.objects.create(site="main", speed=60, clock_from_ms=wall_ms(), clock_since_ms=ahead)
        soon = datetime.fromtimestamp(ahead / 1000 - 1800, UTC).isoformat()
        refused = self.client.post("/api/v1/notices", {"text": "Boats are late.", "until": soon})
        self.assertEqual(refused.status_code, 400, "it has passed by the centre's clock")
        Notice.objects.create(text="Over", until=soon)
        Diversion.objects.create(
            reason="Storm",
            where="outside",
            outside="+441632960111",
            begins=timezone.now() + timedelta(minutes=20),
        )
        self.assertEqual(notices(), [])
        told = self.client.get("/api/v1/diversions").json()["results"]
        self.assertEqual([d["state"] for d in told], ["in force"])

    def test_a_reset_forgets_contacts_of_its_site_and_nobody_elses(self):
        StandIns.objects.create(site="main", speed=5, clock_from_ms=1, clock_since_ms=1)
        for site in ("main", "other"):
            Contact.objects.create(id=site, site=site, number="1", caller="2", flow="", arrived_ms=1)
        journal.forget_everything("main")
        self.assertEqual(list(Contact.objects.values_list("site", flat=True)), ["other"])
        self.assertEqual(journal.site_clock("main"), SiteClock())


class TableTests(TestCase):
    def test_rows_go_in_and_change_each_to_values_of_their_own(self):
        words = 'a "b"\t, \\ and\n'
        copy_in(
            Contact,
            ("id", "site", "number", "caller", "flow", "arrived_ms", "ending", "consult_of"),
            ((f"c{n}", "main", "1", words, "", n, "", "") for n in range(3)),
        )
        self.assertEqual(Contact.objects.get(pk="c2").caller, words)
        update_from(
            Contact,
            {"id": "text", "ended_ms": "bigint", "ending": "text"},
            [("c0", 5, "person"), ("c1", 6, "hung_up")],
        )
        found = Contact.objects.order_by("pk").values_list("ended_ms", "ending")
        self.assertEqual(list(found), [(5, "person"), (6, "hung_up"), (None, "")])

    def test_json_comes_out_as_it_went_in(self):
        now = timezone.now()
        made = [Command.objects.create(site="main", kind="x", body={}, expires_at=now) for _ in range(2)]
        answers = [{"a": "ä\\n"}, {"b": [1, None]}]
        rows = [(c.pk, json.dumps(a), now) for c, a in zip(made, answers, strict=True)]
        types = {"id": "bigint", "answer": "jsonb", "answered_at": "timestamptz"}
        update_from(Command, types, rows)
        self.assertEqual([Command.objects.get(pk=c.pk).answer for c in made], answers)
