import unittest

import numpy as np
from hypothesis import given

from callcore.flow.definition import exits
from callcore.flow.fates import arm_shares, fates, own_fate
from callcore.tests.flows import main_line, with_step
from callcore.tests.random_flows import random_flows


class FatesTests(unittest.TestCase):
    def test_shares_of_a_stop_sum_to_one(self):
        flow = main_line()
        shares = arm_shares(flow, {("menu", "key:1"): 3, ("menu", "no_key"): 1})
        self.assertEqual(shares[("menu", "key:1")], 0.75)
        for step in ("hello", "menu", "wait"):
            self.assertAlmostEqual(sum(v for (s, _), v in shares.items() if s == step), 1)

    def test_recorded_callers_give_exact_fates_through_a_loop(self):
        """Of four at the menu one is put through, one leaves, two hear the greeting again."""
        flow = with_step(main_line(), "menu", no_key="hello")
        counts = {
            ("menu", "key:1"): 1,
            ("menu", "key:2"): 1,
            ("menu", "no_key"): 2,
            ("wait", "answered"): 9,
            ("wait", "waited"): 1,
        }
        found, reach = fates(flow, counts)
        self.assertAlmostEqual(found["hello"]["person"], 0.5 * 0.9)
        self.assertAlmostEqual(found["hello"]["ended"], 0.5 * 0.1 + 0.5)
        self.assertEqual(found["bye"], {"ended": 1.0})
        self.assertAlmostEqual(reach["menu"], 2)
        self.assertAlmostEqual(reach["wait"], 0.5)

    def test_an_ending_that_nobody_met_today_is_still_there(self):
        found, reach = fates(main_line(), {("menu", "key:1"): 5, ("wait", "answered"): 5})
        self.assertEqual(found["menu"], {"person": 1.0, "ended": 0.0})
        self.assertEqual((reach["wait"], reach["bye"]), (1.0, 0.0))


class DenseTests(unittest.TestCase):
    @given(random_flows())
    def test_the_sparse_solution_is_that_of_plain_gauss(self, flow):
        """B = (I - Q)⁻¹ R, with every stop's ways put into a full matrix."""
        shares = arm_shares(flow, {})
        place = {step.id: at for at, step in enumerate(flow.steps)}
        leads, ends = np.eye(len(place)), np.zeros(len(place))
        for step in flow.steps:
            if own_fate(step) == "ended":
                ends[place[step.id]] = 1
                continue
            for way in exits(step):
                share = shares[step.id, way.name] * (1 - 1e-12)
                if way.to in place:
                    leads[place[step.id], place[way.to]] -= share
                else:
                    ends[place[step.id]] += share
        expected = np.linalg.solve(leads, ends)
        for step_id, told in fates(flow).ends.items():
            self.assertAlmostEqual(told.get("ended", 0.0), expected[place[step_id]], places=6)
