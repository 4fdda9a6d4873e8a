"""A contact in one line, as lists find and show it: when, who, where it ended, what was pressed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from callcore.events import Happening, facts

#: So many keys are kept of one contact; whoever presses more is no use to look for.
MOST_KEYS = 40


@dataclass(slots=True)
class Summary:
    """What a contact's own events say of it; `keys` in their order, only those of the caller."""

    number: str = ""
    caller: str = ""
    flow: str = ""
    arrived_ms: int = 0
    ended_ms: int = 0
    ending: str = ""
    keys: str = ""
    recorded: bool = False
    texts: bool = False
    inner: bool = False
    callback: bool = False

    def apply(self, event: Happening) -> None:
        """Take in the contact's next event."""
        take = _TAKES.get(type(event.fact))
        if take is not None:
            take(self, event, event.fact)

    def _arrived(self, event: Happening, fact: facts.Arrived) -> None:
        self.number, self.caller, self.flow = fact.number, fact.caller, fact.flow
        self.arrived_ms, self.inner = event.at_ms, bool(fact.consult_of)

    def _booked(self, event: Happening, fact: facts.Booked) -> None:
        self.number, self.caller, self.flow = fact.number, fact.caller, fact.flow
        self.arrived_ms, self.callback = event.at_ms, True

    def _keyed(self, _event: Happening, fact: facts.Keyed) -> None:
        if not fact.by and len(self.keys) < MOST_KEYS:
            self.keys += fact.key[:1]

    def _recorded(self, _event: Happening, fact: facts.RecordsTalk) -> None:
        self.recorded = self.recorded or fact.on

    def _texted(self, _event: Happening, _fact: facts.Texted) -> None:
        self.texts = True

    def _ended(self, event: Happening, fact: facts.Ended) -> None:
        self.ended_ms, self.ending = event.at_ms, fact.ending


_TAKES: dict[type, Callable[[Summary, Happening, Any], None]] = {
    facts.Arrived: Summary._arrived,
    facts.Booked: Summary._booked,
    facts.Keyed: Summary._keyed,
    facts.RecordsTalk: Summary._recorded,
    facts.Texted: Summary._texted,
    facts.Ended: Summary._ended,
}
#: The kinds of facts that a summary takes in.
TAKEN = tuple(_TAKES)
