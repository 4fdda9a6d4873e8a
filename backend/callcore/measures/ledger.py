"""The past in rows: events in, what they add to rows of intervals out, contact by contact. What was
counted before is given in again only to know where each contact stands, and adds nothing."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable
from typing import NamedTuple

from callcore.events import Happening, facts
from callcore.measures.account import Account, Stay
from callcore.measures.rows import Limits, QueueRow
from callcore.measures.summary import Summary
from callcore.measures.tallies import Amount, Steps, Tally


class QueueKey(NamedTuple):
    """What a row is of: a queue in an interval (its number), offered under some limits."""

    queue: str
    interval: int
    limits: Limits


class Span(NamedTuple):
    """An agent's state from a moment on (ms); `until_ms` is None while it goes on."""

    agent: str
    status: str
    reason: str
    from_ms: int
    until_ms: int | None = None


class Ledger:
    """Everything that some events add.

    Args:
        standing: the states that agents were in before, which go on.

    Attributes:
        rows, tallies: what is to be added to rows that stand. accounts, summaries: of every contact
            that was met, as they are now. spans: the agents' states from those given on.
    """

    def __init__(self, standing: Iterable[Span] = ()) -> None:
        self.rows: defaultdict[QueueKey, QueueRow] = defaultdict(QueueRow)
        self.tallies: defaultdict[Tally, Amount] = defaultdict(Amount)
        self.accounts: defaultdict[str, Account] = defaultdict(Account)
        self.spans = list(standing)
        self.summaries: defaultdict[str, Summary] = defaultdict(Summary)
        self._steps: defaultdict[str, Steps] = defaultdict(Steps)
        #: Contacts whose events cannot be counted, and why: from there on they add nothing.
        self.broken: dict[str, Exception] = {}
        self._open = {span.agent: number for number, span in enumerate(self.spans)}

    def knew(self, events: Iterable[Happening]) -> None:
        """What was counted before, of the contacts that are met again."""
        rows: defaultdict[QueueKey, QueueRow] = defaultdict(QueueRow)
        tallies: defaultdict[Tally, Amount] = defaultdict(Amount)
        apply = self._into(rows, tallies)
        for event in events:
            if event.contact:
                apply(event)

    def take(self, events: Iterable[Happening]) -> None:
        """What is new, in its order."""
        apply = self._into(self.rows, self.tallies)
        for event in events:
            if event.contact:
                apply(event)
            if isinstance(event.fact, facts.AgentChanged):
                self._agent(event.agent, event.fact, event.at_ms)

    def _into(
        self, rows: defaultdict[QueueKey, QueueRow], tallies: defaultdict[Tally, Amount]
    ) -> Callable[[Happening], None]:
        """What takes in an event of a contact, and adds to some rows."""
        amount_of = tallies.__getitem__

        def row_of(stay: Stay) -> QueueRow:
            return rows[QueueKey(stay.queue, stay.interval, stay.limits)]

        def apply(event: Happening) -> None:
            if event.contact in self.broken:
                return
            try:
                self.accounts[event.contact].apply(event, row_of)
                self._steps[event.contact].apply(event, amount_of)
                self.summaries[event.contact].apply(event)
            except Exception as error:  # noqa: BLE001  it costs this contact only
                self.broken[event.contact] = error

        return apply

    def _agent(self, agent: str, fact: facts.AgentChanged, at_ms: int) -> None:
        since_ms = fact.since_ms or at_ms
        number = self._open.get(agent)
        if number is not None:
            last = self.spans[number]
            if (last.status, last.from_ms) == (fact.status, since_ms):
                self.spans[number] = last._replace(reason=fact.reason)
                return
            self.spans[number] = last._replace(until_ms=max(since_ms, last.from_ms))
        self._open[agent] = len(self.spans)
        self.spans.append(Span(agent, fact.status, fact.reason, since_ms))
