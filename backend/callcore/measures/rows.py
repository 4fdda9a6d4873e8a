"""The figures of one queue over a time, as parts that add up.

Outcomes are booked to the interval in which the contact was offered, so every
row reconciles: offered = answered + abandoned + left otherwise + under way.
"""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import NamedTuple

from callcore.events.facts import Formula as Formula

INTERVAL_MS = 15 * 60 * 1000

#: The service-level formulas in words; the queue chooses, the report names it.
FORMULAS: dict[Formula, str] = {
    "A": "(answered + abandoned − both late) ÷ (answered + abandoned)",
    "B": "answered in time ÷ answered",
    "C": "answered in time ÷ offered",
    "D": "answered in time ÷ (offered − short abandons)",
}
#: What each is a share of: so reports name the level.
FORMULA_NAMES: dict[Formula, str] = {
    "A": "of answered and abandoned",
    "B": "of answered",
    "C": "of offered",
    "D": "of offered but short",
}


class Term(NamedTuple):
    """A part of a sum: a column of the rows, added (1) or taken off (-1)."""

    column: str
    sign: int = 1


def terms(*names: str) -> tuple[Term, ...]:
    """Terms by the names of their columns, those that are taken off with a minus before it."""
    return tuple(Term(name.lstrip("-"), -1 if name.startswith("-") else 1) for name in names)


#: What is divided by what for the service level of each formula.
LEVELS: dict[Formula, tuple[tuple[Term, ...], tuple[Term, ...]]] = {
    "A": (
        terms("answered", "abandoned", "-answered_late", "-abandoned_late"),
        terms("answered", "abandoned"),
    ),
    "B": (terms("answered", "-answered_late"), terms("answered")),
    "C": (terms("answered", "-answered_late"), terms("offered")),
    "D": (terms("answered", "-answered_late"), terms("offered", "-short_abandons")),
}


class Limits(NamedTuple):
    """What a queue counts as late and as a short abandon (ms), and its formula: as they were when
    the contact was offered."""

    threshold_ms: int = 60_000
    short_abandon_ms: int = 5_000
    formula: Formula = "A"

    def late_from_ms(self, entered_ms: int) -> int:
        """The first moment (ms) at which one who came into the queue at another counts as late: a
        wait of just the threshold is in time."""
        return entered_ms + self.threshold_ms + 1


@dataclass(slots=True)
class QueueRow:
    """Counts and sums (milliseconds) of one queue; waits are waits in the queue.

    `messages`, `callbacks`, `elsewhere`, `ended`: left the queue without an answer and left a
    message, was promised a callback, was sent elsewhere, or its flow ended. `legs`: agents' parts,
    `talk_ms`, `hold_ms`, `wrap_ms` are of them. `longest_arrival_ms`: from arrival to answer.
    """

    offered: int = 0
    answered: int = 0
    abandoned: int = 0
    messages: int = 0
    callbacks: int = 0
    elsewhere: int = 0
    ended: int = 0
    under_way: int = 0
    short_abandons: int = 0
    answered_late: int = 0
    abandoned_late: int = 0
    wait_answered_ms: int = 0
    wait_abandoned_ms: int = 0
    longest_answered_ms: int = 0
    longest_abandoned_ms: int = 0
    longest_arrival_ms: int = 0
    up_front_ms: int = 0
    legs: int = 0
    transferred: int = 0
    callbacks_reached: int = 0
    talk_ms: int = 0
    hold_ms: int = 0
    wrap_ms: int = 0

    def add(self, other: QueueRow) -> None:
        """Take another row in: sums add, longest takes the longest."""
        for name in COLUMNS:
            mine, theirs = getattr(self, name), getattr(other, name)
            setattr(self, name, max(mine, theirs) if name in LONGEST else mine + theirs)

    @property
    def left_otherwise(self) -> int:
        """Out of the queue without an answer, and not given up."""
        return self.messages + self.callbacks + self.elsewhere + self.ended

    @property
    def average_wait_ms(self) -> float | None:
        """Average wait in the queue over the answered; None where nobody was."""
        return self.wait_answered_ms / self.answered if self.answered else None

    def level_parts(self, formula: Formula) -> tuple[int, int]:
        """What is divided by what for the service level of a formula."""
        over, under = LEVELS[formula]
        return self.sum_of(over), self.sum_of(under)

    def sum_of(self, terms: tuple[Term, ...]) -> int:
        """What some terms come to."""
        return sum(term.sign * int(getattr(self, term.column)) for term in terms)

    def service_level(self, formula: Formula) -> float | None:
        """Share (0..1) by the chosen formula; None where there is nothing to divide by."""
        part, whole = self.level_parts(formula)
        return part / whole if whole else None


def below_goal(level: float | None, goal: float | None) -> bool:
    """Whether a service level misses its goal (both 0 to 1); not where either is unknown."""
    return level is not None and goal is not None and level < goal


COLUMNS = tuple(f.name for f in fields(QueueRow))
#: Of these the longest counts; all others add up.
LONGEST = tuple(name for name in COLUMNS if name.startswith("longest"))


def total(rows: list[QueueRow]) -> QueueRow:
    """The row of all rows together."""
    result = QueueRow()
    for row in rows:
        result.add(row)
    return result
