"""The course of one contact as lanes over time: where it was, what was heard, pressed, waited and
spoken, and what was recorded. Of the same events, by the same account, as every figure."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from typing import Any, NamedTuple

from callcore.events import Happening, facts
from callcore.measures.account import Account, Leg, Stay
from callcore.measures.rows import QueueRow

#: More of one kind than a picture can show.
MOST_PIECES = 400


class Piece(NamedTuple):
    """From a moment to another (ms): what (`kind`), and of which thing."""

    kind: str
    of: str
    from_ms: int
    until_ms: int


class Press(NamedTuple):
    """A key, and when it was pressed."""

    at_ms: int
    key: str


@dataclass(slots=True)
class Course:
    """All lanes. `where`: `flow`, `queue`, `person`, `outside`; `hears`: `words`, `music`; `rings`
    are agents rung, `holds` pieces of hold, `recorded` pieces that were recorded."""

    begins_ms: int = 0
    ends_ms: int = 0
    over: bool = False
    where: list[Piece] = field(default_factory=list)
    hears: list[Piece] = field(default_factory=list)
    keys: list[Press] = field(default_factory=list)
    rings: list[Piece] = field(default_factory=list)
    holds: list[Piece] = field(default_factory=list)
    recorded: list[Piece] = field(default_factory=list)
    texts: list[Piece] = field(default_factory=list)
    stays: list[Stay] = field(default_factory=list)
    legs: list[Leg] = field(default_factory=list)


class _Lane:
    """One lane while it is drawn: at most one piece is open."""

    def __init__(self, pieces: list[Piece]) -> None:
        self._pieces = pieces
        self._open: Piece | None = None

    def begin(self, kind: str, of: str, at_ms: int, lasts_ms: int | None = None) -> None:
        """Another piece; what was open ends here at the latest."""
        self.end(at_ms)
        self._open = Piece(kind, of, at_ms, at_ms + lasts_ms if lasts_ms is not None else 0)

    def end(self, at_ms: int) -> None:
        """The open piece ends here, or where it was to end if that was before."""
        if self._open is None:
            return
        until_ms = min(at_ms, self._open.until_ms) if self._open.until_ms else at_ms
        if until_ms > self._open.from_ms and len(self._pieces) < MOST_PIECES:
            self._pieces.append(self._open._replace(until_ms=until_ms))
        self._open = None


class _Drawing:
    """A course while its events are read."""

    def __init__(self) -> None:
        self.course = Course()
        self.account = Account()
        self._flow = ""
        lanes = self.course
        self._where, self._hears = _Lane(lanes.where), _Lane(lanes.hears)
        self._rings, self._holds = _Lane(lanes.rings), _Lane(lanes.holds)
        self._recorded = _Lane(lanes.recorded)

    def take(self, event: Happening) -> None:
        self.account.apply(event, lambda _stay: QueueRow())
        draw = _DRAWS.get(type(event.fact))
        if draw is not None:
            draw(self, event, event.fact)

    def end(self, at_ms: int) -> Course:
        for lane in (self._where, self._hears, self._rings, self._holds, self._recorded):
            lane.end(at_ms)
        course = self.course
        course.stays, course.legs = self.account.stays, self.account.legs
        wrapped = [leg.wrapping_ms + leg.wrap_ms for leg in course.legs if leg.wrapping_ms]
        course.ends_ms = max([at_ms, *wrapped])
        return course

    def _arrived(self, event: Happening, fact: facts.Arrived) -> None:
        self.course.begins_ms, self._flow = event.at_ms, fact.flow
        self._where.begin("flow", fact.flow, event.at_ms)

    def _booked(self, event: Happening, fact: facts.Booked) -> None:
        self.course.begins_ms, self._flow = event.at_ms, fact.flow
        self._where.begin("queue", fact.queue, event.at_ms)

    def _went_on(self, event: Happening, fact: facts.WentOn) -> None:
        self._flow = fact.flow
        self._where.begin("flow", fact.flow, event.at_ms)

    def _queued(self, event: Happening, fact: facts.Queued) -> None:
        self._where.begin("queue", fact.queue, event.at_ms)

    def _back_in_flow(self, event: Happening, _fact: Any) -> None:
        self._where.begin("flow", self._flow, event.at_ms)

    def _heard(self, event: Happening, fact: facts.Heard) -> None:
        self._hears.begin("words", fact.step, event.at_ms, fact.length_ms)

    def _music(self, event: Happening, fact: facts.Music) -> None:
        self._hears.begin("music", fact.step, event.at_ms, max(0, fact.until_ms - event.at_ms))

    def _keyed(self, event: Happening, fact: facts.Keyed) -> None:
        if not fact.by and len(self.course.keys) < MOST_PIECES:
            self.course.keys.append(Press(event.at_ms, fact.key))

    def _texted(self, event: Happening, fact: facts.Texted) -> None:
        if len(self.course.texts) < MOST_PIECES:
            self.course.texts.append(Piece(fact.by, "", event.at_ms, event.at_ms))

    def _rang(self, event: Happening, _fact: facts.Rang) -> None:
        self._rings.begin("ring", event.agent, event.at_ms)

    def _ring_stopped(self, event: Happening, _fact: facts.RingStopped) -> None:
        self._rings.end(event.at_ms)

    def _rang_out(self, event: Happening, fact: facts.RangOut) -> None:
        if fact.result == "answered":
            self._where.begin("outside", fact.step, event.at_ms)

    def _answered(self, event: Happening, _fact: facts.Answered) -> None:
        self._rings.end(event.at_ms)
        self._hears.end(event.at_ms)
        self._where.begin("person", event.agent, event.at_ms)

    def _leg_ended(self, event: Happening, fact: facts.LegEnded) -> None:
        self._holds.end(event.at_ms)
        self._back_in_flow(event, fact)

    def _held(self, event: Happening, fact: facts.Held) -> None:
        if fact.on:
            self._holds.begin("hold", event.agent, event.at_ms)
        else:
            self._holds.end(event.at_ms)

    def _records(self, event: Happening, fact: facts.RecordsTalk) -> None:
        if fact.on:
            self._recorded.begin("recorded", "", event.at_ms)
        else:
            self._recorded.end(event.at_ms)

    def _ended(self, event: Happening, _fact: facts.Ended) -> None:
        self.course.over = True
        for lane in (self._where, self._hears, self._rings, self._recorded):
            lane.end(event.at_ms)


_DRAWS: dict[type, Callable[[_Drawing, Happening, Any], None]] = {
    facts.Arrived: _Drawing._arrived,
    facts.Booked: _Drawing._booked,
    facts.WentOn: _Drawing._went_on,
    facts.Queued: _Drawing._queued,
    facts.LeftQueue: _Drawing._back_in_flow,
    facts.Heard: _Drawing._heard,
    facts.Music: _Drawing._music,
    facts.Keyed: _Drawing._keyed,
    facts.Texted: _Drawing._texted,
    facts.Rang: _Drawing._rang,
    facts.RingStopped: _Drawing._ring_stopped,
    facts.RangOut: _Drawing._rang_out,
    facts.Answered: _Drawing._answered,
    facts.LegEnded: _Drawing._leg_ended,
    facts.Held: _Drawing._held,
    facts.RecordsTalk: _Drawing._records,
    facts.Ended: _Drawing._ended,
}


def course_of(events: Iterable[Happening], now_ms: int) -> Course:
    """The course of a contact from all of its events, in their order.

    Args:
        now_ms: up to when it has come, if it is not over.
    """
    drawing, last_ms = _Drawing(), 0
    for event in events:
        drawing.take(event)
        if isinstance(event.fact, facts.Ended):
            last_ms = event.at_ms
    return drawing.end(last_ms or now_ms)
