"""Who spoke last with a caller: for queues that let whoever knows them go first."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from callcore.events import Happening
from callcore.events.facts import Answered, Arrived, Booked, Ended
from callcore.measures.callers import Callers

#: A caller and an agent know each other for so long.
KNOWN_MS = 7 * 24 * 3_600_000


class Acquaintances:
    """Folded from the one stream of events; what colleagues ask each other makes none."""

    def __init__(self) -> None:
        self._spoke: dict[str, tuple[str, int]] = {}
        self._caller_of: dict[str, str] = {}
        self._callers = Callers()
        #: What is done with an event, by the kind of its fact; others do nothing here.
        self.handlers: dict[type, Callable[[Happening, Any], None]] = {
            Arrived: self._on_caller,
            Booked: self._on_caller,
            Answered: self._on_answered,
            Ended: self._on_ended,
        }

    def apply(self, event: Happening) -> None:
        """Take in the next event of the stream."""
        handler = self.handlers.get(type(event.fact))
        if self._callers.counts(event) and handler is not None:
            handler(event, event.fact)

    def _on_caller(self, event: Happening, fact: Arrived | Booked) -> None:
        self._caller_of[event.contact] = fact.caller

    def _on_answered(self, event: Happening, fact: Answered) -> None:
        if event.contact in self._caller_of:
            self.met(self._caller_of[event.contact], event.agent, event.at_ms)

    def _on_ended(self, event: Happening, fact: Ended) -> None:
        self._caller_of.pop(event.contact, None)

    def met(self, caller: str, agent: str, at_ms: int) -> None:
        """An agent spoke with a caller; of several the last counts."""
        known = self._spoke.get(caller)
        if known is None or known[1] <= at_ms:
            self._spoke[caller] = (agent, at_ms)

    def of(self, caller: str) -> str | None:
        """The agent who spoke with a caller last."""
        known = self._spoke.get(caller)
        return known[0] if known else None

    def forget(self, now_ms: int) -> None:
        """Leave out those who met too long ago."""
        since_ms = now_ms - KNOWN_MS
        self._spoke = {c: (a, at) for c, (a, at) in self._spoke.items() if at >= since_ms}
