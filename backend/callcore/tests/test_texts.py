"""Text flows: messages choose, answer, and are kept."""

import unittest

from callcore.flow.catalogue import Catalogue, QueueFacts
from callcore.flow.checks import check
from callcore.flow.conditions import Comparison, Group
from callcore.flow.definition import Digits, End, Flow, Fork, ForkArm, Menu, MenuArm, Say, WaitInQueue
from callcore.flow.runner import NOTHING_AROUND, Due, JoinQueue, Machine, Play, Texted
from callcore.flow.trial import Trial
from callcore.flow.trial_setup import Setup
from callcore.tests.flows import text

NOON = 1_795_435_200_000
WORLD = Catalogue(queues={"queue:q": QueueFacts("Desk", True, 2, 900)}, channel="text")
FLOW = Flow(
    channel="text",
    start="which",
    steps=(
        Fork(
            id="which",
            otherwise="menu",
            arms=(
                ForkArm(
                    id="s",
                    next="sails",
                    when=Group(parts=(Comparison(value="message", how="contains", other="sail"),)),
                ),
            ),
        ),
        Say(id="sails", prompt=text("All boats sail today."), next="menu"),
        Menu(
            id="menu",
            prompt=text("Bookings or lost?"),
            wait_s=3600,
            tries=2,
            no_key="bye",
            arms=(
                MenuArm(key="1", label="Bookings", words=("book", "tocyn", "café"), next="ref"),
                MenuArm(key="2", label="Lost", next="wait"),
            ),
        ),
        Digits(
            id="ref",
            prompt=text("Your booking?"),
            into="ref",
            least=4,
            most=4,
            next="wait",
            no_digits="bye",
            wait_s=3600,
        ),
        WaitInQueue(id="wait", queue="queue:q", waited="bye"),
        End(id="bye", prompt=text("Goodbye.")),
    ),
)


def trial(*messages: str):
    setup = Setup(keys=messages)
    return Trial(FLOW, FLOW, WORLD, setup, NOTHING_AROUND, lambda _t, _k: None, NOON).run()


class TextTests(unittest.TestCase):
    def test_the_first_message_decides_and_answers_choose_by_key_label_or_word(self):
        self.assertEqual(trial("Do you SAIL?", "Lost!").stops, ["which", "sails", "menu", "wait"])
        for answer in ("1", " bookings ", "Book", "CAFE", "tocyn."):
            self.assertIn("ref", trial("hi", answer, "ref 1042 please").stops)
        self.assertEqual(trial("hi", "2").ending, "person")

    def test_an_answer_that_fits_nothing_is_asked_again_and_at_last_leaves(self):
        result = trial("hi", "what?", "eh?")
        self.assertEqual((result.ending, result.place), ("ended", "Goodbye."))
        self.assertEqual(result.heard.count("Bookings or lost?"), 2)

    def test_figures_are_found_in_an_answer(self):
        self.assertEqual(trial("hi", "1", "booking 1042, thanks").ending, "person")
        self.assertEqual(trial("hi", "1", "12345", "99", "1").ending, "ended")

    def test_a_message_in_the_queue_is_kept_and_moves_nothing(self):
        machine = Machine(FLOW, lambda _: 60_000)
        state, effects = machine.start(NOON, {"message": "sailing today"})
        self.assertIsInstance(effects[-1], Play)
        self.assertLess(state.due_ms, NOON + 1000)
        state, _ = machine.resume(state, Due(), state.due_ms)
        state, effects = machine.resume(state, Texted("lost"), NOON + 5000)
        self.assertIsInstance(effects[-1], JoinQueue)
        after, effects = machine.resume(state, Texted("still there?"), NOON + 9000)
        self.assertEqual((after.phase, effects), ("queued", ()))
        self.assertEqual(after.values["message"], "still there?")

    def test_the_checker_asks_for_no_spoken_keys_in_a_text(self):
        self.assertEqual([f.code for f in check(FLOW, WORLD)], [])
