"""Alerts: a rule over a live figure, for how long it must hold, and in which hours.

Pure: a rule and its figure go in, whether an alert arises or is over comes out.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from typing import NamedTuple

from callcore import wording

#: An alert is over once its rule has not held for so long: what wavers is one alert, not many.
OVER_MS = 60_000


class Figure(NamedTuple):
    """A live figure: what it is called, what it is counted in, and the words for a value."""

    name: str
    unit: str
    words: str


#: What rules are over. Of a queue, or of all together.
FIGURES: dict[str, Figure] = {
    "waiting": Figure("Waiting", "", "{} waiting"),
    "longest": Figure("Longest wait", "s", "the longest wait is {}"),
    "expected": Figure("Expected wait", "s", "{} to be expected"),
    "available": Figure("Available agents", "", "{} available"),
    "signed_in": Figure("Signed-in agents", "", "{} signed in"),
    "away": Figure("Agents away", "", "{} away"),
    "level": Figure("Service level today", "%", "service level today {}"),
    "level_now": Figure("Service level, last half hour", "%", "service level of the half hour {}"),
    "abandoned": Figure("Abandoned today", "", "{} abandoned today"),
}


class AlertRule(NamedTuple):
    """`queue` empty: of all. `above`: it holds above `value`, else below. `weekdays`: Monday is 0,
    empty for all; `from_min`, `until_min`: minutes of the day, None for all of it, over midnight
    where they are so. `teams`: whose supervisors are told; empty: those of the queue."""

    id: str
    name: str
    figure: str
    queue: str = ""
    above: bool = True
    value: float = 0.0
    for_ms: int = 60_000
    weekdays: tuple[int, ...] = ()
    from_min: int | None = None
    until_min: int | None = None
    teams: tuple[str, ...] = ()

    def holds(self, value: float | None) -> bool:
        """Whether a figure is where it should not be; one that cannot be had is not."""
        if value is None:
            return False
        return value > self.value if self.above else value < self.value

    def counts_at(self, local: datetime) -> bool:
        """Whether it is looked at at a moment, by the centre's clock."""
        if self.weekdays and local.weekday() not in self.weekdays:
            return False
        if self.from_min is None or self.until_min is None or self.from_min == self.until_min:
            return True
        minute = local.hour * 60 + local.minute
        if self.from_min < self.until_min:
            return self.from_min <= minute < self.until_min
        return minute >= self.from_min or minute < self.until_min


def said(rule: AlertRule, value: float) -> str:
    """A figure in words: "9 waiting, more than 5"."""
    figure = FIGURES[rule.figure]
    than = "more than" if rule.above else "less than"
    return f"{figure.words.format(_number(value, figure))}, {than} {_number(rule.value, figure)}"


def _number(value: float, figure: Figure) -> str:
    if figure.unit == "s":
        return wording.length(value * 1000)
    shown = f"{value:.1f}".removesuffix(".0")
    return f"{shown} %" if figure.unit == "%" else shown


@dataclass(slots=True)
class _Seen:
    """Since when a rule holds, or holds no more."""

    holds: bool
    since_ms: int


class Watch:
    """Which rules hold, and for how long already."""

    def __init__(self) -> None:
        self._seen: dict[str, _Seen] = {}

    def look(self, rule: AlertRule, holds: bool, stands: bool, now_ms: int) -> bool:
        """Whether its alert stands from now on, by whether the rule holds and its alert stood."""
        seen = self._seen.get(rule.id)
        if seen is None or seen.holds != holds:
            seen = self._seen[rule.id] = _Seen(holds, now_ms)
        if holds:
            return stands or now_ms - seen.since_ms >= rule.for_ms
        return stands and now_ms - seen.since_ms < OVER_MS

    def keep(self, rules: Iterable[str]) -> None:
        """Forget the rules that are gone."""
        known = set(rules)
        self._seen = {name: seen for name, seen in self._seen.items() if name in known}
