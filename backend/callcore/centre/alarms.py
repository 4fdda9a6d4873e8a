"""Emergencies: who has pressed the button, until somebody of the floor takes it."""

from __future__ import annotations

from typing import NamedTuple

from callcore.events import Happening, facts

#: So many stand at once; of more, the oldest are let go.
MOST = 200


class Alarm(NamedTuple):
    """An agent in need, and since when (ms since the epoch)."""

    agent: str
    since_ms: int


class Alarms(dict[str, Alarm]):
    """The emergencies that nobody has taken, by contact."""

    def apply(self, event: Happening) -> None:
        """What an event, new or read back, says of emergencies."""
        if isinstance(event.fact, facts.Emergency):
            self[event.contact] = Alarm(event.agent, event.at_ms)
            while len(self) > MOST:
                self.pop(next(iter(self)))
        elif isinstance(event.fact, facts.EmergencyTaken):
            self.pop(event.contact, None)
