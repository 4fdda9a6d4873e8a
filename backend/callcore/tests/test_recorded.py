"""People as real ones were: the figures that were put in come out again."""

import random
import unittest

from callcore.people.distributions import Exponential, Lognormal
from callcore.people.recorded import Lengths, Recorded, as_said
from callcore.people.said import traits_of

NOTHING = Lengths(0, 0.0, 0.0)


def recorded(**changed):
    usual = Recorded(
        arrivals={(0, 40): 120},
        days=[4] * 7,
        load=0.5,
        talk=Lengths(500, 200.0, 120.0),
        wraps=Lengths(400, 30.0, 15.0),
        waited_s=60_000.0,
        gave_up=400,
        rings=1000,
        missed=40,
        parts=500,
        held=60,
        sent_on=20,
        coded=450,
    )
    return usual._replace(**changed)


class RecordedTests(unittest.TestCase):
    def test_it_can_be_said_and_is_what_was_counted(self):
        traits = traits_of(as_said(recorded()))
        self.assertEqual(traits.profile.days[0][40], 4 * 120 / 4 / 0.5)
        self.assertEqual(sum(map(sum, traits.profile.days)), 240.0)
        self.assertEqual(traits.callers.talk, Lognormal(200.0, 0.6))
        self.assertEqual(traits.agents.wraps, Lognormal(30.0, 0.5))
        self.assertEqual(traits.callers.patience, Exponential(150.0))
        agents = traits.agents
        self.assertEqual((agents.missed, agents.held, agents.sent_on, agents.coded), (0.04, 0.12, 0.04, 0.9))

    def test_what_too_little_is_known_of_is_not_said(self):
        few = recorded(
            talk=Lengths(3, 200.0, 1.0), wraps=NOTHING, gave_up=2, rings=5, parts=9, arrivals={(0, 1): 4}
        )
        self.assertEqual(as_said(few), {})

    def test_patience_is_found_though_most_are_answered_before_it_ends(self):
        rng = random.Random(5)
        waited, gave_up = 0.0, 0
        for _ in range(20_000):
            patience, answer = rng.expovariate(1 / 150), rng.expovariate(1 / 20)
            waited += min(patience, answer)
            gave_up += patience < answer
        said = as_said(recorded(waited_s=waited, gave_up=gave_up))
        self.assertAlmostEqual(said["patience"]["mean_s"], 150, delta=8)
