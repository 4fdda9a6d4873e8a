"""Shared blocks, laid into the flows that use them."""

import unittest

from callcore.flow.blocks import laid_out, plain, plainly
from callcore.flow.definition import Block, Digits, End, Flow, Input, Say, load
from callcore.flow.runner import Due, Key, Machine, Play
from callcore.tests.flows import text

SECOND = 1000
#: Monday 23 November 2026, 12:00 in London.
NOON = 1_795_435_200_000


class BlockTests(unittest.TestCase):
    """A shared block that asks for a booking and says whether it worked."""

    BLOCK = Flow(
        start="ask",
        inputs=(Input(name="words", default="Your booking?"),),
        outputs=("booking",),
        steps=(
            Digits(
                id="ask", prompt=text("{words}"), into="booking", most=3, tries=1, next="ok", no_digits="bad"
            ),
            End(id="ok", prompt=text("Thank you.")),
            End(id="bad", worked=False),
        ),
    )
    USE = Block(
        id="use",
        flow="flow:b",
        take=({"output": "booking", "into": "mine"},),
        give=({"input": "words", "to": "Booking, please."},),
        worked="said",
        not_worked="a",
    )
    SAID = Say(id="said", prompt=text("{mine}"), next="b")

    def laid(self, *steps, library=None):
        flow = Flow(start="use", steps=(*steps, End(id="a"), End(id="b")))
        return laid_out(flow, library or (lambda _ref, _version: self.BLOCK))

    def run_keys(self, flow, keys):
        machine = Machine(flow, lambda _: 2 * SECOND)
        state, effects = machine.start(0, {"caller": "+44"})
        heard = [e.prompt.text for e in effects if isinstance(e, Play)]
        for event in [*(Key(k) for k in keys), *[Due()] * 9]:
            if state.phase == "ended":
                break
            now = state.due_ms if isinstance(event, Due) else 0
            state, effects = machine.resume(state, event, now)
            heard += [e.prompt.text for e in effects if isinstance(e, Play)]
        return heard, effects[-1].step

    def test_values_go_in_and_come_back_and_worked_leads_on(self):
        heard, end = self.run_keys(self.laid(self.USE, self.SAID), "123")
        self.assertEqual((heard, end), (["Booking, please.", "Thank you.", "123"], "b"))

    def test_not_worked_has_its_own_exit(self):
        self.assertEqual(self.run_keys(self.laid(self.USE, self.SAID), "*")[1], "a")

    def test_two_uses_of_a_block_keep_their_values_apart(self):
        other = self.USE.model_copy(update={"id": "second", "worked": "both", "take": (), "give": ()})
        first = self.USE.model_copy(update={"worked": "second"})
        both = Say(id="both", prompt=text("{mine}"), next="b")
        quiet = self.BLOCK.model_copy(update={"steps": (self.BLOCK.steps[0], End(id="ok"))})
        flow = self.laid(first, other, both, library=lambda *_: quiet)
        heard, _ = self.run_keys(flow, "123456")
        self.assertEqual(heard[-1], "123")
        self.assertIn("Your booking?", heard)

    def test_people_read_the_names_that_authors_gave(self):
        values = {"booking": 1, "b0_3_booking": 2, "b0_3_b1_0_words": "x", "b0_3_": None}
        self.assertEqual(plainly(values), {"booking": 1, "words": "x"})
        self.assertEqual(plain("b0_3_b1_0_words = 5"), "words = 5")

    def test_a_block_that_is_not_there_or_holds_itself_has_not_worked(self):
        self.assertEqual(self.run_keys(self.laid(self.USE, library=lambda *_: None), "")[1], "a")
        self_holding = Flow(start="use", steps=(self.USE.model_copy(update={"worked": "e"}), End(id="e")))
        flow = self.laid(self.USE, self.SAID, library=lambda *_: self_holding)
        self.assertLess(len(flow.steps), 60)

    def test_a_laid_out_flow_is_a_definition_but_for_its_ids(self):
        flow = self.laid(self.USE, self.SAID)
        data = flow.model_dump(mode="json")
        for step in data["steps"]:
            for name, value in step.items():
                if isinstance(value, str) and "." in value and name not in ("prompt",):
                    step[name] = value.replace(".", "-")
        self.assertEqual(len(load(data).steps), len(flow.steps))

    def test_exits_that_the_block_leaves_open_have_not_worked(self):
        broken = self.BLOCK.model_copy(
            update={"steps": (Digits(id="ask", into="booking", most=3, tries=1, next=None),)}
        )
        flow = self.laid(self.USE, self.SAID, library=lambda *_: broken)
        self.assertEqual(self.run_keys(flow, "123")[1], "a")
