"""Who of the agents needs a look first: measured against what their supervisor calls too long, or
too often."""

from __future__ import annotations

from collections import deque
from typing import Literal, NamedTuple

from callcore.events import Happening, facts

#: So many of an agent's last rings are looked at.
LAST = 5
Why = Literal["long_talk", "long_wrap", "long_away", "missed", "desk_closed", "help", "wrote"]


class Need(NamedTuple):
    """Why somebody needs a look, from when on (ms), and by which limit: seconds, or rings."""

    why: Why
    from_ms: int
    limit: int


class LastRings:
    """Which of each agent's last rings were missed, folded from the events."""

    def __init__(self) -> None:
        self._of: dict[str, deque[tuple[int, bool]]] = {}

    def apply(self, event: Happening) -> None:
        """A ring that was answered, or let pass."""
        fact = event.fact
        missed = isinstance(fact, facts.RingStopped)
        if isinstance(fact, facts.RingStopped) and fact.why not in ("missed", "declined"):
            return
        self._of.setdefault(event.agent, deque(maxlen=LAST)).append((event.at_ms, missed))

    def missed(self, agent: str) -> tuple[int, int]:
        """How many of the last were missed, and since when that many are (ms)."""
        rings = self._of.get(agent, ())
        found = [at_ms for at_ms, missed in rings if missed]
        return len(found), found[-1] if found else 0
