import unittest
from collections import defaultdict

from callcore.events import Kind
from callcore.events import read as happened
from callcore.measures.figures import Figures
from callcore.measures.rows import INTERVAL_MS, Limits, QueueRow, below_goal
from callcore.measures.sums import PARTS, STATES, SUMS, added, figures_of
from callcore.measures.tallies import Amount, Counted, Steps

SECOND = 1000
LATE = {"queue": "q", "threshold_ms": 20 * SECOND, "short_ms": 5 * SECOND}


def contact(name, arrived, queued, *, answered=None, talked=0, left=None, why="hung_up"):
    """The events of one contact, times in seconds."""

    def event(at, kind, agent="", **body):
        return happened(at * SECOND, kind, name, agent, body)

    events = [event(arrived, Kind.ARRIVED, flow="f"), event(queued, Kind.QUEUED, **LATE)]
    if answered is not None:
        events.append(event(answered, Kind.ANSWERED, name, queue="q"))
        if talked:
            events.append(event(answered + talked, Kind.LEG_ENDED, name, queue="q"))
            events.append(event(answered + talked, Kind.AGENT, name, status="wrapping"))
            events.append(event(answered + talked + 10, Kind.CODED, name, code="7"))
    if left is not None:
        events.append(event(left, Kind.LEFT_QUEUE, queue="q", why=why))
        events.append(event(left + 1, Kind.ENDED, ending="ended"))
    return events


def folded(*contacts):
    fold = Figures()
    for event in sorted((e for events in contacts for e in events), key=lambda e: e.at_ms):
        fold.apply(event)
    return fold


class AgentFigureTests(unittest.TestCase):
    ROW = {
        "available_ms": 1_000,
        "ringing_ms": 500,
        "on_contact_ms": 4_000,
        "wrapping_ms": 500,
        "away_ms": 2_000,
        "legs": 4,
        "talk_ms": 3_000,
        "hold_ms": 1_000,
        "wrap_ms": 500,
        "handed_on": 1,
        "coded": 3,
        "missed": 1,
        "rang": 5,
    }

    def test_averages_and_shares_come_from_their_parts(self):
        figures = figures_of("agents", self.ROW)
        self.assertEqual(figures["signed_in_ms"], 8_000)
        self.assertEqual((figures["occupancy"], figures["handle_average_ms"]), (0.75, 1_125))
        self.assertEqual((figures["talk_average_ms"], figures["hold_average_ms"]), (750, 250))
        self.assertEqual((figures["coded_share"], figures["missed_share"]), (0.75, 0.2))
        self.assertEqual(sum(figures[f"{state}_share"] for state in STATES), 1)

    def test_where_there_is_nothing_to_divide_by_there_is_no_figure(self):
        empty = figures_of("agents", dict.fromkeys(self.ROW, 0))
        divided = {key for key, figure in SUMS["agents"].items() if figure.under}
        self.assertEqual({empty[key] for key in divided}, {None})
        self.assertEqual({value for key, value in empty.items() if key not in divided}, {0})

    def test_several_together_are_worked_out_from_their_parts_not_from_their_averages(self):
        other = {**dict.fromkeys(self.ROW, 0), "legs": 1, "talk_ms": 5_500}
        whole = added("agents", [self.ROW, other])
        self.assertEqual(SUMS["agents"]["handle_average_ms"].value(whole), 2_000)

    def test_a_formula_is_told_in_words_of_parts_that_there_are(self):
        figure = SUMS["agents"]["handle_average_ms"]
        self.assertEqual(figure.formula("agents"), "(talk + hold + wrap-up) ÷ parts of contacts")
        self.assertEqual(SUMS["agents"]["missed"].words("agents"), SUMS["agents"]["missed"].sentence)
        for subject, figures in SUMS.items():
            for figure in figures.values():
                named = {*figure.over, *figure.under, *([figure.contacts] if figure.contacts else [])}
                self.assertLessEqual(named, PARTS[subject].keys(), figure.key)


class ToldWaitTests(unittest.TestCase):
    def counted(self, *told, answered, left=None):
        """What is counted of a wait from 0 s on that was told at some moments."""
        steps, amounts = Steps(), defaultdict(Amount)

        def take(at, kind, **body):
            steps.apply(happened(at * SECOND, kind, "c", "", body), amounts.__getitem__)

        take(0, Kind.QUEUED, **LATE)
        for at, seconds in told:
            take(at, Kind.WAIT_TOLD, queue="q", seconds=seconds)
        if left is not None:
            take(left, Kind.LEFT_QUEUE, queue="q")
            take(left + 1, Kind.QUEUED, **LATE)
        take(answered, Kind.ANSWERED, queue="q")
        return {
            where.detail: (amount.count, amount.ms // SECOND)
            for where, amount in amounts.items()
            if where.what is Counted.TOLD
        }

    def test_a_wait_came_as_told_sooner_or_later(self):
        found = self.counted((10, 300), (200, 600), (400, 60), answered=410)
        # 400 s for 300, less by more than a minute and 30 %; 210 for 600; 10 for under two minutes.
        self.assertEqual(found, {"later": (1, 100), "sooner": (1, 390), "as_told": (1, 50)})

    def test_what_was_told_of_a_wait_that_was_given_up_counts_nowhere(self):
        self.assertEqual(self.counted((10, 300), left=50, answered=90), {})


class FoldTests(unittest.TestCase):
    def test_every_way_out_is_counted_once_and_offered_reconciles(self):
        fold = folded(
            contact("in time", 0, 5, answered=15, talked=60),
            contact("late", 0, 5, answered=45, talked=30),
            contact("short", 0, 5, left=8),
            contact("gave up late", 0, 5, left=65),
            contact("waited out", 0, 5, left=300, why="waited_out"),
            contact("still there", 0, 5),
        )
        row = fold.queue_total("q")
        self.assertEqual(
            (row.offered, row.answered, row.abandoned, row.left_otherwise, row.under_way), (6, 2, 2, 1, 1)
        )
        self.assertEqual((row.short_abandons, row.answered_late, row.abandoned_late), (1, 1, 1))
        self.assertEqual(
            (row.average_wait_ms, row.longest_answered_ms, row.longest_abandoned_ms),
            (25 * SECOND, 40 * SECOND, 60 * SECOND),
        )
        self.assertEqual((row.up_front_ms, row.talk_ms, row.wrap_ms), (10 * SECOND, 90 * SECOND, 20 * SECOND))
        self.assertEqual(fold.centre_total(), row)

    def test_moves_within_a_waiting_plan_are_counted_at_the_plan(self):
        fold = self.events(
            (0, Kind.ARRIVED, "a", "", {"flow": "main"}),
            (1, Kind.MOVED, "a", "", {"step": "hello", "exit": "next", "to": "wait"}),
            (2, Kind.MOVED, "a", "", {"step": "wait~tell", "exit": "next", "to": "wait~music", "plan": "p"}),
            (3, Kind.WENT_ON, "a", "", {"flow": "night"}),
            (4, Kind.MOVED, "a", "", {"step": "hello", "exit": "next", "to": "bye"}),
        )
        counted = {flow: dict(arms) for flow, arms in fold.arms.items()}
        self.assertEqual(
            counted,
            {"main": {("hello", "next"): 1}, "p": {("tell", "next"): 1}, "night": {("hello", "next"): 1}},
        )

    def test_ends_are_counted_at_the_flow_that_answered_and_what_colleagues_ask_nowhere(self):
        fold = self.events(
            (0, Kind.ARRIVED, "a", "", {"flow": "main"}),
            (1, Kind.WENT_ON, "a", "", {"flow": "night"}),
            (2, Kind.ENDED, "a", "", {"ending": "hung_up"}),
            (3, Kind.ARRIVED, "b", "", {"flow": "main"}),
            (4, Kind.ENDED, "b", "", {"ending": "ended"}),
            (5, Kind.ARRIVED, "c", "", {"flow": "main", "consult_of": "x"}),
            (6, Kind.ENDED, "c", "", {"ending": "ended"}),
            (7, Kind.ENDED, "d", "", {"ending": "ended"}),
        )
        counted = {flow: dict(ends) for flow, ends in fold.endings.items()}
        self.assertEqual(counted, {"main": {"hung_up": 1, "ended": 1}})
        self.assertEqual((fold.arrived, fold.ended), (2, 3))

    def test_a_quarter_of_an_hour_is_an_interval(self):
        fold = folded(contact("a", 0, 899), contact("b", 0, 900), contact("c", 0, 1_799))
        self.assertEqual({at: row.offered for (_, at), row in fold.rows.items()}, {0: 1, 1: 2})
        self.assertEqual(fold.lately("q", 900 * SECOND).offered, 2)
        self.assertEqual(fold.lately("", 899 * SECOND).offered, 3)
        self.assertEqual(fold.lately("q", 1_800 * SECOND).offered, 0)

    def test_given_up_within_the_first_seconds_is_short_and_at_their_end_it_is_not(self):
        fold = folded(contact("short", 0, 5, left=9), contact("long", 0, 5, left=10))
        row = fold.queue_total("q")
        self.assertEqual((row.abandoned, row.short_abandons), (2, 1))

    def test_whoever_waited_just_so_long_as_the_threshold_is_in_time(self):
        answered, left = contact("a", 0, 5, answered=25, talked=9), contact("b", 0, 5, left=25)
        later = contact("c", 0, 5, answered=26, talked=9), contact("d", 0, 5, left=26)
        row = folded(answered, left, *later).queue_total("q")
        self.assertEqual((row.answered, row.abandoned), (2, 2))
        self.assertEqual((row.answered_late, row.abandoned_late), (1, 1))

    def test_a_wait_is_late_from_the_first_moment_past_the_threshold(self):
        self.assertEqual(Limits(threshold_ms=20_000).late_from_ms(5_000), 25_001)

    def test_a_level_just_at_its_goal_meets_it_whatever_the_numbers_round_to(self):
        for percent in range(1, 101):
            self.assertFalse(below_goal(percent / 100, percent / 100))
            self.assertFalse(below_goal(7 * percent / 700, percent / 100))
            self.assertTrue(below_goal((percent - 0.01) / 100, percent / 100))
        self.assertFalse(below_goal(None, 0.8))
        self.assertFalse(below_goal(0.1, None))

    def test_what_happens_in_a_flow_counts_for_callers_whose_flow_is_known(self):
        moved = {"step": "hello", "exit": "next", "to": "bye"}
        fold = self.events(
            (0, Kind.ARRIVED, "b", "", {"flow": "main", "consult_of": "x"}),
            (1, Kind.MOVED, "b", "", moved),
            (2, Kind.MOVED, "unknown", "", moved),
        )
        self.assertEqual({flow: arms for flow, arms in fold.arms.items() if arms}, {})

    def test_who_goes_on_in_another_flow_after_the_line_went_elsewhere(self):
        fold = self.events(
            (0, Kind.ARRIVED, "a", "", {"flow": "main"}),
            (1, Kind.QUEUED, "a", "", {"queue": "q"}),
            (9, Kind.LEFT_QUEUE, "a", "", {"queue": "q", "why": "waited_out"}),
            (9, Kind.WENT_ON, "a", "", {"flow": "night"}),
            (20, Kind.ENDED, "a", "", {"ending": "ended"}),
        )
        row = fold.queue_total("q")
        self.assertEqual((row.elsewhere, row.ended), (1, 0))

    def test_a_code_counts_once_for_a_caller_and_not_among_colleagues(self):
        fold = self.events(
            (0, Kind.ARRIVED, "a", "", {"flow": "main"}),
            (1, Kind.CODED, "a", "ann", {"code": "7"}),
            (2, Kind.CODED, "a", "bea", {"code": ""}),
            (3, Kind.ARRIVED, "b", "", {"consult_of": "a"}),
            (4, Kind.CODED, "b", "cai", {"code": "7"}),
        )
        self.assertEqual(fold.coded, 1)

    def test_a_place_kept_by_a_callback_is_neither_answered_nor_given_up(self):
        row = folded(contact("back", 0, 5, left=50, why="callback")).queue_total("q")
        self.assertEqual((row.offered, row.callbacks, row.abandoned, row.under_way), (1, 1, 0, 0))

    def test_nothing_is_kept_of_contacts_that_are_over_and_labelled(self):
        over = happened(75 * SECOND, Kind.ENDED, "coded", "", {"ending": "person"})
        coded = [*contact("coded", 0, 5, answered=15, talked=60), over]
        fold = folded(coded, contact("gone", 0, 5, left=8))
        self.assertEqual((fold._accounts, fold._went_on, fold._flow), ({}, {}, {}))
        unlabelled = (
            (0, Kind.ARRIVED, "a", "", {"flow": "main"}),
            (1, Kind.QUEUED, "a", "", {"queue": "q"}),
            (2, Kind.WENT_ON, "a", "", {"flow": "night"}),
            (3, Kind.ANSWERED, "a", "ann", {"queue": "q"}),
            (9, Kind.LEG_ENDED, "a", "ann", {"queue": "q"}),
            (9, Kind.ENDED, "a", "", {"ending": "person"}),
        )
        fold = self.events(*unlabelled)
        self.assertEqual(list(fold._accounts), ["a"], "it may have a code yet")
        self.assertEqual((fold._went_on, fold._flow), ({}, {}))
        fold = self.events(*unlabelled, (12, Kind.AGENT, "", "ann", {"status": "available"}))
        self.assertEqual(fold._accounts, {}, "whoever is free again has nothing left to label")

    def test_what_began_before_the_day_counts_in_no_total_of_it(self):
        fold = folded(contact("old", 0, 5))
        fold.begin_day(1000 * INTERVAL_MS)
        later = 1000 * INTERVAL_MS // SECOND
        for event in (
            happened((later + 5) * SECOND, Kind.ANSWERED, "old", "ann", {"queue": "q"}),
            happened((later + 9) * SECOND, Kind.ENDED, "old", "", {"ending": "person"}),
        ):
            fold.apply(event)
        self.assertEqual(fold.centre_total(), QueueRow())
        self.assertEqual((fold.arrived, fold.ended, dict(fold.endings["f"])), (0, 1, {"person": 1}))

    def test_a_wrap_up_begins_when_it_comes_into_the_hand(self):
        fold = self.events(
            (0, Kind.QUEUED, "a", "", {"queue": "q"}),
            (1, Kind.ANSWERED, "a", "ann", {"queue": "q"}),
            (21, Kind.LEG_ENDED, "a", "ann", {"queue": "q"}),
            (31, Kind.AGENT, "a", "ann", {"status": "wrapping"}),
            (51, Kind.CODED, "a", "ann", {"code": "7"}),
        )
        row = fold.queue_total("q")
        self.assertEqual((row.talk_ms, row.wrap_ms, row.legs), (20 * SECOND, 20 * SECOND, 1))
        self.assertEqual((fold.legs, fold.coded), (1, 1))

    def test_service_level_by_each_formula(self):
        row = QueueRow(
            offered=10, answered=6, abandoned=3, short_abandons=2, answered_late=1, abandoned_late=1
        )
        levels = [row.service_level(f) for f in "ABCD"]
        self.assertEqual(levels, [7 / 9, 5 / 6, 5 / 10, 5 / 8])

    def test_nothing_offered_has_no_figure(self):
        self.assertEqual([QueueRow().service_level(f) for f in "ABCD"], [None] * 4)
        self.assertIsNone(QueueRow().average_wait_ms)

    def test_the_outcome_is_booked_where_the_contact_was_offered(self):
        edge = INTERVAL_MS // SECOND
        fold = folded(contact("a", edge - 9, edge - 2, answered=edge + 3, talked=5))
        self.assertEqual(fold.rows[("q", 0)].answered, 1)
        self.assertEqual(list(fold.rows), [("q", 0)])

    def test_totals_add_sums_and_take_the_longest(self):
        whole = QueueRow(offered=1, longest_answered_ms=7)
        whole.add(QueueRow(offered=2, longest_answered_ms=5))
        self.assertEqual((whole.offered, whole.longest_answered_ms), (3, 7))

    def events(self, *rows):
        fold = folded()
        for at, kind, name, agent, body in rows:
            fold.apply(happened(at * SECOND, kind, name, agent, body))
        return fold

    def test_the_wrap_up_of_each_of_several_texts_is_counted_for_its_own(self):
        fold = self.events(
            (0, Kind.QUEUED, "a", "", {"queue": "q"}),
            (0, Kind.QUEUED, "b", "", {"queue": "r"}),
            *((5, Kind.ANSWERED, name, "ann", {"queue": "q"}) for name in ("a", "b")),
            (60, Kind.LEG_ENDED, "a", "ann", {}),
            (60, Kind.AGENT, "a", "ann", {"status": "wrapping"}),
            (70, Kind.LEG_ENDED, "b", "ann", {}),
            (90, Kind.CODED, "a", "ann", {"code": ""}),
            (90, Kind.AGENT, "b", "ann", {"status": "wrapping"}),
            (97, Kind.CODED, "b", "ann", {"code": ""}),
        )
        self.assertEqual(fold.queue_total("q").wrap_ms, 30 * SECOND)
        self.assertEqual(fold.queue_total("r").wrap_ms, 7 * SECOND)

    def test_whoever_takes_a_contact_straight_from_a_colleague_is_counted_as_well(self):
        fold = self.events(
            (0, Kind.QUEUED, "a", "", {"queue": "q"}),
            (10, Kind.ANSWERED, "a", "ann", {"queue": "q"}),
            (110, Kind.LEG_ENDED, "a", "ann", {"by": "transferred"}),
            (110, Kind.AGENT, "a", "ann", {"status": "wrapping"}),
            (115, Kind.ANSWERED, "a", "bea", {"queue": "agent:bea"}),
            (120, Kind.CODED, "a", "ann", {"code": ""}),
            (315, Kind.LEG_ENDED, "a", "bea", {"by": "agent"}),
            (315, Kind.AGENT, "a", "bea", {"status": "wrapping"}),
            (325, Kind.CODED, "a", "bea", {"code": ""}),
        )
        row = fold.queue_total("q")
        self.assertEqual((row.answered, row.talk_ms, row.wrap_ms), (1, 300 * SECOND, 20 * SECOND))

    def test_whoever_waits_over_midnight_stays_known_and_counts_where_they_were_offered(self):
        day_s = 86_400
        fold = folded()
        before, after = (
            contact("a", day_s - 60, day_s - 50, answered=day_s + 30, talked=40)[:2],
            contact("a", day_s - 60, day_s - 50, answered=day_s + 30, talked=40)[2:],
        )
        for event in before:
            fold.apply(event)
        fold.begin_day(day_s * SECOND)
        for event in after:
            fold.apply(event)
        self.assertEqual(fold.queue_total("q"), QueueRow())
        self.assertEqual((fold.arrived, fold.legs), (0, 1))
        yesterday = fold.rows[("q", (day_s - 50) * SECOND // INTERVAL_MS)]
        self.assertEqual((yesterday.answered, yesterday.talk_ms), (1, 40 * SECOND))
        # Read back after a crash, the same events give the same figures.
        again = folded()
        again.begin_day(day_s * SECOND)
        for event in (*before, *after):
            again.apply(event)
        self.assertEqual(again.queue_total("q"), QueueRow())
        self.assertEqual((again.arrived, again.legs, again.ended), (0, 1, 0))
