"""Which events are of callers: what colleagues say to each other counts in no figure of callers."""

from __future__ import annotations

from callcore.events import Happening
from callcore.events.facts import AgentChanged, Arrived, Ended


class Callers:
    """A filter on the stream, to be asked once for each event in its order."""

    def __init__(self) -> None:
        self._asides: set[str] = set()

    def counts(self, event: Happening) -> bool:
        """Whether an event is of a caller's contact, or of an agent alone."""
        if isinstance(event.fact, Arrived) and event.fact.consult_of:
            self._asides.add(event.contact)
        if event.contact not in self._asides:
            return True
        if isinstance(event.fact, Ended):
            self._asides.discard(event.contact)
        return isinstance(event.fact, AgentChanged)
