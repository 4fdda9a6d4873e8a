"""The states that each agent was in within the last hour, as the floor draws them."""

from __future__ import annotations

from collections import deque

from callcore.centre.topics import Span
from callcore.routing.events import Status

_HOUR_MS = 3_600_000
#: States that began within ten minutes are told together: fewer things to compare, and little that
#: is told again.
_TOGETHER_MS = 600_000


class Spans:
    """Ten minutes of an agent an item, with an id of its own. What follows changes none but the
    last, and that by another in its place."""

    def __init__(self) -> None:
        self._spans: dict[str, Span] = {}
        #: Each agent's ids, oldest first.
        self._lines: dict[str, deque[str]] = {}

    def add(self, agent: str, team_id: str, at_ms: int, status: Status) -> None:
        """An agent's state began; those that ended more than an hour before it are forgotten."""
        name = f"{agent} {at_ms // _TOGETHER_MS}"
        line = self._lines.setdefault(agent, deque())
        known = self._spans.get(name)
        if known is None:
            line.append(name)
        began = (at_ms, status)
        states = [*known["states"], began] if known else [began]
        self._spans[name] = {"agent": agent, "team_id": team_id, "states": states}
        while len(line) > 1 and self._spans[line[1]]["states"][0][0] < at_ms - _HOUR_MS:
            del self._spans[line.popleft()]

    def shown(self) -> dict[str, Span]:
        """All of them by their ids, as they are now; an agent's oldest first."""
        return dict(self._spans)

    def last(self, agent: str) -> Status | None:
        """The state that an agent is in; None where nothing is known of them."""
        line = self._lines.get(agent)
        return self._spans[line[-1]]["states"][-1][1] if line else None
