"""Stops made into a shared block."""

import unittest

from callcore.errors import DefinitionError
from callcore.flow.blocks import laid_out
from callcore.flow.definition import Digits, End, Flow, Input, Say
from callcore.flow.extract import NEW_BLOCK, extract
from callcore.flow.runner import NOTHING_AROUND
from callcore.flow.trial import Setup, Trial
from callcore.flow.world import World
from callcore.tests.flows import WORLD, main_line, text, with_step


class ExtractTests(unittest.TestCase):
    def test_stops_become_a_block_and_callers_meet_the_same_as_before(self):
        flow = Flow(
            start="hello",
            inputs=(Input(name="port", default="Ostrel"),),
            steps=(
                Say(id="hello", prompt=text("Hello."), next="ask"),
                Digits(id="ask", prompt=text("At {port}, your booking?"), into="ref", least=2,
                       most=2, tries=1, next="thanks", no_digits="bye"),
                Say(id="thanks", prompt=text("Thank you."), next="read"),
                Say(id="read", prompt=text("You typed {ref}."), next="bye"),
                End(id="bye", prompt=text("Goodbye.")),
            ),
        )  # fmt: skip
        block, left, made = extract(flow, ["ask", "thanks"], World())
        self.assertEqual([i.name for i in block.inputs], ["port"])
        self.assertEqual(block.outputs, ("ref",))
        self.assertEqual([s.id for s in left.steps], ["hello", made, "read", "bye"])

        def heard(flow, keys):
            setup = Setup(keys=keys)
            laid = laid_out(flow, lambda ref, _: block if ref == NEW_BLOCK else None)
            run = Trial(flow, laid, World(), setup, NOTHING_AROUND, lambda _t, _k: None, 0).run()
            return run.heard, run.ending, run.place

        for keys in (("4", "2"), ("wait",)):
            self.assertEqual(heard(left, keys), heard(flow, keys))

    def test_what_is_no_block_is_refused_in_words(self):
        flow = main_line()
        cases = (
            (flow, [], "Choose"),
            (flow, ["bye"], "ends the call"),
            (main_line(purpose="plan"), ["hello"], "waiting plan"),
            (with_step(flow, "menu", no_key=None), ["menu"], "leads nowhere"),
            (with_step(flow, "menu", no_key="hello"), ["menu"], "two ways out"),
            (flow, ["hello", "wait"], "one beginning"),
        )
        for given, chosen, words in cases:
            with self.subTest(words), self.assertRaisesRegex(DefinitionError, words):
                extract(given, chosen, WORLD)
