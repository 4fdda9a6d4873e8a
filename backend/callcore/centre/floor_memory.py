"""What supervisors look at and did, folded from the events: of today, and the alerts that stand."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from typing import Any

from callcore.events import Happening, facts
from callcore.measures.alerts import Watch
from callcore.measures.looks import LastRings

#: So many lines of an agent's chat are shown.
MOST_SAID = 50
#: The state that each act of a supervisor leads to.
_LEADS_TO = {"available": "available", "away": "away", "sign_out": "out"}
#: States that an agent is in before what was asked for comes.
_BEFORE = frozenset({"on_contact", "wrapping"})


class FloorMemory:
    """Kept while somebody may look; a simulation does without."""

    def __init__(self) -> None:
        self._since_ms = 0
        #: The alerts that stand, by rule: the events by which they arose, and were seen last.
        self.alerts: dict[str, tuple[Happening, Happening | None]] = {}
        self.watch = Watch()
        self.begin_day(0)

    def begin_day(self, since_ms: int) -> None:
        """Forget what was before a moment, but for alerts, which stand until they are over."""
        self._since_ms = since_ms
        self.last_rings = LastRings()
        #: What a supervisor had each agent do last, until they do something else.
        self.steered: dict[str, Happening] = {}
        #: What each agent and their supervisors wrote to each other, newest last.
        self.chats: dict[str, deque[Happening]] = {}

    def apply(self, event: Happening) -> None:
        """An event, new or read back."""
        take = _TAKES.get(type(event.fact))
        if take is not None and (event.at_ms >= self._since_ms or take is FloorMemory._alert):
            take(self, event, event.fact)

    def _rang(self, event: Happening, _fact: Any) -> None:
        self.last_rings.apply(event)

    def _steered(self, event: Happening, fact: facts.Steered) -> None:
        if event.agent and fact.act in _LEADS_TO:
            self.steered[event.agent] = event

    def _changed(self, event: Happening, fact: facts.AgentChanged) -> None:
        told = self.steered.get(event.agent)
        if told is not None and _undone(told, fact):
            del self.steered[event.agent]

    def _said(self, event: Happening, _fact: facts.Said) -> None:
        self.chats.setdefault(event.agent, deque(maxlen=MOST_SAID)).append(event)

    def _alert(self, event: Happening, fact: facts.Alert) -> None:
        stands = self.alerts.get(fact.rule)
        if fact.state == "arisen":
            self.alerts[fact.rule] = (event, None)
        elif fact.state == "seen" and stands is not None:
            self.alerts[fact.rule] = (stands[0], event)
        elif fact.state == "over":
            self.alerts.pop(fact.rule, None)


def _undone(told: Happening, fact: facts.AgentChanged) -> bool:
    """Whether a state is not the one, nor on the way to the one, that a supervisor asked for."""
    assert isinstance(told.fact, facts.Steered)
    wanted = _LEADS_TO[told.fact.act]
    return fact.status != wanted and (fact.status not in _BEFORE or wanted == "available")


_TAKES: dict[type, Callable[[FloorMemory, Happening, Any], None]] = {
    facts.Answered: FloorMemory._rang,
    facts.RingStopped: FloorMemory._rang,
    facts.Steered: FloorMemory._steered,
    facts.AgentChanged: FloorMemory._changed,
    facts.Said: FloorMemory._said,
    facts.Alert: FloorMemory._alert,
}
