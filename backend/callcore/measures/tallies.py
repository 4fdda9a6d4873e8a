"""What one contact adds to the counts of numbers, flows, mailboxes and the like: how often
something happened there, for how long, and the longest."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any, NamedTuple

from callcore.events import Happening, facts
from callcore.flow.state import WITHIN
from callcore.measures.rows import INTERVAL_MS
from callcore.speech.values import band

#: So many times that a wait was told are counted of one wait.
MOST_TOLD = 100


class Counted(StrEnum):
    """What is counted, of which thing, by which detail."""

    #: Contacts of a number, booked when they arrived: `arrived`, and by how they ended.
    NUMBER = "number"
    #: Exits of a flow's stops: `stop exit`, with the time spent at the stop.
    ARM = "arm"
    #: Ends of contacts in a flow: `stop ending`, the stop empty where they had left it.
    END = "end"
    #: Keys that callers pressed in a flow: `stop key`.
    KEY = "key"
    #: Messages for a mailbox.
    MAILBOX = "mailbox"
    #: Ringings of an outside number, by what came of them; with the time of the talk.
    OUTSIDE = "outside"
    #: Contacts that a diversion sent elsewhere, by their number.
    DIVERSION = "diversion"
    #: Rings at an agent, by what came of them.
    RING = "ring"
    #: Callbacks of a queue: `booked`, `reached`, `not_reached`, `cancelled`; with the time between.
    CALLBACK = "callback"
    #: Waits in a queue that callers were told of, and that ended with an agent: `as_told`, `sooner`
    #: or `later` than what was told means; with what it was told too long or too short.
    TOLD = "told"


class Tally(NamedTuple):
    """What is counted where: of a thing, by a detail, in an interval (its number)."""

    what: Counted
    thing: str
    detail: str
    interval: int


@dataclass(slots=True)
class Amount:
    """How often, for how long together, and the longest (ms)."""

    count: int = 0
    ms: int = 0
    longest_ms: int = 0

    def add(self, ms: int = 0) -> None:
        """Once more."""
        self.count += 1
        self.lasts(ms)

    def lasts(self, ms: int) -> None:
        """Some time more."""
        self.ms += ms
        self.longest_ms = max(self.longest_ms, ms)


AmountOf = Callable[[Tally], Amount]


@dataclass(slots=True)
class Steps:
    """One contact's way, as far as it is known."""

    inner: bool = False
    begun: bool = False
    number: str = ""
    flow: str = ""
    arrived_ms: int = 0
    since_ms: int = 0
    #: Whether it has left its last stop for none: it is with an agent.
    nowhere: bool = False
    outside: str = ""
    outside_ms: int = 0
    booked: str = ""
    #: What was told of the wait at hand: when, and how long (s).
    told: list[tuple[int, int]] = field(default_factory=list)

    def apply(self, event: Happening, amount_of: AmountOf) -> None:
        """Take in the contact's next event, and count what it adds."""
        take = _TAKES.get(type(event.fact))
        if take is not None and (not self.inner or type(event.fact) in _OF_RINGS):
            take(self, event, event.fact, amount_of)

    @staticmethod
    def _at(what: Counted, thing: str, detail: str, at_ms: int) -> Tally:
        return Tally(what, thing, detail, at_ms // INTERVAL_MS)

    def _arrived(self, event: Happening, fact: facts.Arrived, amount_of: AmountOf) -> None:
        self.inner, self.begun = bool(fact.consult_of), bool(fact.begun)
        self.number, self.flow = fact.number, fact.flow
        self.arrived_ms = self.since_ms = event.at_ms
        if not (self.inner or self.begun):
            amount_of(self._at(Counted.NUMBER, self.number, "arrived", event.at_ms)).add()

    def _booked(self, event: Happening, fact: facts.Booked, amount_of: AmountOf) -> None:
        self.booked, self.arrived_ms = fact.queue, event.at_ms
        amount_of(self._at(Counted.CALLBACK, fact.queue, "booked", event.at_ms)).add()

    def _moved(self, event: Happening, fact: facts.Moved, amount_of: AmountOf) -> None:
        self._hangs_up_outside(event.at_ms, amount_of)
        step, within, inner = fact.step.partition(WITHIN)
        flow = fact.plan if within else self.flow
        if not flow:
            return
        lasted_ms = event.at_ms - self.since_ms if self.since_ms and not within else 0
        detail = f"{inner if within else step} {fact.exit}"
        amount_of(self._at(Counted.ARM, flow, detail, event.at_ms)).add(lasted_ms)
        if not within:
            self.since_ms, self.nowhere = event.at_ms, not fact.to

    def _went_on(self, event: Happening, fact: facts.WentOn, _amount_of: AmountOf) -> None:
        self.flow, self.since_ms, self.nowhere = fact.flow, event.at_ms, False

    def _keyed(self, event: Happening, fact: facts.Keyed, amount_of: AmountOf) -> None:
        if not fact.by and self.flow:
            detail = f"{fact.step} {fact.key}"
            amount_of(self._at(Counted.KEY, self.flow, detail, event.at_ms)).add()

    def _message(self, event: Happening, fact: facts.MessageLeft, amount_of: AmountOf) -> None:
        amount_of(self._at(Counted.MAILBOX, fact.mailbox, "", event.at_ms)).add(fact.length_ms)

    def _diverted(self, event: Happening, fact: facts.Diverted, amount_of: AmountOf) -> None:
        amount_of(self._at(Counted.DIVERSION, fact.diversion, self.number, event.at_ms)).add()

    def _rings_out(self, _event: Happening, fact: facts.RingsOut, _amount_of: AmountOf) -> None:
        self.outside = fact.number

    def _rang_out(self, event: Happening, fact: facts.RangOut, amount_of: AmountOf) -> None:
        if self.outside:
            amount_of(self._at(Counted.OUTSIDE, self.outside, fact.result, event.at_ms)).add()
            self.outside_ms = event.at_ms if fact.result == "answered" else 0

    def _hangs_up_outside(self, at_ms: int, amount_of: AmountOf) -> None:
        if self.outside_ms:
            where = self._at(Counted.OUTSIDE, self.outside, "answered", self.outside_ms)
            amount_of(where).lasts(at_ms - self.outside_ms)
            self.outside_ms = 0

    def _rang(self, event: Happening, _fact: facts.Rang, amount_of: AmountOf) -> None:
        amount_of(self._at(Counted.RING, event.agent, "rang", event.at_ms)).add()

    def _ring_stopped(self, event: Happening, fact: facts.RingStopped, amount_of: AmountOf) -> None:
        amount_of(self._at(Counted.RING, event.agent, fact.why, event.at_ms)).add()

    def _queued(self, _event: Happening, _fact: facts.Queued, _amount_of: AmountOf) -> None:
        self.told = []

    def _wait_told(self, event: Happening, fact: facts.WaitTold, _amount_of: AmountOf) -> None:
        if len(self.told) < MOST_TOLD:
            self.told.append((event.at_ms, fact.seconds))

    def _came(self, event: Happening, queue: str, amount_of: AmountOf) -> None:
        for told_ms, seconds in self.told:
            waited_ms = event.at_ms - told_ms
            low_s, high_s = band(seconds)
            how = "later" if waited_ms > high_s * 1000 else "as_told"
            how = "sooner" if waited_ms < low_s * 1000 else how
            error_ms = abs(waited_ms - seconds * 1000)
            amount_of(self._at(Counted.TOLD, queue, how, told_ms)).add(error_ms)
        self.told = []

    def _answered(self, event: Happening, fact: facts.Answered, amount_of: AmountOf) -> None:
        self._came(event, fact.queue, amount_of)
        if fact.callback and self.booked:
            where = self._at(Counted.CALLBACK, self.booked, "reached", self.arrived_ms)
            amount_of(where).add(event.at_ms - self.arrived_ms)
            self.booked = ""

    def _ended(self, event: Happening, fact: facts.Ended, amount_of: AmountOf) -> None:
        self._hangs_up_outside(event.at_ms, amount_of)
        lasted_ms = event.at_ms - self.arrived_ms
        if self.booked:
            where = self._at(Counted.CALLBACK, self.booked, fact.ending, self.arrived_ms)
            amount_of(where).add(lasted_ms)
        elif self.number and not self.begun:
            where = self._at(Counted.NUMBER, self.number, fact.ending, self.arrived_ms)
            amount_of(where).add(lasted_ms)
        if self.flow:
            step = "" if self.nowhere else fact.step.partition(WITHIN)[0]
            where = self._at(Counted.END, self.flow, f"{step} {fact.ending}", event.at_ms)
            amount_of(where).add(event.at_ms - self.since_ms if self.since_ms else 0)


_TAKES: dict[type, Callable[[Steps, Happening, Any, AmountOf], None]] = {
    facts.Arrived: Steps._arrived,
    facts.Booked: Steps._booked,
    facts.Moved: Steps._moved,
    facts.WentOn: Steps._went_on,
    facts.Keyed: Steps._keyed,
    facts.MessageLeft: Steps._message,
    facts.Diverted: Steps._diverted,
    facts.RingsOut: Steps._rings_out,
    facts.RangOut: Steps._rang_out,
    facts.Queued: Steps._queued,
    facts.WaitTold: Steps._wait_told,
    facts.Rang: Steps._rang,
    facts.RingStopped: Steps._ring_stopped,
    facts.Answered: Steps._answered,
    facts.Ended: Steps._ended,
}
#: What colleagues ask each other is no contact of a caller, but rings all the same.
_OF_RINGS = (facts.Rang, facts.RingStopped)
#: The kinds of facts that something is counted of.
TAKEN = tuple(_TAKES)
