"""Reports as the API gives them: figures that open, files, rights, and what cannot be asked."""

import io
from datetime import date, timedelta
from unittest.mock import patch

import openpyxl
from django.conf import settings
from django.core.cache import cache

from accounts.models import Role, User
from agents.models import Agent, Team
from agents.services import set_teams
from callcore.events import encode, facts
from callcore.events.codec import KINDS
from callcore.measures.catalogue import QUEUE_MEASURES
from callcore.measures.rows import INTERVAL_MS
from changelog.config_store import change, create
from exchange import past
from exchange.models import Journal
from exchange.services import set_site_clock, settle_stand_ins
from exchange.tests.test_past import NOW, CentreTestCase
from flows.models import Flow
from queues.models import Queue
from reports import growing
from reports.models import SavedReport
from reports.own_report import ROWS, usual
from reports.own_rows import SUBJECTS, USUAL
from testkit import people
from wrapup.models import Code, CodeSet

SITE = settings.EXCHANGE_SITE
DAY = {"first": "2026-11-25", "last": "2026-11-25"}


class ReportTestCase(CentreTestCase):
    """A centre with most of an hour behind it."""

    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        admin = User.objects.get(username=Role.ADMINISTRATOR)
        people.queue(admin, "Refunds", *Agent.objects.all())
        names = {"11": "New booking", "14": "Refund asked for"}
        codes = [create(admin, Code, name=name, digits=digits) for digits, name in names.items()]
        booking = Queue.objects.get(name="Bookings")
        code_set = create(admin, CodeSet, name="Booking codes", codes=codes)
        change(admin, booking, booking.revision, code_set=code_set)
        settle_stand_ins(on=True, agents=3, seed=4, load=18.0, people={"sent_on": 0.3})
        set_site_clock(NOW + 2_400_000)
        past.live_through_today(lambda _percent: None)
        while growing.catch_up(SITE):
            pass
        cls.queue = str(Queue.objects.get(name="Bookings").pk)

    def setUp(self):
        self.client = people.client_of(people.person(Role.READ_ONLY))

    def get(self, name, status=200, **asked):
        answer = self.client.get(f"/api/v1/reports/{name}", {**DAY, **asked})
        self.assertEqual(answer.status_code, status, answer.content[:300])
        return answer.json() if "json" in answer["Content-Type"] else answer


class QueueReportTests(ReportTestCase):
    def test_every_row_reconciles_and_rows_come_to_the_total(self):
        for by in ("15", "60", "day"):
            told = self.get("queues", queues=self.queue, by=by)
            rows = [row["figures"] for row in told["rows"]]
            for figures in (*rows, told["total"]["figures"]):
                ways = ("answered", "abandoned", "messages", "callbacks", "elsewhere", "ended", "under_way")
                self.assertEqual(figures["offered"], sum(figures[way] for way in ways))
            self.assertEqual(sum(f["offered"] for f in rows), told["total"]["figures"]["offered"])
            self.assertEqual(
                max(f["wait_longest"] or 0 for f in rows), told["total"]["figures"]["wait_longest"]
            )
        self.assertGreater(told["total"]["figures"]["answered"], 5)

    def test_where_nobody_came_there_is_no_share_and_no_average(self):
        told = self.get("queues", first="2026-11-20", last="2026-11-20")
        figures = told["total"]["figures"]
        self.assertEqual((figures["level"], figures["wait_average"], figures["offered"]), (None, None, 0))
        self.assertEqual(told["sentence"], "")

    def test_what_is_not_over_says_so(self):
        rows = self.get("queues", by="60")["rows"]
        self.assertEqual([n for n, row in enumerate(rows) if row["running"]], [0])

    def test_each_figure_opens_to_as_many_contacts_as_it_counts(self):
        total = self.get("queues", queues=self.queue)["total"]["figures"]
        for key, measure in QUEUE_MEASURES.items():
            told = self.get("queues/sum", queues=self.queue, figure=key, limit=500)
            self.assertEqual(told["value"], total[key], key)
            self.assertEqual(told["count"], len(told["contacts"]))
            if measure.unit == "count":
                self.assertEqual(told["count"], total[key], key)
        told = self.get("queues/sum", queues=self.queue, figure="level")
        self.assertEqual([level["formula"] for level in told["levels"]], ["A", "B", "C", "D"])
        self.assertEqual(told["value"], told["over_sum"] / told["under_sum"])

    def test_of_a_part_of_the_day_only_that_part_counts(self):
        quarter = self.get("queues", by="15", until="00:15")
        self.assertEqual(len(quarter["rows"]), 1)
        row = quarter["rows"][0]
        self.assertEqual(row["end_ms"] - row["begin_ms"], INTERVAL_MS)
        opened = self.get("queues/sum", figure="offered", until="00:15", limit=500)
        self.assertEqual(opened["value"], row["figures"]["offered"])
        self.assertTrue(all(one["at_ms"] < row["end_ms"] for one in opened["contacts"]))
        none = self.get("queues", weekdays="0")
        self.assertEqual(none["rows"], [])

    def test_a_threshold_that_was_changed_counts_from_then_on_and_both_are_told(self):
        admin = people.person(name="other")
        queue = Queue.objects.get(name="Bookings")
        change(admin, queue, queue.revision, threshold_s=1, formula="B")
        before = self.get("queues", queues=self.queue)
        self.assertEqual(len(before["limits"]), 1, "what is over stays as it counted")
        set_site_clock(NOW + 4_000_000)
        past_days = [past.Day(1, 30.0, 3, past.Traits())]
        list(past.live_through_days(past_days, growing.count))
        growing.all_is_counted(SITE)
        told = self.get("queues", queues=self.queue, first="2026-11-24", last="2026-11-24")
        self.assertEqual([limit["threshold_ms"] for limit in told["limits"]], [1000])

    def test_rows_and_hours_below_the_goal_of_the_one_queue_say_so(self):
        queue = Queue.objects.get(name="Bookings")
        level = self.get("queues", queues=self.queue)["total"]["figures"]["level"]
        for goal, missed in ((int(level * 100), False), (int(level * 100) + 1, True)):
            queue = change(people.person(name=f"goal{goal}"), queue, queue.revision, goal_percent=goal)
            total = self.get("queues", queues=self.queue)["total"]
            self.assertEqual(total["below_goal"], missed, (level, goal))
            cells = self.get("hours", queues=self.queue)["cells"]
            self.assertEqual(
                {c["below_goal"] for c in cells}, {(c["level"] or 1) * 100 < goal for c in cells}
            )
        rows = (*self.get("queues")["rows"], *self.get("hours")["cells"])
        self.assertFalse(any(row["below_goal"] for row in rows), "queues together have no goal")

    def test_files_can_be_read_back(self):
        sheet = self.get("queues/sheet", queues=self.queue, by="60", **{"as": "xlsx"})
        book = openpyxl.load_workbook(io.BytesIO(sheet.content))
        rows = list(book["Report"].values)
        heads = {name: at for at, name in enumerate(rows[0])}
        total = self.get("queues", queues=self.queue)["total"]["figures"]
        self.assertEqual(rows[-1][heads["Answered"]], total["answered"])
        self.assertEqual(rows[-1][heads["Longest wait"]], timedelta(milliseconds=total["wait_longest"]))
        self.assertEqual(rows[1][heads["From"]].isoformat(), "2026-11-25T00:00:00")
        self.assertIn(
            "answered ÷",
            " ".join(str(row[1]) for row in book["Definitions"].values).replace(
                "waits of the answered ÷ answered", "answered ÷"
            ),
        )
        lines = self.get("queues/sheet", by="60", **{"as": "csv"}).content.decode().splitlines()
        self.assertEqual(len(lines), 1 + 24 + 1)

    def test_what_cannot_be_asked_is_refused_where_it_stands(self):
        for name, asked, field in (
            ("queues", {"first": "2026-13-01"}, "first"),
            ("queues", {"last": "2026-11-01"}, "last"),
            ("queues", {"last": "2029-11-01"}, "last"),
            ("queues", {"first": "0001-01-01"}, "first"),
            ("queues", {"by": "7"}, "by"),
            ("queues", {"queues": "all"}, "queues"),
            ("queues", {"from": "9"}, "from"),
            ("queues", {"until": "00:00"}, "until"),
            ("queues", {"weekdays": "8"}, "weekdays"),
            ("queues", {"period": "ever"}, "period"),
            ("queues", {"by": "15", "first": "2026-01-01"}, "by"),
            ("queues/sum", {"figure": "luck"}, "figure"),
            ("queues/sum", {"figure": "offered", "begin_ms": "1"}, "begin_ms"),
            ("queues/sum", {"figure": "offered", "limit": "-1"}, "limit"),
            ("queues/sheet", {"as": "doc"}, "as"),
            ("codes/contacts", {"hour": "24"}, "hour"),
            ("queues", {"colour": "red"}, "colour"),
            ("own", {"rows": "luck"}, "rows"),
            ("own", {"columns": "offered,luck"}, "columns"),
            ("own", {"columns": "offered,offered"}, "columns"),
            ("own", {"rows": "15", "first": "2026-01-01"}, "rows"),
        ):
            with self.subTest(name=name, **asked):
                self.assertIn(field, self.get(name, 400, **asked)["fields"])

    def test_agents_read_no_reports(self):
        self.client = people.client_of(Agent.objects.first().user)
        for name in ("queues", "queues/sum", "codes", "agents", "hours", "usage", "measures"):
            self.get(name, 403)


class OwnReportTests(ReportTestCase):
    COLUMNS = "offered,answered,wait_longest,wait_average,level"

    def test_however_it_is_cut_it_comes_to_the_same(self):
        whole = self.get("queues")["total"]["figures"]
        for rows in (rows for rows in ROWS if SUBJECTS[rows] == "queues"):
            told = self.get("own", rows=rows, columns=self.COLUMNS)
            with self.subTest(rows):
                self.assertEqual(
                    told["total"]["figures"], {key: whole[key] for key in self.COLUMNS.split(",")}
                )
                offered = [row["figures"]["offered"] for row in told["rows"]]
                self.assertEqual(sum(offered), whole["offered"])

    def test_what_is_filtered_out_is_no_row(self):
        told = self.get("own", rows="weekday", first="2026-11-23", weekdays="0,2")
        self.assertEqual([row["label"] for row in told["rows"]], ["Monday", "Wednesday"])
        told = self.get("own", rows="hour", **{"from": "08:00", "until": "10:00"})
        self.assertEqual([row["label"][:5] for row in told["rows"]], ["08:00", "09:00"])

    def test_a_row_of_a_queue_is_what_its_own_report_says(self):
        names = {str(queue.pk): queue.name for queue in Queue.objects.all()}
        told = {row["label"]: row for row in self.get("own", until="00:05")["rows"]}
        self.assertEqual(set(told), set(names.values()))
        for queue, name in names.items():
            own = self.get("queues", queues=queue, until="00:05")["total"]["figures"]
            figures = told[name]["figures"]
            self.assertEqual(list(figures), [*USUAL["queues"]])
            self.assertEqual(figures, {key: own[key] for key in figures})

    @patch("reports.more_api.site_clock_ms", lambda: NOW + 2_400_000)
    @patch("reports.tables.site_clock_ms", lambda: NOW + 2_400_000)
    def test_agents_codes_and_numbers_have_the_figures_of_their_own_reports(self):
        reports = {
            "agent": ("agents", "rows", "total"),
            "code": ("codes", "codes", "total"),
            "number": ("usage", "numbers", "numbers_total"),
        }
        for rows, (name, those, total) in reports.items():
            report, told = self.get(name), self.get("own", rows=rows)
            for one, other in zip(
                (*told["rows"], told["total"]), (*report[those], report[total]), strict=True
            ):
                figures = {key: other[key] for key in usual(rows) if key in other}
                self.assertGreater(len(figures), 2)
                self.assertEqual({key: one["figures"][key] for key in figures}, figures)
        teams = self.get("own", rows="team")
        self.assertEqual([row["label"] for row in teams["rows"]], ["Without a team"])
        self.assertEqual(teams["rows"][0]["figures"], teams["total"]["figures"])

    def test_figures_of_one_thing_are_none_of_another(self):
        self.get("own", 400, rows="agent", columns="offered")
        self.get("own", 400, rows="queue", columns="occupancy")
        measures = self.client.get("/api/v1/reports/measures").json()
        for of in {one["of"] for one in measures}:
            rows = next(rows for rows, subject in SUBJECTS.items() if subject == of)
            keys = [one["key"] for one in measures if one["of"] == of]
            for first in range(0, len(keys), 20):
                self.get("own", rows=rows, columns=",".join(keys[first : first + 20]))

    def test_a_supervisor_puts_together_agents_of_their_own_teams(self):
        admin = people.person(name="chief")
        team = create(admin, Team, name="Evening line")
        mine = Agent.objects.order_by("extension").first()
        change(admin, mine, mine.revision, team=team)
        deepa = people.person(Role.SUPERVISOR, "deepa")
        set_teams(admin, deepa, [team])
        self.client = people.client_of(deepa)
        self.assertEqual([row["label"] for row in self.get("own", rows="agent")["rows"]], [mine.name])

    def test_it_is_kept_and_made_into_a_file_as_every_report(self):
        asked = {"rows": "hour", "columns": "level,offered"}
        sheet = self.get("own/sheet", **asked, **{"as": "xlsx"})
        rows = list(openpyxl.load_workbook(io.BytesIO(sheet.content))["Report"].values)
        self.assertEqual(rows[0], ("Row", "Service level", "Offered"))
        self.assertEqual((len(rows), rows[1][0], rows[-1][0]), (26, "00:00 – 01:00", "All"))
        saved = {"name": "By hour", "report": "own", "asked": asked}
        answer = self.client.post("/api/v1/reports/saved", saved)
        self.assertEqual(answer.status_code, 201, answer.json())
        kept = SavedReport.objects.get(name="By hour")
        SavedReport.objects.filter(pk=kept.pk).update(asked={"columns": "gone"})
        made = self.client.post(f"/api/v1/reports/saved/{kept.pk}/file").json()
        self.assertIn("There is no figure “gone”", made["error"])


class OtherReportTests(ReportTestCase):
    def test_codes_add_up_and_hand_overs_open(self):
        told = self.get("codes")
        self.assertEqual(told["legs"], sum(code["legs"] for code in told["codes"]))
        self.assertEqual(told["handed_on"], sum(cell["count"] for cell in told["matrix"]))
        self.assertGreater(told["handed_on"], 0)
        for cell in told["matrix"]:
            opened = self.get("codes/contacts", code=cell["first"], second=cell["second"])
            self.assertEqual(opened["count"], cell["count"])
        for code in told["codes"]:
            self.assertEqual(self.get("codes/contacts", code=code["code"])["count"], code["legs"])
        for row in told["hours"]:
            opened = self.get("codes/contacts", code=row["code"], hour=0)
            self.assertEqual(opened["count"], row["counts"][0])
        self.assertEqual(self.get("codes/contacts")["count"], told["total"]["legs"])
        passed_on = self.get("codes/contacts", passed_on="yes")
        self.assertEqual(passed_on["count"], told["total"]["handed_on"])

    @patch("reports.more_api.site_clock_ms", lambda: NOW + 2_400_000)
    @patch("reports.api.site_clock_ms", lambda: NOW + 2_400_000)
    def test_figures_of_agents_open_to_as_many_contacts_as_they_count(self):
        told = self.get("agents")
        for row in (*told["rows"], told["total"]):
            agent = {"agent": row["agent"]} if row["agent"] else {}
            for key in ("legs", "handed_on", "coded", *(["missed"] if agent else [])):
                opened = self.get("agents/sum", figure=key, limit=500, **agent)
                self.assertEqual((opened["value"], opened["count"]), (row[key], row[key]), key)
                self.assertEqual(len(opened["contacts"]), row[key])
            opened = self.get("agents/sum", figure="occupancy", **agent)
            self.assertAlmostEqual(opened["over_sum"] / opened["under_sum"], row["occupancy"])
        self.get("agents/sum", 400, figure="luck")
        deepa = people.person(Role.SUPERVISOR, "deepa")
        self.client = people.client_of(deepa)
        self.get("agents/sum", 403, figure="legs", agent=told["rows"][0]["agent"])

    @patch("reports.more_api.site_clock_ms", lambda: NOW + 2_400_000)
    def test_an_agents_states_add_up_to_the_time_signed_in(self):
        told = self.get("agents")
        self.assertEqual(len(told["rows"]), 3)
        for row in (*told["rows"], told["total"]):
            states = ("available", "ringing", "on_contact", "wrapping", "away")
            self.assertEqual(row["signed_in_ms"], sum(row[f"{state}_ms"] for state in states))
        for row in told["rows"]:
            day = self.get(f"agents/{row['agent']}/day")
            self.assertEqual(day["row"], row)
            spans = sum(span["until_ms"] - span["from_ms"] for span in day["spans"])
            self.assertEqual(spans, row["signed_in_ms"])
            self.assertEqual(row["legs"], sum(queue["legs"] for queue in day["queues"]))

    def test_a_supervisor_looks_at_the_days_of_their_own_teams(self):
        admin = people.person(name="chief")
        team = create(admin, Team, name="Evening line")
        mine, other = Agent.objects.order_by("extension")[:2]
        change(admin, mine, mine.revision, team=team)
        deepa = people.person(Role.SUPERVISOR, "deepa")
        set_teams(admin, deepa, [team])
        self.client = people.client_of(deepa)
        self.assertEqual([row["agent"] for row in self.get("agents")["rows"]], [str(mine.pk)])
        self.get(f"agents/{mine.pk}/day")
        self.get(f"agents/{other.pk}/day", 403)

    @patch("reports.more_api.site_clock_ms", lambda: NOW + 2_400_000)
    @patch("reports.own_api.site_clock_ms", lambda: NOW + 2_400_000)
    @patch("reports.own_api.today", lambda: date(2026, 11, 25))
    def test_an_agent_sees_their_own_day_as_reports_count_it(self):
        row = self.get("agents")["rows"][0]
        agent = Agent.objects.get(pk=row["agent"])
        agent.user = people.person(Role.AGENT, "nerys")
        agent.save()
        self.client = people.client_of(agent.user)
        told = self.client.get("/api/v1/desk/day").json()
        self.assertEqual(told["row"], row)
        self.assertTrue(0 < len(told["contacts"]) <= 5)
        self.client = people.client_of(people.person(Role.SUPERVISOR, "deepa"))
        self.assertEqual(self.client.get("/api/v1/desk/day").status_code, 409)

    @patch("reports.now_api.site_clock_ms", lambda: NOW + 2_400_000)
    @patch("reports.now_api.today", lambda: date(2026, 11, 25))
    def test_what_happens_now_beside_the_queues(self):
        cache.delete("floor-now")
        told = self.client.get("/api/v1/floor/now").json()
        used = self.get("usage")["numbers"]
        arrived = [(one["number"], one["arrived"]) for one in used if one["arrived"]]
        self.assertEqual([(one["number"], one["arrived"]) for one in told["numbers"]], arrived)
        self.assertAlmostEqual(sum(code["share"] for code in told["codes"]), 1)
        self.assertIn("No code", {code["name"] for code in told["codes"]})

    def test_a_day_tells_what_supervisors_did_and_what_was_written(self):
        agent = Agent.objects.first()
        at_ms = NOW + 60_000
        told = (
            facts.Steered("7", "Deepa", "serve", queues=(self.queue,)),
            facts.Steered("7", "Deepa", "away", reason="Training"),
            facts.Said("", "Ann", "The fare page shows an error."),
        )
        for number, fact in enumerate(told):
            Journal.objects.create(
                site=SITE,
                at_ms=at_ms + number,
                kind=str(KINDS[type(fact)]),
                agent=str(agent.pk),
                body=encode(fact),
            )
        day = self.get(f"agents/{agent.pk}/day")
        self.assertEqual(
            [(row["by"], row["act"], row["about"]) for row in day["told"]],
            [
                ("Deepa", "serve", "Bookings"),
                ("Deepa", "away", "Training"),
                ("Ann", "say", "The fare page shows an error."),
            ],
        )
        self.assertGreater(self.get("queues")["total"]["figures"]["offered"], 0)

    def test_stops_of_a_flow_lose_nobody(self):
        told = self.get(f"flows/{Flow.objects.get().pk}")
        stops = {stop["stop"]: stop for stop in told["stops"]}
        menu = stops["menu"]
        left = sum(arm["count"] for arm in menu["arms"]) + sum(e["count"] for e in menu["ends"])
        self.assertEqual(menu["callers"], left)
        to_queue = next(arm["count"] for arm in menu["arms"] if arm["exit"] == "key:1")
        offered = self.get("queues", queues=self.queue)["total"]["figures"]["offered"]
        handed_on = self.get("codes")["handed_on"]
        self.assertLessEqual(to_queue, offered)
        self.assertGreaterEqual(to_queue + handed_on, offered - 1)
        self.assertEqual(self.get(f"flows/{self.queue}")["stops"], [], "a flow that is gone")

    def test_hours_and_use_say_the_same_as_the_queues(self):
        offered = self.get("queues")["total"]["figures"]["offered"]
        hours = self.get("hours")
        self.assertEqual(sum(cell["offered"] for cell in hours["cells"]), offered)
        figures = self.get("queues")["total"]["figures"]
        self.assertEqual(sum(hours["answered"]), figures["answered"])
        self.assertEqual(sum(hours["abandoned"]), figures["abandoned"])
        number = self.get("usage")["numbers"][0]
        ends = ("person", "hung_up", "message", "elsewhere", "callback", "ended")
        self.assertGreaterEqual(number["arrived"], sum(number[end] for end in ends))
        self.assertGreater(number["person"], 0)
