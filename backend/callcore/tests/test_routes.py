import random
import unittest
from collections import Counter

from hypothesis import given, settings

from callcore.flow.catalogue import Catalogue
from callcore.flow.definition import Flow, Menu, MenuArm, Say
from callcore.flow.fates import fates
from callcore.flow.routes import _arms, routes
from callcore.tests.flows import WORLD, main_line, text, with_step
from callcore.tests.random_flows import random_flows


def loop_erased(flow: Flow, rng: random.Random) -> tuple | None:
    """One caller's way with the rounds cut out; None where they never leave."""
    arms = _arms(flow, {})
    at, way, seen = flow.start, [], [flow.start]
    for _ in range(2000):
        arm = rng.choices(arms[at], [a.share for a in arms[at]])[0]
        if arm.to is None:
            return (*way, (at, arm.name))
        if arm.to in seen:
            cut = seen.index(arm.to)
            way, seen = way[:cut], seen[: cut + 1]
        else:
            way.append((at, arm.name))
            seen.append(arm.to)
        at = arm.to
    return None


class RouteTests(unittest.TestCase):
    def test_every_way_is_a_row_with_its_choices_ending_and_time(self):
        found = routes(main_line(), WORLD)
        rows = [([t.label for t in r.turns if t.choice], r.fate, r.place) for r in found.listed]
        self.assertIn((["1 Bookings"], "person", "Bookings"), rows)
        self.assertIn((["2 Sailing today"], "ended", "Sailings heard"), rows)
        self.assertIn((["1 Bookings", "waited too long"], "ended", "Sailings heard"), rows)
        silent = next(r for r in found.listed if r.turns[1].exit == "no_key")
        self.assertGreater(silent.shortest_s, 3 * 8)
        self.assertAlmostEqual(sum(r.share for r in found.listed), 1.0)
        self.assertTrue(found.complete)

    def test_a_queue_without_a_longest_wait_makes_the_longest_time_open(self):
        facts = WORLD.queues["queue:bookings"]._replace(longest_wait_s=None)
        catalogue = WORLD._replace(queues={"queue:bookings": facts})
        by_choice = {r.turns[1].exit: r for r in routes(main_line(), catalogue).listed}
        self.assertIsNone(by_choice["key:1"].longest_s)

    def test_recorded_counts_give_the_shares(self):
        counts = {("menu", "key:1"): 30, ("menu", "key:2"): 70, ("wait", "answered"): 30}
        listed = routes(main_line(), WORLD, counts).listed
        shares = {r.turns[1].exit: round(r.share, 6) for r in listed if r.share > 1e-9}
        self.assertEqual(shares, {"key:1": 0.3, "key:2": 0.7})

    def test_thousands_of_routes_are_cut_short_and_the_rest_is_told(self):
        steps = []
        for i in range(12):
            arms = tuple(MenuArm(key=k, next=f"s{i}{k}") for k in "123")
            steps.append(Menu(id=f"m{i}", prompt=text("x"), arms=arms, no_key=f"m{i + 1}"))
            steps += [Say(id=f"s{i}{k}", prompt=text("x"), next=f"m{i + 1}") for k in "123"]
        found = routes(Flow(start="m0", steps=tuple(steps)), Catalogue())
        self.assertFalse(found.complete)
        self.assertEqual(len(found.listed), 300)
        self.assertGreater(found.rest, 0.5)

    @given(random_flows())
    def test_shares_sum_to_what_leaves(self, flow):
        steps = {step.id for step in flow.steps}
        if flow.start not in steps:
            return
        leaves = sum(fates(flow).ends[flow.start].values())
        found = routes(flow, Catalogue())
        if found.complete and found.total <= 300 and leaves > 0.999:
            self.assertAlmostEqual(sum(r.share for r in found.listed), 1.0, places=5)

    def test_shares_agree_with_callers_sent_through_by_brute_force(self):
        flow = with_step(main_line(), "menu", no_key="hello")
        flow = with_step(flow, "wait", waited="menu")
        rng, runs = random.Random(5), 20_000
        seen = Counter(loop_erased(flow, rng) for _ in range(runs))
        for route in routes(flow, WORLD).listed:
            way = tuple((t.step, t.exit) for t in route.turns)
            self.assertAlmostEqual(seen[way] / runs, route.share, delta=0.012)

    @settings(max_examples=15, deadline=None)
    @given(random_flows(kinds=("say", "menu", "repeat", "end")))
    def test_random_flows_agree_with_brute_force_too(self, flow):
        if flow.start not in {step.id for step in flow.steps}:
            return
        rng, runs = random.Random(7), 1500
        ways = [loop_erased(flow, rng) for _ in range(runs)]
        if None in ways:
            return
        seen = Counter(ways)
        for route in routes(flow, Catalogue()).listed:
            way = tuple((t.step, t.exit) for t in route.turns)
            self.assertAlmostEqual(seen[way] / runs, route.share, delta=0.07)
