"""Stops made into a shared block."""

import unittest

from callcore.errors import DefinitionError
from callcore.flow.blocks import MOST_LAID, laid_out, laid_size
from callcore.flow.catalogue import Catalogue
from callcore.flow.checks import check
from callcore.flow.definition import Block, Digits, End, Flow, Input, Say
from callcore.flow.extract import NEW_BLOCK, extract
from callcore.flow.runner import NOTHING_AROUND
from callcore.flow.trial import Trial
from callcore.flow.trial_setup import Setup
from callcore.tests.flows import WORLD, main_line, text, with_step


class ExtractTests(unittest.TestCase):
    def test_stops_become_a_block_and_callers_meet_the_same_as_before(self):
        flow = Flow(
            start="hello",
            inputs=(Input(name="port", default="Ostrel"),),
            steps=(
                Say(id="hello", prompt=text("Hello."), next="ask"),
                Digits(
                    id="ask",
                    prompt=text("At {port}, your booking?"),
                    into="ref",
                    least=2,
                    most=2,
                    tries=1,
                    next="thanks",
                    no_digits="bye",
                ),
                Say(id="thanks", prompt=text("Thank you."), next="read"),
                Say(id="read", prompt=text("You typed {ref}."), next="bye"),
                End(id="bye", prompt=text("Goodbye.")),
            ),
        )
        block, left, made = extract(flow, ["ask", "thanks"], Catalogue())
        self.assertEqual([(i.name, i.default) for i in block.inputs], [("port", "Ostrel")])
        use = next(step for step in left.steps if step.id == made)
        self.assertEqual((use.worked, use.not_worked), ("read", "bye"))
        self.assertEqual(block.outputs, ("ref",))
        self.assertEqual([s.id for s in left.steps], ["hello", made, "read", "bye"])

        def heard(flow, keys):
            setup = Setup(keys=keys)
            laid = laid_out(flow, lambda ref, _: block if ref == NEW_BLOCK else None)
            run = Trial(flow, laid, Catalogue(), setup, NOTHING_AROUND, lambda _t, _k: None, 0).run()
            return run.heard, run.ending, run.place

        for keys in (("4", "2"), ("wait",)):
            self.assertEqual(heard(left, keys), heard(flow, keys))

    def test_blocks_within_blocks_have_one_room_and_the_checker_says_so(self):
        def block(inner):
            uses = [Block(id=f"u{i}", flow=inner, worked="end", not_worked="end") for i in range(40)]
            return Flow(purpose="block", start="u0", steps=(*uses, End(id="end")))

        levels = {f"flow:{n}": block(f"flow:{n + 1}") for n in range(5)}
        levels["flow:5"] = Flow(purpose="block", start="end", steps=(End(id="end"),))
        flow = block("flow:1")

        def library(ref, _):
            return levels.get(ref)

        self.assertGreater(laid_size(flow, library), 40**4)
        self.assertLess(len(laid_out(flow, library).steps), 3 * MOST_LAID)
        catalogue = Catalogue(laid=laid_size(flow, library))
        self.assertIn("too-large", {f.code for f in check(flow, catalogue)})
        self.assertEqual(laid_size(levels["flow:5"], library), 1)

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
