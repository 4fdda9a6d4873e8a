"""What people are like, taken from what was recorded of real ones: as plain data, to be looked at
and changed before it counts. What too little is known of is left out, and stays as it is."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

from callcore.people.distributions import LONGEST_S
from callcore.people.profile import DAYS, MOST_AN_HOUR, QUARTERS

#: From so many of something on it says what people are like.
ENOUGH = 30


class Lengths(NamedTuple):
    """How many there were (`number`), their mean and their standard deviation (s)."""

    number: int
    mean_s: float
    deviation_s: float


class Recorded(NamedTuple):
    """What was counted over some days.

    Args:
        arrivals: contacts by weekday (Monday is 0) and quarter-hour. days: how many days of each
            weekday they are of. load: the arrivals' share of the profile that is wanted (1: all).
        waited_s: all time that callers waited, whether they were answered or gave up. gave_up: how
            many did.
    """

    arrivals: Mapping[tuple[int, int], int]
    days: Sequence[int]
    load: float
    talk: Lengths
    wraps: Lengths
    waited_s: float
    gave_up: int
    rings: int
    missed: int
    parts: int
    held: int
    sent_on: int
    coded: int


def as_said(recorded: Recorded) -> dict[str, Any]:
    """The people who would have been like that; see `callcore.people.said`.

    Patience is exponential, its mean all waiting divided by the number who gave up: the estimate of
    greatest likelihood where the waits of those who were answered end before their patience does
    (Kaplan and Meier's censored times, for the exponential distribution).
    """
    said: dict[str, Any] = {}
    if sum(recorded.arrivals.values()) >= ENOUGH and recorded.load > 0:
        said["profile"] = _profile(recorded)
    for name, lengths in (("talk", recorded.talk), ("wraps", recorded.wraps)):
        if lengths.number >= ENOUGH and 0 < lengths.mean_s <= LONGEST_S:
            spread = min(10.0, max(0.05, lengths.deviation_s / lengths.mean_s))
            said[name] = {"kind": "lognormal", "mean_s": round(lengths.mean_s, 1), "spread": round(spread, 2)}
    if recorded.gave_up >= ENOUGH:
        mean_s = min(LONGEST_S, max(1.0, recorded.waited_s / recorded.gave_up))
        said["patience"] = {"kind": "exponential", "mean_s": round(mean_s, 1)}
    if recorded.rings >= ENOUGH:
        said["missed"] = round(recorded.missed / recorded.rings, 3)
    if recorded.parts >= ENOUGH:
        for name in ("held", "sent_on", "coded"):
            said[name] = round(getattr(recorded, name) / recorded.parts, 3)
    return said


def _profile(recorded: Recorded) -> list[list[float]]:
    """Arrivals an hour by weekday and quarter-hour; a weekday that was not met has none."""
    return [
        [
            _rate(recorded.arrivals.get((weekday, quarter), 0), recorded.days[weekday], recorded.load)
            for quarter in range(QUARTERS)
        ]
        for weekday in range(len(DAYS))
    ]


def _rate(count: int, days: int, load: float) -> float:
    return min(MOST_AN_HOUR, round(4 * count / days / load, 2)) if days else 0.0
