"""Diversions, outside numbers, mailboxes and other flows, on a centre driven by hand."""

import unittest
from datetime import UTC, datetime

from callcore.centre.facts import NumberFacts
from callcore.errors import EventRefused
from callcore.events import Kind
from callcore.flow.definition import load
from callcore.tests.centre.hand import (
    NOON,
    NUMBER,
    SECOND,
    Hand,
    configuration,
    diversion,
    mailbox,
    restarted,
    script,
)


def diverted(**changes):
    """A centre whose number is diverted, with a mailbox."""
    facts = diversion(**changes)
    return Hand(configuration(diversions=[facts], mailboxes={"night": mailbox()}))


class AwayTests(unittest.TestCase):
    def ending(self, hand, contact="c1"):
        ended = [h for h in hand.written() if h.contact == contact and h.kind is Kind.ENDED]
        return ended[0].fact.ending if ended else None

    def words(self, hand):
        return [line["words"] for line in hand.told("c1", Kind.DIVERTED)]

    def test_a_diverted_call_rings_outside_and_the_trace_says_why(self):
        hand = diverted()
        hand.call("c1")
        self.assertEqual(self.words(hand), ["Storm → 01632 960111"])
        self.assertEqual(hand.shown("call.c1")["call"]["phase"], "ringing")
        hand.after(5)
        self.assertEqual(hand.shown("call.c1")["call"]["phase"], "outside")
        hand.after(31)
        self.assertEqual(self.ending(hand), "elsewhere")

    def test_nobody_answers_and_what_follows_is_the_normal_way_or_a_mailbox(self):
        hand = diverted(target="+441632960118")
        hand.call("c1")
        hand.after(21)
        went = [h.fact for h in hand.written() if h.kind is Kind.WENT_ON]
        self.assertEqual((went[0].flow, hand.centre.contacts["c1"].state.step), ("flow-1", "hello"))
        hand = diverted(target="+441632960117", then="mailbox", then_target="night")
        hand.call("c1")
        hand.after(1 + 2 + 10)
        hand.do("call.key", contact="c1", key="#")
        left = [h.fact for h in hand.written() if h.kind is Kind.MESSAGE_LEFT]
        self.assertEqual([fact.mailbox for fact in left], ["night"])
        self.assertAlmostEqual(left[0].length_ms, 10 * SECOND, delta=SECOND)
        self.assertEqual(self.ending(hand), "message")
        self.assertEqual(hand.shown("strip")["figures"]["messages"], 1)

    def test_it_counts_for_calls_that_arrive_while_it_is_in_force(self):
        until = datetime.fromtimestamp(NOON / 1000 + 60, UTC)
        hand = diverted(until=until)
        self.assertEqual(hand.shown("strip")["figures"]["diversions"], 1)
        hand.call("c1")
        hand.after(61)
        self.assertEqual(hand.shown("strip")["diversions"], {})
        hand.call("c2")
        self.assertEqual(len(self.words(hand)), 1)
        self.assertEqual(hand.centre.contacts["c2"].state.step, "hello")

    def test_lifting_it_leaves_calls_under_way_alone(self):
        hand = diverted()
        hand.call("c1")
        hand.after(5)
        hand.centre.configure(configuration(), hand.now)
        self.assertEqual(hand.centre.contacts["c1"].state.phase, "outside")

    def test_hanging_up_while_it_rings_or_talks_ends_it_and_an_old_answer_does_nothing(self):
        for seconds, ending in ((1, "hung_up"), (5, "elsewhere")):
            hand = diverted()
            hand.call("c1")
            hand.after(seconds)
            hand.do("call.hang_up", contact="c1")
            hand.after(60)
            self.assertEqual(self.ending(hand), ending)

    def test_after_a_crash_the_outside_line_rings_again_and_a_recording_goes_on(self):
        for target, then, phase in (
            ("+441632960111", "end", "ringing"),
            ("+441632960117", "mailbox", "recording"),
        ):
            with self.subTest(phase):
                hand = diverted(target=target, then=then, then_target="night")
                hand.call("c1")
                hand.after(3.5)
                self.assertEqual(hand.centre.contacts["c1"].state.phase, phase)
                after = restarted(hand, 0)
                after.after(70)
                self.assertEqual(after.centre.contacts, {})
                ending = "elsewhere" if phase == "ringing" else "message"
                self.assertEqual(self.ending(after), ending)

    def test_the_number_hands_its_values_to_the_flow_and_to_the_next_one(self):
        one = load(
            {
                "start": "go",
                "steps": [{"kind": "go", "id": "go", "flow": "flow:two"}],
                "inputs": [{"name": "desk", "type": "queue"}],
            }
        )
        two = load(
            {
                "start": "wait",
                "steps": [{"kind": "queue", "id": "wait", "queue": "value:desk"}],
                "inputs": [{"name": "desk", "type": "queue"}],
            }
        )
        number = NumberFacts("n", NUMBER, "Main line", "one", values={"desk": "queue:bookings"})
        config = configuration(numbers={NUMBER: number}, flows={"one": script(one), "two": script(two)})
        hand = Hand(config)
        hand.call("c1")
        self.assertEqual([w.id for w in hand.centre.router.waiting("bookings")], ["c1"])

    def test_a_text_number_takes_no_calls(self):
        number = NumberFacts("n", NUMBER, "Texts", "flow-1", channel="text")
        hand = Hand(configuration(numbers={NUMBER: number}))
        with self.assertRaisesRegex(EventRefused, "takes text messages"):
            hand.call("c1")
