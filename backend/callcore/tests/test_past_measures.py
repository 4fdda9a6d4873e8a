"""What is kept of contacts beside the queues' sums: tallies, courses, summaries, who knows whom."""

import unittest
from collections import defaultdict
from zoneinfo import ZoneInfo

from callcore.events import Kind
from callcore.events import read as happened
from callcore.measures.acquaintances import KNOWN_MS, Acquaintances
from callcore.measures.activity import MINUTES, Activity
from callcore.measures.callers import Callers
from callcore.measures.course import MOST_PIECES, course_of
from callcore.measures.coverage import coverage, presence
from callcore.measures.ledger import Ledger
from callcore.measures.looks import LastRings
from callcore.measures.summary import MOST_KEYS, Summary
from callcore.measures.tallies import MOST_TOLD, Amount, Steps

SECOND, MINUTE, HOUR = 1_000, 60_000, 3_600_000
LONDON = ZoneInfo("Europe/London")
#: A Monday's midnight in London.
MONDAY = 1_795_392_000_000


def told(*events, contact="c"):
    """Events in a row: seconds, kind, its words, perhaps the agent."""
    return [happened(at * SECOND, kind, contact, (*agent, "")[0], body) for at, kind, body, *agent in events]


ARRIVED = (10, Kind.ARRIVED, {"number": "+441632960100", "caller": "+447700900001", "flow": "main"})


def tallied(*events):
    """What is counted of one contact: by what, thing and detail, how often and how long (s)."""
    steps, amounts = Steps(), defaultdict(Amount)
    for event in told(*events):
        steps.apply(event, amounts.__getitem__)
    return {
        (where.what.value, where.thing, where.detail): (amount.count, amount.ms / SECOND)
        for where, amount in amounts.items()
    }


class TallyTests(unittest.TestCase):
    def test_a_call_is_counted_at_its_number_its_stops_keys_and_end(self):
        counts = tallied(
            ARRIVED,
            (14, Kind.KEYED, {"step": "menu", "key": "2"}),
            (14, Kind.MOVED, {"step": "menu", "exit": "key:2", "to": "say"}),
            (15, Kind.KEYED, {"step": "menu", "key": "9", "by": "ann"}),
            (20, Kind.MOVED, {"step": "say", "exit": "next", "to": None}),
            (21, Kind.ENDED, {"step": "say", "ending": "ended"}),
        )
        self.assertEqual(
            counts,
            {
                ("number", "+441632960100", "arrived"): (1, 0),
                ("key", "main", "menu 2"): (1, 0),
                ("arm", "main", "menu key:2"): (1, 4),
                ("arm", "main", "say next"): (1, 6),
                ("number", "+441632960100", "ended"): (1, 11),
                ("end", "main", " ended"): (1, 1),
            },
        )

    def test_whoever_leaves_at_a_stop_is_counted_there_and_another_flow_counts_for_itself(self):
        counts = tallied(
            ARRIVED,
            (12, Kind.MOVED, {"step": "go", "exit": "", "to": "other"}),
            (13, Kind.WENT_ON, {"flow": "night"}),
            (18, Kind.ENDED, {"step": "wait~said", "ending": "hung_up"}),
        )
        self.assertEqual(counts["end", "night", "wait hung_up"], (1, 5))
        self.assertNotIn(("end", "main", "wait hung_up"), counts)

    def test_stops_of_a_waiting_plan_count_at_the_plan_and_take_no_time_of_the_flow(self):
        counts = tallied(
            ARRIVED,
            (12, Kind.MOVED, {"step": "hello", "exit": "next", "to": "wait"}),
            (30, Kind.MOVED, {"step": "wait~tell", "exit": "next", "to": "music", "plan": "plan"}),
            (42, Kind.MOVED, {"step": "wait", "exit": "waited", "to": "bye"}),
        )
        self.assertEqual(counts["arm", "plan", "tell next"], (1, 0))
        self.assertEqual(counts["arm", "main", "wait waited"], (1, 30))

    def test_a_callback_that_is_reached_is_counted_once_where_it_was_booked(self):
        counts = tallied(
            (10, Kind.BOOKED, {"queue": "q", "number": "+44"}),
            (40, Kind.ANSWERED, {"queue": "q", "callback": True}, "ann"),
            (50, Kind.ENDED, {"ending": "person"}),
        )
        self.assertEqual(counts, {("callback", "q", "booked"): (1, 0), ("callback", "q", "reached"): (1, 30)})
        called = tallied(ARRIVED, (40, Kind.ANSWERED, {"queue": "q"}, "ann"))
        self.assertEqual(called, {("number", "+441632960100", "arrived"): (1, 0)})
        passed_on = tallied(
            (10, Kind.BOOKED, {"queue": "q", "number": "+44"}), (40, Kind.ANSWERED, {"queue": "q"}, "ann")
        )
        self.assertEqual(passed_on, {("callback", "q", "booked"): (1, 0)})

    def test_what_colleagues_ask_counts_only_as_rings_and_what_agents_begin_at_no_number(self):
        inner = tallied(
            (1, Kind.ARRIVED, {"number": "12", "consult_of": "x"}),
            (2, Kind.RANG, {"queue": "direct:bea"}, "bea"),
            (4, Kind.RING_STOPPED, {"why": "missed"}, "bea"),
            (5, Kind.ENDED, {"ending": "ended"}),
        )
        self.assertEqual(inner, {("ring", "bea", "rang"): (1, 0), ("ring", "bea", "missed"): (1, 0)})
        begun = tallied(
            (1, Kind.ARRIVED, {"number": "+44", "begun": "ann"}), (5, Kind.ENDED, {"ending": "person"})
        )
        self.assertEqual(begun, {})

    def test_outside_talk_lasts_until_the_call_goes_on_or_ends(self):
        ringing = (ARRIVED, (11, Kind.RINGS_OUT, {"step": "taxi", "number": "+44161"}))
        goes_on = tallied(
            *ringing,
            (15, Kind.RANG_OUT, {"step": "taxi", "result": "answered"}),
            (45, Kind.MOVED, {"step": "taxi", "exit": "next", "to": "bye"}),
            (60, Kind.ENDED, {"step": "bye", "ending": "elsewhere"}),
        )
        self.assertEqual(goes_on["outside", "+44161", "answered"], (1, 30))
        hung_up = tallied(
            *ringing,
            (15, Kind.RANG_OUT, {"step": "taxi", "result": "answered"}),
            (35, Kind.ENDED, {"step": "taxi", "ending": "elsewhere"}),
        )
        self.assertEqual(hung_up["outside", "+44161", "answered"], (1, 20))
        unnamed = tallied(ARRIVED, (15, Kind.RANG_OUT, {"step": "taxi", "result": "answered"}))
        self.assertEqual([where for where in unnamed if where[0] == "outside"], [])
        busy = tallied(
            *ringing, (15, Kind.RANG_OUT, {"step": "taxi", "result": "busy"}), (35, Kind.ENDED, {})
        )
        self.assertEqual(busy["outside", "+44161", "busy"], (1, 0))

    def test_messages_diversions_and_callbacks(self):
        counts = tallied(
            ARRIVED,
            (11, Kind.DIVERTED, {"diversion": "storm", "to": "flow:night"}),
            (30, Kind.MESSAGE_LEFT, {"step": "box", "mailbox": "desk", "length_ms": 12_000}),
        )
        self.assertEqual(counts["diversion", "storm", "+441632960100"], (1, 0))
        self.assertEqual(counts["mailbox", "desk", ""], (1, 12))
        booked = (100, Kind.BOOKED, {"queue": "q", "number": "+44", "caller": "+44", "flow": "main"})
        reached = tallied(
            booked,
            (400, Kind.ANSWERED, {"queue": "q", "callback": True}, "ann"),
            (500, Kind.ENDED, {"ending": "person"}),
        )
        self.assertEqual(reached["callback", "q", "booked"], (1, 0))
        self.assertEqual(reached["callback", "q", "reached"], (1, 300))
        self.assertNotIn(("callback", "q", "person"), reached)
        lost = tallied(booked, (900, Kind.ENDED, {"ending": "not_reached"}))
        self.assertEqual(lost["callback", "q", "not_reached"], (1, 800))

    def test_of_very_many_told_waits_only_so_many_are_kept(self):
        waits = [(20 + n, Kind.WAIT_TOLD, {"queue": "q", "seconds": 60}) for n in range(MOST_TOLD + 20)]
        counts = tallied(
            ARRIVED, (19, Kind.QUEUED, {"queue": "q"}), *waits, (500, Kind.ANSWERED, {"queue": "q"}, "a")
        )
        self.assertEqual(sum(n for (what, *_), (n, _) in counts.items() if what == "told"), MOST_TOLD)


class CourseTests(unittest.TestCase):
    STORY = (
        ARRIVED,
        (11, Kind.HEARD, {"step": "hello", "length_ms": 3_000}),
        (16, Kind.KEYED, {"step": "menu", "key": "1"}),
        (17, Kind.QUEUED, {"queue": "q"}),
        (17, Kind.MUSIC, {"step": "wait", "until_ms": 47_000}),
        (20, Kind.RANG, {"queue": "q"}, "ann"),
        (22, Kind.RING_STOPPED, {"queue": "q", "why": "missed"}, "ann"),
        (23, Kind.RANG, {"queue": "q"}, "bea"),
        (25, Kind.ANSWERED, {"queue": "q"}, "bea"),
        (26, Kind.RECORDS_TALK, {"on": True}),
        (30, Kind.HELD, {"on": True}, "bea"),
        (36, Kind.HELD, {"on": False}, "bea"),
        (40, Kind.RECORDS_TALK, {"on": False}),
        (50, Kind.LEG_ENDED, {"queue": "q"}, "bea"),
        (51, Kind.ENDED, {"ending": "person"}),
    )

    def pieces(self, pieces):
        return [(p.kind, p.of, p.from_ms // SECOND, p.until_ms // SECOND) for p in pieces]

    def test_a_recording_and_a_hold_that_nobody_ended_end_with_what_they_are_of(self):
        course = course_of(told(*self.STORY[:12], *self.STORY[13:]), 99 * SECOND)
        self.assertEqual(self.pieces(course.recorded), [("recorded", "", 26, 51)])
        stopped = course_of(told(*self.STORY[:13]), 99 * SECOND)
        self.assertEqual(self.pieces(stopped.recorded), [("recorded", "", 26, 40)])
        self.assertFalse(stopped.over)

    def test_every_lane_of_a_call(self):
        course = course_of(told(*self.STORY), 99 * SECOND)
        self.assertTrue(course.over)
        self.assertEqual((course.begins_ms, course.ends_ms), (10_000, 51_000))
        self.assertEqual(
            self.pieces(course.where),
            [
                ("flow", "main", 10, 17),
                ("queue", "q", 17, 25),
                ("person", "bea", 25, 50),
                ("flow", "main", 50, 51),
            ],
        )
        self.assertEqual(self.pieces(course.hears), [("words", "hello", 11, 14), ("music", "wait", 17, 25)])
        self.assertEqual(self.pieces(course.rings), [("ring", "ann", 20, 22), ("ring", "bea", 23, 25)])
        self.assertEqual(self.pieces(course.holds), [("hold", "bea", 30, 36)])
        self.assertEqual(self.pieces(course.recorded), [("recorded", "", 26, 40)])
        self.assertEqual([(press.at_ms, press.key) for press in course.keys], [(16_000, "1")])
        self.assertEqual(
            [(stay.queue, leg.agent) for stay, leg in zip(course.stays, course.legs, strict=True)],
            [("q", "bea")],
        )

    def test_what_goes_on_when_the_contact_ends_is_drawn_up_to_its_end(self):
        over = (40, Kind.ENDED, {"ending": "hung_up"})
        course = course_of(told(*self.STORY[:10], over), 99 * SECOND)
        self.assertEqual(self.pieces(course.where)[-1], ("person", "bea", 25, 40))
        self.assertEqual(self.pieces(course.recorded), [("recorded", "", 26, 40)])
        self.assertEqual((course.over, course.ends_ms), (True, 40_000))

    def test_what_still_goes_on_is_drawn_up_to_now(self):
        course = course_of(told(*self.STORY[:5]), 31 * SECOND)
        self.assertFalse(course.over)
        self.assertEqual(self.pieces(course.where)[-1], ("queue", "q", 17, 31))
        self.assertEqual(self.pieces(course.hears)[-1], ("music", "wait", 17, 31))

    def test_a_picture_shows_only_so_much(self):
        keys = [(20 + n, Kind.KEYED, {"step": "menu", "key": "1"}) for n in range(MOST_PIECES + 5)]
        texts = [(20 + n, Kind.TEXTED, {"by": "caller"}) for n in range(MOST_PIECES + 5)]
        course = course_of(told(ARRIVED, *keys, *texts), 999 * SECOND)
        self.assertEqual((len(course.keys), len(course.texts)), (MOST_PIECES, MOST_PIECES))

    def test_what_was_there_for_a_while_ends_by_itself_or_with_the_contact(self):
        music = (17, Kind.MUSIC, {"step": "wait", "until_ms": 27_000})
        course = course_of(told(*self.STORY[:4], music, (40, Kind.ENDED, {"ending": "hung_up"})), 99 * SECOND)
        self.assertEqual(self.pieces(course.hears)[-1], ("music", "wait", 17, 27))
        endless = (17, Kind.MUSIC, {"step": "wait", "until_ms": 99_000})
        rings = (20, Kind.RANG, {"queue": "q"}, "ann")
        over = (40, Kind.ENDED, {"ending": "hung_up"})
        course = course_of(told(*self.STORY[:4], endless, rings, over), 99 * SECOND)
        self.assertEqual(self.pieces(course.where)[-1], ("queue", "q", 17, 40))
        self.assertEqual(self.pieces(course.hears)[-1], ("music", "wait", 17, 40))
        self.assertEqual(self.pieces(course.rings), [("ring", "ann", 20, 40)])
        at_once = course_of(told(ARRIVED, (10, Kind.QUEUED, {"queue": "q"}), over), 99 * SECOND)
        self.assertEqual(self.pieces(at_once.where), [("queue", "q", 10, 40)], "no flow of no time")
        past = (17, Kind.MUSIC, {"step": "wait", "until_ms": 9_000})
        self.assertEqual(course_of(told(ARRIVED, past, over), 99 * SECOND).hears, [])
        nothing = course_of([], 5 * SECOND)
        self.assertEqual((nothing.begins_ms, nothing.ends_ms, nothing.over), (0, 5_000, False))

    def test_ways_back_and_outside(self):
        course = course_of(
            told(
                (5, Kind.BOOKED, {"queue": "q", "flow": "main", "number": "+44"}),
                (9, Kind.LEFT_QUEUE, {"queue": "q", "why": "waited_out"}),
                (12, Kind.WENT_ON, {"flow": "night"}),
                (20, Kind.RANG_OUT, {"step": "taxi", "result": "busy"}),
                (24, Kind.RANG_OUT, {"step": "taxi", "result": "answered"}),
                (30, Kind.ENDED, {"ending": "elsewhere"}),
            ),
            99 * SECOND,
        )
        self.assertEqual(
            self.pieces(course.where),
            [
                ("queue", "q", 5, 9),
                ("flow", "main", 9, 12),
                ("flow", "night", 12, 24),
                ("outside", "taxi", 24, 30),
            ],
        )


class SummaryTests(unittest.TestCase):
    def test_a_contact_in_one_line(self):
        summary = Summary()
        for event in told(
            ARRIVED,
            (11, Kind.KEYED, {"key": "1"}),
            (12, Kind.KEYED, {"key": "7", "by": "ann"}),
            *((13, Kind.KEYED, {"key": "2"}) for _ in range(MOST_KEYS + 3)),
            (20, Kind.RECORDS_TALK, {"on": True}),
            (21, Kind.RECORDS_TALK, {"on": False}),
            (22, Kind.TEXTED, {"words": "hello"}),
            (30, Kind.ENDED, {"ending": "person"}),
        ):
            summary.apply(event)
        self.assertEqual(summary.keys, "1" + "2" * (MOST_KEYS - 1))
        self.assertEqual((summary.number, summary.flow, summary.ending), ("+441632960100", "main", "person"))
        self.assertEqual((summary.arrived_ms, summary.ended_ms), (10_000, 30_000))
        self.assertEqual(
            (summary.recorded, summary.texts, summary.inner, summary.callback), (True, True, False, False)
        )

    def test_a_callback_and_a_consult_are_known_as_such(self):
        booked, inner = Summary(), Summary()
        booked.apply(*told((7, Kind.BOOKED, {"queue": "q", "caller": "+44", "flow": "main"})))
        inner.apply(*told((7, Kind.ARRIVED, {"consult_of": "x"})))
        self.assertEqual(
            (booked.callback, booked.caller, booked.arrived_ms, inner.inner), (True, "+44", 7_000, True)
        )


class LastRingsTests(unittest.TestCase):
    def test_of_the_last_rings_those_that_were_let_pass_count_and_since_when(self):
        rings = LastRings()
        for event in told(
            (1, Kind.RING_STOPPED, {"queue": "q", "why": "missed"}, "ann"),
            (2, Kind.ANSWERED, {"queue": "q"}, "ann"),
            (3, Kind.RING_STOPPED, {"queue": "q", "why": "caller_left"}, "ann"),
            (4, Kind.RING_STOPPED, {"queue": "q", "why": "declined"}, "ann"),
            (5, Kind.ANSWERED, {"queue": "q"}, "ann"),
            (6, Kind.RING_STOPPED, {"queue": "q", "why": "missed"}, "bea"),
        ):
            rings.apply(event)
        self.assertEqual(rings.missed("ann"), (2, 4_000))
        self.assertEqual(rings.missed("bea"), (1, 6_000))
        self.assertEqual(rings.missed("cai"), (0, 0))


class LedgerTests(unittest.TestCase):
    def test_what_was_counted_before_is_known_and_not_counted_again(self):
        events = told(*CourseTests.STORY)
        whole, later = Ledger(), Ledger()
        whole.take(events)
        later.knew(events[:8])
        later.take(events[8:])
        self.assertEqual(later.summaries["c"], whole.summaries["c"])
        told_of = whole.summaries["c"]
        self.assertEqual(
            (told_of.flow, told_of.keys, told_of.ending, told_of.recorded), ("main", "1", "person", True)
        )
        self.assertEqual((told_of.arrived_ms, told_of.ended_ms), (10_000, 51_000))
        self.assertEqual(later.accounts["c"].legs, whole.accounts["c"].legs)
        arrived = [n for tally, n in later.tallies.items() if tally.detail == "arrived"]
        self.assertEqual([amount.count for amount in arrived], [])
        self.assertEqual(sum(t.detail == "person" for t in later.tallies), 1)

    def test_states_follow_one_another_and_a_new_reason_is_not_a_new_state(self):
        ledger = Ledger()
        ledger.take(
            happened(at * SECOND, Kind.AGENT, "", agent, body)
            for at, agent, body in (
                (10, "ann", {"status": "available", "since_ms": 10_000}),
                (20, "ann", {"status": "away", "reason": "Lunch", "since_ms": 20_000}),
                (25, "ann", {"status": "away", "reason": "Training", "since_ms": 20_000}),
                (21, "bea", {"status": "available", "since_ms": 21_000}),
                (90, "ann", {"status": "out", "since_ms": 90_000}),
            )
        )
        self.assertEqual(
            [(s.agent, s.status, s.reason, s.from_ms, s.until_ms) for s in ledger.spans],
            [
                ("ann", "available", "", 10_000, 20_000),
                ("ann", "away", "Training", 20_000, 90_000),
                ("bea", "available", "", 21_000, None),
                ("ann", "out", "", 90_000, None),
            ],
        )


class CoverageTests(unittest.TestCase):
    def at(self, hour, agent, status):
        return happened(MONDAY + round(hour * HOUR), Kind.AGENT, "", agent, {"status": status})

    def test_the_share_of_each_hour_and_who_is_missed(self):
        events = [
            self.at(8.5, "ann", "available"),
            self.at(9.25, "bea", "available"),
            self.at(9.75, "ann", "away"),
            self.at(10.5, "ann", "out"),
            self.at(33.0, "ann", "available"),
            self.at(34.0, "ann", "out"),
            self.at(49.0, "cyd", "available"),
        ]
        present = presence(events, MONDAY, MONDAY + 48 * HOUR, LONDON)
        self.assertEqual(present["ann"][8:11], (0.25, 1.0, 0.25))
        self.assertEqual(present["ann"][11], 0)
        self.assertEqual(
            (present["bea"][8], present["bea"][9], present["bea"][10], present["bea"][23]),
            (0.5, 0.875, 1.0, 1.0),
        )
        self.assertNotIn("cyd", present)
        left = coverage(present, ["ann", "bea", "nobody"], "bea")
        self.assertEqual((left.before[9], left.after[9]), (1.875, 1.0))
        self.assertEqual((left.before[8], left.after[8]), (0.75, 0.25))
        self.assertNotIn(9, left.bare)
        self.assertEqual(left.bare, (0, 1, 2, 3, 4, 5, 6, 7, 8, *range(10, 24)))

    def test_who_was_there_before_counts_from_the_beginning_only(self):
        present = presence([self.at(-5, "ann", "available")], MONDAY, MONDAY + 24 * HOUR, LONDON)
        self.assertEqual(sum(present["ann"]), 24)


class ActivityTests(unittest.TestCase):
    def test_the_last_sixty_minutes_and_no_more(self):
        activity = Activity()
        for minute in (*range(3 * MINUTES), 3 * MINUTES - 1):
            activity.apply(happened(minute * MINUTE, Kind.ARRIVED, f"c{minute}", "", {}))
        activity.apply(happened(10 * MINUTE, Kind.ARRIVED, "inner", "", {"consult_of": "c1"}))
        activity.apply(happened(3 * MINUTES * MINUTE - 1, Kind.LISTENS, "c1", "", {}))
        lines = activity.lines((3 * MINUTES - 1) * MINUTE)
        self.assertEqual(lines["arrive"], [1] * (MINUTES - 1) + [2])
        self.assertEqual({stage for stage, counts in lines.items() if any(counts)}, {"arrive"})
        self.assertLessEqual(len(activity._counts["arrive"]), 2 * MINUTES + 1)


class AcquaintanceTests(unittest.TestCase):
    def test_whoever_spoke_last_is_known_for_a_week(self):
        known = Acquaintances()
        story = (
            (1, Kind.ARRIVED, {"caller": "+44"}),
            (5, Kind.ANSWERED, {"queue": "q"}, "ann"),
            (9, Kind.ENDED, {}),
            (10, Kind.ANSWERED, {"queue": "q"}, "bea"),
        )
        for event in told(*story):
            known.apply(event)
        self.assertEqual((known.of("+44"), known.of("+45")), ("ann", None))
        known.met("+44", "old", 4_000)
        self.assertEqual(known.of("+44"), "ann")
        known.met("+44", "cyd", 5_000)
        self.assertEqual(known.of("+44"), "cyd")
        known.forget(5_000 + KNOWN_MS)
        self.assertEqual(known.of("+44"), "cyd")
        known.forget(5_001 + KNOWN_MS)
        self.assertIsNone(known.of("+44"))

    def test_colleagues_who_ask_each_other_and_callbacks(self):
        known = Acquaintances()
        for event in told(
            (1, Kind.ARRIVED, {"caller": "12", "consult_of": "x"}), (2, Kind.ANSWERED, {}, "bea"), contact="i"
        ):
            known.apply(event)
        for event in told((1, Kind.BOOKED, {"caller": "+46"}), (2, Kind.ANSWERED, {}, "cyd"), contact="b"):
            known.apply(event)
        self.assertEqual((known.of("12"), known.of("+46")), (None, "cyd"))

    def test_what_is_only_among_colleagues_is_so_until_it_ends(self):
        callers = Callers()
        aside, other = {"contact": "i"}, {"contact": "c"}
        events = [
            *told((1, Kind.ARRIVED, {"consult_of": "c"}), (2, Kind.ANSWERED, {}, "bea"), **aside),
            *told((2, Kind.ANSWERED, {}, "ann"), **other),
            *told((3, Kind.AGENT, {"status": "available"}, "bea"), (4, Kind.ENDED, {}), **aside),
        ]
        self.assertEqual([callers.counts(event) for event in events], [False, False, True, True, False])
        self.assertEqual(callers._asides, set(), "a name that never comes again would be kept for ever")


if __name__ == "__main__":
    unittest.main()
