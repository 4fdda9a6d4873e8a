"""The fold: the stream of events in, every figure out. There is no other way to a figure."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from callcore.events import Happening, facts
from callcore.flow.state import WITHIN
from callcore.measures.account import TAKEN, Account, Outcome, Stay
from callcore.measures.callers import Callers
from callcore.measures.rows import INTERVAL_MS, QueueRow, total
from callcore.routing.events import Status

#: Waits are counted by stretches of this length.
WAIT_BIN_MS = 5_000
#: What began so long ago is lately.
LATELY_MS = 30 * 60_000


@dataclass(slots=True)
class WaitCounts:
    """How many waits in a queue were how long: counts by the number of their bin."""

    answered: defaultdict[int, int] = field(default_factory=lambda: defaultdict(int))
    abandoned: defaultdict[int, int] = field(default_factory=lambda: defaultdict(int))


class Figures:
    """Figures of everything that has been applied."""

    def __init__(self) -> None:
        self.begin_day(0)
        self._flow: dict[str, str] = {}
        #: The flow that a contact is in now, where that is not the one that answered it.
        self._went_on: dict[str, str] = {}
        self._callers = Callers()
        self._accounts: dict[str, Account] = {}
        #: Contacts that are over and still to be labelled, by agent.
        self._to_label: defaultdict[str, set[str]] = defaultdict(set)
        own: dict[type, Callable[[Happening, Any], None]] = {
            facts.Arrived: self._on_arrived,
            facts.WentOn: self._on_went_on,
            facts.Moved: self._on_moved,
            facts.LegEnded: self._on_leg_ended,
            facts.Coded: self._on_coded,
            facts.AgentChanged: self._on_agent,
            facts.Ended: self._on_ended,
        }
        self.handlers = {kind: own.get(kind, self._to_account) for kind in (*TAKEN, facts.Moved)}

    def begin_day(self, since_ms: int) -> None:
        """Count from a moment on. Contacts under way stay known: what becomes of those who were
        offered before it is booked to the interval of their offer, and counts in no total here."""
        self._since_ms = since_ms
        self.rows: defaultdict[tuple[str, int], QueueRow] = defaultdict(QueueRow)
        #: The intervals that each queue has a row of, and its total while no row has changed.
        self._intervals: defaultdict[str, set[int]] = defaultdict(set)
        self._totals: dict[str, QueueRow] = {}
        self.arrived = 0
        self.ended = 0
        self.waits: defaultdict[str, WaitCounts] = defaultdict(WaitCounts)
        self.legs = 0
        self.coded = 0
        self.arms: defaultdict[str, defaultdict[tuple[str, str], int]] = defaultdict(lambda: defaultdict(int))
        self.endings: defaultdict[str, defaultdict[str, int]] = defaultdict(lambda: defaultdict(int))

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
        known = self._totals.get(queue)
        if known is None:
            today = filter(self._is_of_today, self._intervals.get(queue, ()))
            known = self._totals[queue] = total([self.rows[queue, at] for at in today])
        return known

    def lately(self, queue: str, since_ms: int) -> QueueRow:
        """The intervals of a queue (all of them for an empty one) that began since a moment."""
        since = since_ms // INTERVAL_MS
        queues = [queue] if queue else list(self._intervals)
        return total(
            [self.rows[name, at] for name in queues for at in self._intervals.get(name, ()) if at >= since]
        )

    def centre_total(self) -> QueueRow:
        """All queues together. A contact that was in two queues was offered twice."""
        return total([self.queue_total(queue) for queue in self._intervals])

    def _row(self, stay: Stay) -> QueueRow:
        """The row that a stay is booked to, to be changed."""
        self._intervals[stay.queue].add(stay.interval)
        self._totals.pop(stay.queue, None)
        return self.rows[stay.queue, stay.interval]

    def _to_account(self, event: Happening, _fact: Any) -> None:
        account = self._accounts.get(event.contact)
        if account is None:
            account = self._accounts[event.contact] = Account()
        stay = account.apply(event, self._row)
        if stay is not None and self._is_of_today(stay.interval):
            waits = self.waits[stay.queue]
            counts = waits.answered if stay.outcome is Outcome.ANSWERED else waits.abandoned
            counts[stay.wait_ms // WAIT_BIN_MS] += 1

    def _on_arrived(self, event: Happening, fact: facts.Arrived) -> None:
        self.arrived += self._counts(event) and not fact.begun
        self._flow[event.contact] = fact.flow
        self._to_account(event, fact)

    def _on_moved(self, event: Happening, fact: facts.Moved) -> None:
        step, within, inner = fact.step.partition(WITHIN)
        flow = self._went_on.get(event.contact, self._flow.get(event.contact))
        if within:
            flow = fact.plan
        if flow and self._counts(event):
            self.arms[flow][(inner if within else step, fact.exit)] += 1

    def _on_went_on(self, event: Happening, fact: facts.WentOn) -> None:
        self._went_on[event.contact] = fact.flow
        self._to_account(event, fact)

    def _on_leg_ended(self, event: Happening, fact: facts.LegEnded) -> None:
        self.legs += self._counts(event)
        self._to_label[event.agent].add(event.contact)
        self._to_account(event, fact)

    def _on_coded(self, event: Happening, fact: facts.Coded) -> None:
        self.coded += self._counts(event) and bool(fact.code)
        self._to_account(event, fact)
        self._to_label[event.agent].discard(event.contact)
        self._forget(event.contact)

    def _on_agent(self, event: Happening, fact: facts.AgentChanged) -> None:
        """Whoever is free again has nothing left to wrap up."""
        if event.contact in self._accounts:
            self._to_account(event, fact)
        if fact.status in (Status.AVAILABLE, Status.AWAY, Status.OUT):
            for contact in self._to_label.pop(event.agent, ()):
                if contact in self._accounts:
                    self._accounts[contact].labels_no_more(event.agent)
                    self._forget(contact)

    def _on_ended(self, event: Happening, fact: facts.Ended) -> None:
        self.ended += self._counts(event)
        self._to_account(event, fact)
        self._forget(event.contact)
        self._went_on.pop(event.contact, None)
        flow = self._flow.pop(event.contact, None)
        if flow is not None and self._counts(event):
            self.endings[flow][fact.ending] += 1

    def _forget(self, contact: str) -> None:
        """Nothing more can come of a contact that is over and that nobody has still to label."""
        account = self._accounts.get(contact)
        if account is not None and account.ended_ms and not account.to_label:
            del self._accounts[contact]
