"""How long something takes, as a distribution with mean and spread (seconds)."""

from __future__ import annotations

import math
import random
from collections.abc import Sequence
from typing import NamedTuple, Protocol

#: No wait or talk is longer than this, whatever was drawn.
LONGEST_S = 24 * 3600.0
_MOST_PHASES = 1_000


class Distribution(Protocol):
    """Something to draw from."""

    def draw(self, rng: random.Random) -> float:
        """A length in seconds."""


class Fixed(NamedTuple):
    """Always the same."""

    mean_s: float

    def draw(self, rng: random.Random) -> float:
        return self.mean_s


class Exponential(NamedTuple):
    """Without memory; the spread is as large as the mean."""

    mean_s: float

    def draw(self, rng: random.Random) -> float:
        return min(LONGEST_S, -math.log(1.0 - rng.random()) * self.mean_s)


class Lognormal(NamedTuple):
    """As talks and wrap-ups are: many short ones, some very long.

    `spread`: standard deviation divided by the mean. With it, σ² = ln(1 + spread²) and
    μ = ln(mean) − σ²/2.
    """

    mean_s: float
    spread: float

    def draw(self, rng: random.Random) -> float:
        variance = math.log(1 + self.spread**2)
        drawn = rng.lognormvariate(math.log(self.mean_s) - variance / 2, math.sqrt(variance))
        return min(LONGEST_S, drawn)


class Erlang(NamedTuple):
    """The sum of `phases` equal exponential phases; the spread is 1/√phases."""

    mean_s: float
    phases: int

    def draw(self, rng: random.Random) -> float:
        return min(LONGEST_S, rng.gammavariate(self.phases, self.mean_s / self.phases))


class Empirical(NamedTuple):
    """One of what was recorded."""

    values_s: Sequence[float]

    def draw(self, rng: random.Random) -> float:
        return rng.choice(self.values_s)


def distribution(kind: str, mean_s: float, spread: float = 1.0) -> Distribution:
    """A distribution by name: `fixed`, `exponential`, `lognormal` or `erlang`.

    Args:
        mean_s: in seconds.
        spread: standard deviation divided by the mean.

    Raises:
        ValueError: there is none of this name, or none with this mean and spread; in words.
    """
    if not 0 < mean_s <= LONGEST_S:
        raise ValueError("A mean lies above 0 and is a day at the most.")
    match kind:
        case "fixed":
            return Fixed(mean_s)
        case "exponential":
            return Exponential(mean_s)
        case "lognormal" if 0 < spread <= 10:
            return Lognormal(mean_s, spread)
        case "erlang" if _MOST_PHASES**-0.5 <= spread <= 1:
            return Erlang(mean_s, max(1, round(spread**-2)))
        case "lognormal":
            raise ValueError("The spread of a lognormal distribution lies above 0, up to 10.")
        case "erlang":
            raise ValueError("The spread of an Erlang distribution lies between 0.032 and 1.")
    raise ValueError(f"There is no distribution “{kind}”.")
