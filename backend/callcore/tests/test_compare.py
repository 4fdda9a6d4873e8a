"""What two authors changed differently, in words."""

import unittest

from hypothesis import given

from callcore.flow import describe
from callcore.flow.compare import clashes, in_words
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
        self.assertEqual(self.clashes(mine, theirs), [("hello", "prompt", "“Hello.”", "“Good day.”")])
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
        without = self.BASE.model_copy(update={"steps": tuple(s for s in self.BASE.steps if s.id != "hello")})
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


class WordsTests(unittest.TestCase):
    BASE = main_line()

    def details(self, after):
        (change,) = in_words(self.BASE, after, WORLD)
        return list(change.details)

    def menu(self, **changed):
        menu = next(s for s in self.BASE.steps if s.id == "menu")
        first, *others = menu.arms
        arms = (first.model_copy(update=changed), *others)
        return with_step(self.BASE, "menu", arms=arms), first

    def test_a_key_is_told_field_by_field(self):
        after, key = self.menu(label="Sailings")
        self.assertEqual(
            self.details(after), [f"its ways, key {key.key}, what it is for: {key.label} → Sailings"]
        )

    def test_a_word_that_is_also_a_stop_is_only_a_word(self):
        after, _ = self.menu(words=("hello", "menu"))
        self.assertTrue(self.details(after)[0].endswith("its words: nothing → hello, menu"))

    def test_where_a_key_leads_is_told_by_the_stops_name(self):
        after, _ = self.menu(next="hello")
        name = describe.stop(self.BASE.steps[0], WORLD).name
        self.assertIn(f"→ “{name}”", self.details(after)[0])

    def test_a_text_is_told_word_by_word(self):
        long = "one two three four five six seven eight nine ten eleven twelve thirteen fourteen"
        base = with_step(self.BASE, "hello", prompt=text(f"Hello. {long} Bye."))
        after = with_step(self.BASE, "hello", prompt=text(f"Good day. {long} Bye now."))
        (change,) = in_words(base, after, WORLD)
        self.assertEqual(
            change.details,
            (
                "what is said: “[Hello. → Good day.] one two three four five six … nine ten eleven "
                "twelve thirteen fourteen [Bye. → Bye now.]”",
            ),
        )

    def test_words_that_come_again_and_again_are_told_by_where_the_texts_part(self):
        texts = [f"Hello. {'on ' * 40}and {'on ' * n}bye." for n in (30, 50)]
        base, after = (with_step(self.BASE, "hello", prompt=text(said)) for said in texts)
        (change,) = in_words(base, after, WORLD)
        self.assertIn("[nothing → on on", change.details[0])
