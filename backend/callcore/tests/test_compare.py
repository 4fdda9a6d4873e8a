"""What two authors changed differently, in words."""

import unittest

from hypothesis import given

from callcore.flow.compare import clashes
from callcore.flow.definition import End, Flow, MenuArm
from callcore.tests.flows import WORLD, main_line, text, with_step
from callcore.tests.random_flows import random_flows


class ClashTests(unittest.TestCase):
    BASE = main_line()

    def clashes(self, mine, theirs):
        return [(c.step, c.part, c.mine, c.theirs) for c in clashes(self.BASE, mine, theirs, WORLD)]

    def test_only_what_both_changed_differently_is_asked_part_by_part(self):
        mine = with_step(with_step(self.BASE, "hello", prompt=text("Hello.")), "menu", wait_s=5)
        theirs = with_step(with_step(self.BASE, "hello", prompt=text("Good day.")), "menu", tries=2)
        self.assertEqual(self.clashes(mine, theirs),
                         [("hello", "prompt", "“Hello.”", "“Good day.”")])  # fmt: skip
        self.assertEqual(self.clashes(mine, mine), [])
        self.assertEqual(self.clashes(mine, self.BASE), [])

    def test_arms_are_compared_by_their_keys(self):
        menu = next(s for s in self.BASE.steps if s.id == "menu")

        def arms(second, *more):
            changed = (menu.arms[0], menu.arms[1].model_copy(update={"label": second}), *more)
            return with_step(self.BASE, "menu", arms=changed)

        found = self.clashes(arms("Boats", MenuArm(key="7", next="bye")), arms("Ships"))
        self.assertEqual([(step, part) for step, part, *_ in found], [("menu", "arms 2")])
        self.assertIn("Boats", found[0][2])

    def test_a_stop_that_one_took_out_and_the_other_changed_is_asked_as_a_whole(self):
        without = self.BASE.model_copy(
            update={"steps": tuple(s for s in self.BASE.steps if s.id != "hello")}
        )
        ((step, part, mine, theirs),) = self.clashes(
            without, with_step(self.BASE, "hello", prompt=text("Hello."))
        )
        self.assertEqual((step, part, mine), ("hello", "", "taken out"))
        self.assertIn("Hello.", theirs)

    @given(random_flows(), random_flows())
    def test_whoever_changed_nothing_is_asked_nothing(self, flow, other):
        self.assertEqual(clashes(flow, flow, other, WORLD), [])
        self.assertEqual(clashes(flow, other, flow, WORLD), [])
        both = clashes(Flow(start="x", steps=(End(id="x"),)), flow, other, WORLD)
        self.assertTrue(all(c.label for c in both))
