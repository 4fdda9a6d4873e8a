import unittest

from callcore.events import Kind
from callcore.events import read as happened
from callcore.measures.figures import Figures
from callcore.measures.rows import INTERVAL_MS, QueueRow

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
        self.assertEqual((row.offered, row.answered, row.abandoned, row.left_otherwise,
                          row.under_way), (6, 2, 2, 1, 1))  # fmt: skip
        self.assertEqual((row.short_abandons, row.answered_late, row.abandoned_late), (1, 1, 1))
        self.assertEqual((row.average_wait_ms, row.longest_answered_ms, row.longest_abandoned_ms),
                         (25 * SECOND, 40 * SECOND, 60 * SECOND))  # fmt: skip
        self.assertEqual((row.up_front_ms, row.talk_ms, row.wrap_ms),
                         (10 * SECOND, 90 * SECOND, 20 * SECOND))  # fmt: skip
        self.assertEqual(fold.centre_total(), row)

    def test_service_level_by_each_formula(self):
        row = QueueRow(offered=10, answered=6, abandoned=3, short_abandons=2,
                       answered_late=1, abandoned_late=1)  # fmt: skip
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
        )  # fmt: skip
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
        )  # fmt: skip
        row = fold.queue_total("q")
        self.assertEqual((row.answered, row.talk_ms, row.wrap_ms),
                         (1, 300 * SECOND, 20 * SECOND))  # fmt: skip

    def test_whoever_waits_over_midnight_stays_known_and_counts_where_they_were_offered(self):
        day_s = 86_400
        fold = folded()
        before, after = contact("a", day_s - 60, day_s - 50, answered=day_s + 30, talked=40)[:2], \
            contact("a", day_s - 60, day_s - 50, answered=day_s + 30, talked=40)[2:]  # fmt: skip
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
