"""The ridge of the journey strip: what happened at each stage, minute by minute."""

from __future__ import annotations

from typing import Any

from callcore.events import Happening, facts
from callcore.measures.callers import Callers

MINUTES = 60
_STAGES: dict[type, str] = {
    facts.Arrived: "arrive",
    facts.Moved: "guide",
    facts.Queued: "wait",
    facts.Answered: "talk",
    facts.Coded: "wrap",
    facts.Ended: "learn",
}
STAGES = tuple(_STAGES.values())


class Activity:
    """Counts by stage and minute; older minutes are forgotten as newer ones come."""

    def __init__(self) -> None:
        self._counts: dict[str, dict[int, int]] = {stage: {} for stage in STAGES}
        self._callers = Callers()
        #: What is done with an event, by the kind of its fact; others do nothing here.
        self.handlers = dict.fromkeys(_STAGES, self._happened)

    def apply(self, event: Happening) -> None:
        """Take in the next event of the stream."""
        if self._callers.counts(event) and type(event.fact) in _STAGES:
            self._happened(event, event.fact)

    def _happened(self, event: Happening, fact: Any) -> None:
        stage = _STAGES[type(fact)]
        minutes = self._counts[stage]
        minute = event.at_ms // 60_000
        minutes[minute] = minutes.get(minute, 0) + 1
        if len(minutes) > 2 * MINUTES:
            self._counts[stage] = {m: n for m, n in minutes.items() if m > minute - MINUTES}

    def lines(self, now_ms: int) -> dict[str, list[int]]:
        """For each stage, the counts of the last 60 minutes, oldest first."""
        last = now_ms // 60_000
        span = range(last - MINUTES + 1, last + 1)
        return {s: [counts.get(m, 0) for m in span] for s, counts in self._counts.items()}
