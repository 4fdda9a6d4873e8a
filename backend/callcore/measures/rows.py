"""The figures of one queue over a time, as parts that add up.

Outcomes are booked to the interval in which the contact was offered, so every
row reconciles: offered = answered + abandoned + left otherwise + under way.
"""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Literal

INTERVAL_MS = 15 * 60 * 1000

Formula = Literal["A", "B", "C", "D"]

#: The service-level formulas in words; the queue chooses, the report names it.
FORMULAS: dict[Formula, str] = {
    "A": "(answered + abandoned − both late) ÷ (answered + abandoned)",
    "B": "answered in time ÷ answered",
    "C": "answered in time ÷ offered",
    "D": "answered in time ÷ (offered − short abandons)",
}

_LONGEST = ("longest_answered_ms", "longest_abandoned_ms")


@dataclass(slots=True)
class QueueRow:
    """Counts and sums (milliseconds) of one queue; waits are waits in the queue."""

    offered: int = 0
    answered: int = 0
    abandoned: int = 0
    left_otherwise: int = 0
    under_way: int = 0
    short_abandons: int = 0
    answered_late: int = 0
    abandoned_late: int = 0
    wait_answered_ms: int = 0
    longest_answered_ms: int = 0
    longest_abandoned_ms: int = 0
    up_front_ms: int = 0
    talk_ms: int = 0
    hold_ms: int = 0
    wrap_ms: int = 0

    def add(self, other: QueueRow) -> None:
        """Take another row in: sums add, longest takes the longest."""
        for name in _NAMES:
            mine, theirs = getattr(self, name), getattr(other, name)
            setattr(self, name, max(mine, theirs) if name in _LONGEST else mine + theirs)

    @property
    def average_wait_ms(self) -> float | None:
        """Average wait in the queue over the answered; None where nobody was."""
        return self.wait_answered_ms / self.answered if self.answered else None

    def service_level(self, formula: Formula) -> float | None:
        """Share (0..1) by the chosen formula; None where there is nothing to divide by."""
        in_time = self.answered - self.answered_late
        match formula:
            case "A":
                whole = self.answered + self.abandoned
                part = whole - self.answered_late - self.abandoned_late
            case "B":
                part, whole = in_time, self.answered
            case "C":
                part, whole = in_time, self.offered
            case "D":
                part, whole = in_time, self.offered - self.short_abandons
        return part / whole if whole else None


_NAMES = tuple(f.name for f in fields(QueueRow))


def total(rows: list[QueueRow]) -> QueueRow:
    """The row of all rows together."""
    result = QueueRow()
    for row in rows:
        result.add(row)
    return result
