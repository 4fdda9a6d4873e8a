"""The states that each agent was in within the last hour, as the floor draws them."""

from __future__ import annotations

from collections import deque

from callcore.centre.topics import Span
from callcore.routing.events import Status

_HOUR_MS = 3_600_000
#: States that began within ten minutes are told together: fewer things to compare, and little that
#: is told again. So many of them at the most, and so many such items of an agent: a desk that
#: changes its state again and again does not grow without end.
_TOGETHER_MS = 600_000
_MOST_TOGETHER = 30
_MOST_ITEMS = 30


class Spans:
    """Some minutes of an agent an item, with an id of its own. What follows changes none but the
    last, and that by another in its place."""

    def __init__(self) -> None:
        self._spans: dict[str, Span] = {}
        #: Each agent's ids, oldest first.
        self._lines: dict[str, deque[str]] = {}
        self._count = 0

    def add(self, agent: str, team_id: str, at_ms: int, status: Status) -> None:
        """An agent's state began; those that ended more than an hour before it are forgotten."""
        line = self._lines.setdefault(agent, deque())
        states = self._spans[line[-1]]["states"] if line else []
        full = len(states) == _MOST_TOGETHER
        if not states or full or at_ms - states[0][0] >= _TOGETHER_MS:
            self._count += 1
            line.append(f"{agent} {self._count}")
            states = []
        told: Span = {"agent": agent, "team_id": team_id, "states": [*states, (at_ms, status)]}
        self._spans[line[-1]] = told
        while len(line) > 1 and (len(line) > _MOST_ITEMS or self._ended(line[1], at_ms)):
            del self._spans[line.popleft()]

    def _ended(self, follows: str, at_ms: int) -> bool:
        """Whether an item lies more than an hour back, by where the next one begins."""
        return self._spans[follows]["states"][0][0] < at_ms - _HOUR_MS

    def shown(self) -> dict[str, Span]:
        """All of them by their ids, as they are now; an agent's oldest first."""
        return dict(self._spans)

    def last(self, agent: str) -> Status | None:
        """The state that an agent is in; None where nothing is known of them."""
        line = self._lines.get(agent)
        return self._spans[line[-1]]["states"][-1][1] if line else None
