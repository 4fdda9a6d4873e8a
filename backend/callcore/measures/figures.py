"""The fold: the stream of events in, every figure out. There is no other way to a figure."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, NamedTuple

from callcore.events import Happening, facts
from callcore.flow.state import WITHIN
from callcore.measures.callers import Callers
from callcore.measures.rows import INTERVAL_MS, QueueRow, total
from callcore.routing.events import Status

#: Waits are counted by stretches of this length.
WAIT_BIN_MS = 5_000


class Limits(NamedTuple):
    """What a queue counts as late and as a short abandon, in milliseconds."""

    threshold_ms: int = 60_000
    short_abandon_ms: int = 5_000


@dataclass(slots=True)
class _Offer:
    """One contact's present stay in a queue."""

    queue: str
    interval: int
    entered_ms: int
    answered_ms: int = 0
    held_since_ms: int = 0
    held_ms: int = 0

    def hold(self, on: bool, at_ms: int) -> None:
        """The caller is put on hold, or taken back."""
        if self.held_since_ms:
            self.held_ms += at_ms - self.held_since_ms
        self.held_since_ms = at_ms if on else 0


@dataclass(slots=True)
class WaitCounts:
    """How many waits in a queue were how long: counts by the number of their bin."""

    answered: defaultdict[int, int] = field(default_factory=lambda: defaultdict(int))
    abandoned: defaultdict[int, int] = field(default_factory=lambda: defaultdict(int))


class Figures:
    """Figures of everything that has been applied.

    Args:
        limits: by queue id; the default `Limits` where a queue is not named.
            They count at the moment a contact leaves the queue.
    """

    def __init__(self, limits: Mapping[str, Limits] | None = None) -> None:
        self.limits: Mapping[str, Limits] = limits or {}
        self.begin_day(0)
        self._arrived_ms: dict[str, int] = {}
        self._flow: dict[str, str] = {}
        #: The flow that a contact is in now, where that is not the one that answered it.
        self._went_on: dict[str, str] = {}
        self._passed: dict[str, _Offer] = {}
        self._callers = Callers()
        self._offers: dict[str, _Offer] = {}
        #: Legs that are being wrapped up, by agent and contact: queue, interval, since when.
        self._wrapping: dict[tuple[str, str], tuple[str, int, int]] = {}
        self.handlers: dict[type, Callable[[Happening, Any], None]] = {
            facts.Arrived: self._on_arrived,
            facts.WentOn: self._on_went_on,
            facts.Held: self._on_held,
            facts.Moved: self._on_moved,
            facts.Queued: self._on_queued,
            facts.LeftQueue: self._on_left_queue,
            facts.Answered: self._on_answered,
            facts.LegEnded: self._on_leg_ended,
            facts.Coded: self._on_coded,
            facts.AgentChanged: self._on_agent,
            facts.Ended: self._on_ended,
        }

    def begin_day(self, since_ms: int) -> None:
        """Count from a moment on. Contacts under way stay known: what becomes of those who were
        offered before it is booked to the interval of their offer, and counts in no total here."""
        self._since_ms = since_ms
        self.rows: defaultdict[tuple[str, int], QueueRow] = defaultdict(QueueRow)
        self.arrived = 0
        self.ended = 0
        self.waits: defaultdict[str, WaitCounts] = defaultdict(WaitCounts)
        self.legs = 0
        self.coded = 0
        self.arms: defaultdict[str, defaultdict[tuple[str, str], int]] = defaultdict(
            lambda: defaultdict(int)
        )
        self.endings: defaultdict[str, defaultdict[str, int]] = defaultdict(
            lambda: defaultdict(int)
        )

    def apply(self, event: Happening) -> None:
        """Take in the next event of the stream."""
        handler = self.handlers.get(type(event.fact))
        if self._callers.counts(event) and handler is not None:
            handler(event, event.fact)

    def _counts(self, event: Happening) -> bool:
        return event.at_ms >= self._since_ms

    def _is_of_today(self, interval: int) -> bool:
        return interval >= self._since_ms // INTERVAL_MS

    def queue_total(self, queue: str) -> QueueRow:
        """All intervals of a queue together."""
        return total([
            row for (name, interval), row in self.rows.items()
            if name == queue and self._is_of_today(interval)
        ])  # fmt: skip

    def centre_total(self) -> QueueRow:
        """All queues together. A contact that was in two queues was offered twice."""
        return total([row for (_, at), row in self.rows.items() if self._is_of_today(at)])

    def _row(self, offer: _Offer) -> QueueRow:
        return self.rows[(offer.queue, offer.interval)]

    def _on_arrived(self, event: Happening, fact: facts.Arrived) -> None:
        self.arrived += self._counts(event) and not fact.begun
        self._arrived_ms[event.contact] = event.at_ms
        self._flow[event.contact] = fact.flow

    def _on_moved(self, event: Happening, fact: facts.Moved) -> None:
        step, within, inner = fact.step.partition(WITHIN)
        flow = self._went_on.get(event.contact, self._flow.get(event.contact))
        if within:
            flow = fact.plan
        if flow and self._counts(event):
            self.arms[flow][(inner if within else step, fact.exit)] += 1

    def _on_went_on(self, event: Happening, fact: facts.WentOn) -> None:
        self._went_on[event.contact] = fact.flow

    def _on_held(self, event: Happening, fact: facts.Held) -> None:
        offer = self._offers.get(event.contact)
        if offer is not None:
            offer.hold(fact.on, event.at_ms)

    def _on_queued(self, event: Happening, fact: facts.Queued) -> None:
        offer = _Offer(fact.queue, event.at_ms // INTERVAL_MS, event.at_ms)
        self._offers[event.contact] = offer
        row = self._row(offer)
        row.offered += 1
        row.under_way += 1

    def _on_left_queue(self, event: Happening, fact: facts.LeftQueue) -> None:
        offer = self._offers.pop(event.contact, None)
        if offer is None:
            return
        row, waited_ms = self._row(offer), event.at_ms - offer.entered_ms
        limits = self.limits.get(offer.queue, Limits())
        row.under_way -= 1
        if fact.why != "hung_up":
            row.left_otherwise += 1
            return
        row.abandoned += 1
        if self._is_of_today(offer.interval):
            self.waits[offer.queue].abandoned[waited_ms // WAIT_BIN_MS] += 1
        row.short_abandons += waited_ms < limits.short_abandon_ms
        row.abandoned_late += waited_ms > limits.threshold_ms
        row.longest_abandoned_ms = max(row.longest_abandoned_ms, waited_ms)

    def _on_answered(self, event: Happening, fact: facts.Answered) -> None:
        offer = self._offers.get(event.contact)
        if fact.callback:
            # Booked and counted when the caller hung up; from here on only the time is told.
            self._offers[event.contact] = _Offer(
                fact.queue, event.at_ms // INTERVAL_MS, event.at_ms, event.at_ms
            )
            return
        passed = self._passed.pop(event.contact, None)
        if passed is not None and offer is None:
            # A colleague has it now, straight from the one before: no queue was entered anew.
            self._offers[event.contact] = _Offer(
                passed.queue, passed.interval, passed.entered_ms, event.at_ms
            )
            return
        if offer is None:
            return
        row, waited_ms = self._row(offer), event.at_ms - offer.entered_ms
        offer.answered_ms = event.at_ms
        row.under_way -= 1
        row.answered += 1
        if self._is_of_today(offer.interval):
            self.waits[offer.queue].answered[waited_ms // WAIT_BIN_MS] += 1
        row.answered_late += waited_ms > self.limits.get(offer.queue, Limits()).threshold_ms
        row.wait_answered_ms += waited_ms
        row.longest_answered_ms = max(row.longest_answered_ms, waited_ms)
        row.up_front_ms += offer.entered_ms - self._arrived_ms.get(event.contact, offer.entered_ms)

    def _on_leg_ended(self, event: Happening, fact: facts.LegEnded) -> None:
        offer = self._offers.pop(event.contact, None)
        self.legs += self._counts(event)
        if offer is not None:
            offer.hold(on=False, at_ms=event.at_ms)
            self._row(offer).hold_ms += offer.held_ms
            self._row(offer).talk_ms += event.at_ms - offer.answered_ms - offer.held_ms
            if fact.by == "transferred":
                self._passed[event.contact] = offer
            leg = (event.agent, event.contact)
            self._wrapping[leg] = (offer.queue, offer.interval, event.at_ms)

    def _on_coded(self, event: Happening, fact: facts.Coded) -> None:
        self.coded += self._counts(event) and bool(fact.code)
        wrapping = self._wrapping.pop((event.agent, event.contact), None)
        if wrapping is not None:
            queue, interval, began_ms = wrapping
            self.rows[(queue, interval)].wrap_ms += event.at_ms - began_ms

    def _on_agent(self, event: Happening, fact: facts.AgentChanged) -> None:
        """Whoever is free again has nothing left to wrap up."""
        if fact.status in (Status.AVAILABLE, Status.AWAY, Status.OUT):
            for leg in [leg for leg in self._wrapping if leg[0] == event.agent]:
                del self._wrapping[leg]

    def _on_ended(self, event: Happening, fact: facts.Ended) -> None:
        self.ended += self._counts(event)
        self._arrived_ms.pop(event.contact, None)
        self._went_on.pop(event.contact, None)
        self._passed.pop(event.contact, None)
        flow = self._flow.pop(event.contact, None)
        if flow is not None and self._counts(event):
            self.endings[flow][fact.ending] += 1
