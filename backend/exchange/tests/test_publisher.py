import unittest

from callcore.tests.centre.hand import Hand
from exchange.live.publisher import Change, difference


class DifferenceTests(unittest.TestCase):
    def test_a_change_names_what_was_set_and_what_is_gone(self):
        before = {"queues": {"a": {"n": 1}, "b": {"n": 2}}, "centre": {"n": 3}}
        after = {"queues": {"a": {"n": 1}, "c": {"n": 4}}, "centre": {"n": 3}}
        expected = Change({"queues": {"c": {"n": 4}}}, {"queues": ["b"]})
        self.assertEqual(difference(before, after), expected)

    def test_a_state_is_told_without_the_hour_before_it(self):
        hand = Hand()
        hand.ready("ann")
        before = hand.shown("floor")
        hand.after(660)
        hand.do("agent.away", agent="ann", reason="Lunch")
        change = difference(before, hand.shown("floor"))
        (span,) = change.set["spans"].values()
        self.assertEqual(span["states"], [(hand.now, "away")])
        self.assertEqual(list(change.set["agents"]), ["ann"])
        self.assertEqual(change.gone, {})
