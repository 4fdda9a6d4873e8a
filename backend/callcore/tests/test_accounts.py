"""What becomes of one contact: its stays in queues, and the parts that agents had."""

import unittest

from callcore.events import Kind
from callcore.measures.account import Account
from callcore.measures.rows import QueueRow
from callcore.tests.test_past_measures import ARRIVED, told


def account(*events):
    """One contact's account, and the row of all its stays."""
    known, row = Account(), QueueRow()
    for event in told(*events):
        known.apply(event, lambda _stay: row)
    return known, row


class AccountTests(unittest.TestCase):
    QUEUED = (12, Kind.QUEUED, {"queue": "q"})

    def how(self, *events):
        return [str(leg.how) for leg in account(*events)[0].legs]

    def test_how_a_leg_began(self):
        answered = {"queue": "q"}
        by_ann, by_bea = (20, Kind.ANSWERED, answered, "ann"), (40, Kind.ANSWERED, answered, "bea")
        sent_on = (30, Kind.LEG_ENDED, {"by": "transferred"}, "ann")
        for by, transferred in (("transferred", 1), ("agent", 0)):
            _, row = account(ARRIVED, self.QUEUED, by_ann, (30, Kind.LEG_ENDED, {"by": by}, "ann"))
            self.assertEqual(row.transferred, transferred)
        self.assertEqual(self.how(ARRIVED, self.QUEUED, by_ann), ["queue"])
        self.assertEqual(self.how(ARRIVED, by_ann), ["direct"])
        self.assertEqual(self.how(ARRIVED, self.QUEUED, by_ann, sent_on, by_bea), ["queue", "transferred"])
        self.assertEqual(self.how((1, Kind.ARRIVED, {"consult_of": "x"}), by_ann), ["consult"])
        begun = (20, Kind.ANSWERED, {**answered, "begun": True}, "ann")
        self.assertEqual(self.how((1, Kind.ARRIVED, {"begun": "ann"}), begun), ["begun"])
        back = (20, Kind.ANSWERED, {**answered, "callback": True}, "ann")
        self.assertEqual(self.how((1, Kind.BOOKED, {"queue": "q"}), back), ["callback"])

    def test_who_left_a_queue_ended_or_went_on_by_what_came_after(self):
        left = (20, Kind.LEFT_QUEUE, {"queue": "q", "why": "waited_out"})
        over = (30, Kind.ENDED, {"ending": "ended"})
        for between, name in (
            ((), "ended"),
            (((22, Kind.WENT_ON, {"flow": "night"}),), "elsewhere"),
            (((22, Kind.MESSAGE_LEFT, {"mailbox": "m", "length_ms": 9}),), "messages"),
        ):
            _, row = account(ARRIVED, self.QUEUED, left, *between, over)
            counted = {key: getattr(row, key) for key in ("ended", "elsewhere", "messages", "under_way")}
            self.assertEqual(counted, {**dict.fromkeys(counted, 0), name: 1})
        again = (25, Kind.QUEUED, {"queue": "q"})
        known, row = account(ARRIVED, self.QUEUED, (15, Kind.WENT_ON, {"flow": "x"}), left, again, left, over)
        self.assertEqual((row.offered, row.elsewhere, row.ended), (2, 1, 1), "each stay by its own")
        self.assertEqual([stay.up_front_ms for stay in known.stays], [2_000, 5_000], "since they were free")

    def test_who_left_a_queue_went_elsewhere_once_an_outside_number_answers(self):
        left = (20, Kind.LEFT_QUEUE, {"queue": "q", "why": "waited_out"})
        rings = (21, Kind.RINGS_OUT, {"number": "+44161"})
        for result, elsewhere in (("answered", 1), ("busy", 0)):
            with self.subTest(result):
                known, row = account(
                    ARRIVED, self.QUEUED, left, rings, (25, Kind.RANG_OUT, {"result": result})
                )
                self.assertEqual((row.elsewhere, row.under_way), (elsewhere, 1 - elsewhere))
        known, row = account(ARRIVED, self.QUEUED, (25, Kind.RANG_OUT, {"result": "answered"}))
        self.assertEqual((row.elsewhere, row.under_way), (0, 1), "it waits still")
        self.assertEqual(known.stays[0].wait_ms, 0)

    def test_an_agent_who_is_free_again_leaves_their_part_without_a_code(self):
        answered, ended = (
            (15, Kind.ANSWERED, {"queue": "q"}, "ann"),
            (40, Kind.LEG_ENDED, {"queue": "q"}, "ann"),
        )
        known, _ = account(ARRIVED, self.QUEUED, answered, ended)
        known.labels_no_more("bea")
        self.assertEqual([leg.code for leg in known.legs], [None])
        known.labels_no_more("ann")
        self.assertEqual([leg.code for leg in known.legs], [""])
        held = ((20, Kind.HELD, {"on": True}, "ann"), (25, Kind.HELD, {"on": False}, "ann"))
        known, _ = account(ARRIVED, self.QUEUED, answered, *held)
        self.assertEqual([leg.talk_ms for leg in known.legs], [0], "it is not over yet")
        known, _ = account(ARRIVED, self.QUEUED, answered, *held, ended)
        self.assertEqual([leg.talk_ms for leg in known.legs], [20_000])

    def test_an_answer_tells_of_the_wait_that_it_ended_and_of_none_where_nobody_waited(self):
        for before, said, waited in (
            ((ARRIVED, self.QUEUED), {"queue": "q"}, True),
            (((1, Kind.BOOKED, {"queue": "q"}),), {"queue": "q", "callback": True}, False),
            (((1, Kind.ARRIVED, {"begun": "ann"}),), {"queue": "q", "begun": True}, False),
            ((ARRIVED, self.QUEUED), {"queue": "agent:ann"}, False),
            (((1, Kind.ARRIVED, {"consult_of": "x"}),), {"queue": "q"}, False),
        ):
            known, row = Account(), QueueRow()
            for event in told(*before):
                known.apply(event, lambda _stay, row=row: row)
            (answer,) = told((30, Kind.ANSWERED, said, "ann"))
            stay = known.apply(answer, lambda _stay, row=row: row)
            self.assertEqual(stay is not None, waited, said)
            self.assertEqual(row.answered, waited)
        left = (20, Kind.LEFT_QUEUE, {"queue": "q", "why": "waited_out"})
        _, row = account(ARRIVED, self.QUEUED, left, (30, Kind.ANSWERED, {"queue": "agent:ann"}, "ann"))
        self.assertEqual((row.elsewhere, row.answered, row.under_way), (1, 0, 0))

    def test_hold_ends_with_the_talk_and_is_nothing_after_it(self):
        answered, hold = (15, Kind.ANSWERED, {"queue": "q"}, "ann"), (20, Kind.HELD, {"on": True}, "ann")
        ended = (40, Kind.LEG_ENDED, {"queue": "q"}, "ann")
        late = (50, Kind.HELD, {"on": True}, "ann"), (60, Kind.HELD, {"on": False}, "ann")
        for more in ((), late):
            known, row = account(ARRIVED, self.QUEUED, answered, hold, ended, *more)
            self.assertEqual((row.hold_ms, row.talk_ms), (20_000, 5_000))
            self.assertEqual([(leg.held_ms, leg.talk_ms) for leg in known.legs], [(20_000, 5_000)])

    def test_a_code_that_comes_at_once_took_no_wrap_up(self):
        answered, ended = (
            (15, Kind.ANSWERED, {"queue": "q"}, "ann"),
            (40, Kind.LEG_ENDED, {"queue": "q"}, "ann"),
        )
        known, row = account(ARRIVED, self.QUEUED, answered, ended, (40, Kind.CODED, {"code": "7"}, "ann"))
        self.assertEqual((known.legs[0].code, row.wrap_ms), ("7", 0))


if __name__ == "__main__":
    unittest.main()
