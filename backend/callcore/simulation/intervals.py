"""Means of several runs, each an observation of its own, with what they leave uncertain."""

from __future__ import annotations

import math
from collections.abc import Sequence
from statistics import NormalDist, fmean, stdev
from typing import NamedTuple

#: Student's t at the middle 95 % and 99 %, by degrees of freedom from 1; beyond by expansion.
_TABLE = {
    0.95: (12.706, 4.303, 3.182, 2.776, 2.571, 2.447, 2.365, 2.306, 2.262, 2.228),
    0.99: (63.657, 9.925, 5.841, 4.604, 4.032, 3.707, 3.499, 3.355, 3.250, 3.169),
}


class Estimate(NamedTuple):
    """A mean of runs; the true one lies within `half` of it with the chance that was asked for.
    `half` is infinite for one run."""

    mean: float
    half: float
    runs: int

    def holds(self, value: float) -> bool:
        """Whether a value lies within."""
        return abs(value - self.mean) <= self.half


def student(chance: float, freedom: int) -> float:
    """Student's t for the middle `chance` (0.95 or 0.99).

    Beyond ten degrees of freedom by the Cornish–Fisher expansion (Abramowitz and Stegun, 26.7.5).
    """
    table = _TABLE[chance]
    if freedom <= len(table):
        return table[freedom - 1]
    z = NormalDist().inv_cdf((1 + chance) / 2)
    terms = (
        z,
        (z**3 + z) / 4,
        (5 * z**5 + 16 * z**3 + 3 * z) / 96,
        (3 * z**7 + 19 * z**5 + 17 * z**3 - 15 * z) / 384,
    )
    return math.fsum(term / float(freedom) ** power for power, term in enumerate(terms))


def estimate(observed: Sequence[float], chance: float = 0.95) -> Estimate:
    """The mean of independent runs, with its interval across them.

    Raises:
        ValueError: nothing was observed.
    """
    if not observed:
        raise ValueError("There is no run to take a mean of.")
    runs = len(observed)
    if runs == 1:
        return Estimate(observed[0], math.inf, 1)
    half = student(chance, runs - 1) * stdev(observed) / math.sqrt(runs)
    return Estimate(fmean(observed), half, runs)
