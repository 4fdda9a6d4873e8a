"""What one contact adds to the figures: its stays in queues, the agents' legs, and where they are
booked. The only place that says what counts as what; the live board, reports and simulations fold
the same events through it.

All of a stay, and of the legs that come of it, is booked to the interval in which it was offered.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

from callcore.events import Happening, facts
from callcore.measures.rows import INTERVAL_MS, Limits, QueueRow
from callcore.routing.events import Status
from callcore.routing.router import DIRECT


class Outcome(StrEnum):
    """What became of a stay in a queue."""

    UNDER_WAY = "under_way"
    ANSWERED = "answered"
    ABANDONED = "abandoned"
    MESSAGE = "messages"
    CALLBACK = "callbacks"
    ELSEWHERE = "elsewhere"
    ENDED = "ended"


class How(StrEnum):
    """How a leg began."""

    QUEUE = "queue"
    DIRECT = "direct"
    TRANSFERRED = "transferred"
    CALLBACK = "callback"
    BEGUN = "begun"
    CONSULT = "consult"


@dataclass(slots=True)
class Stay:
    """From entering a queue to leaving it. `up_front_ms`: since the contact arrived, or since the
    part before it was over. `left_ms`: 0 while it waits."""

    queue: str
    entered_ms: int
    up_front_ms: int
    limits: Limits
    outcome: Outcome = Outcome.UNDER_WAY
    left_ms: int = 0
    agent: str = ""
    why: str = ""

    @property
    def interval(self) -> int:
        """The number of the interval in which it was offered."""
        return self.entered_ms // INTERVAL_MS

    @property
    def wait_ms(self) -> int:
        """How long it waited, once it has left."""
        return self.left_ms - self.entered_ms if self.left_ms else 0

    @property
    def late(self) -> bool:
        """Whether it waited longer than the queue's threshold."""
        return self.left_ms >= self.limits.late_from_ms(self.entered_ms)

    @property
    def short(self) -> bool:
        """Whether it was given up sooner than the queue counts as waiting."""
        return self.outcome is Outcome.ABANDONED and self.wait_ms < self.limits.short_abandon_ms


@dataclass(slots=True)
class Leg:
    """An agent's part. `home`: the stay that it is booked to; None where nobody was queued.
    `wrapping_ms`: since when it is in the agent's hand to be wrapped up; `code`: None until the
    wrap-up is over, empty for no code."""

    agent: str
    how: How
    answered_ms: int
    home: Stay | None = None
    ended_ms: int = 0
    by: str = ""
    held_ms: int = 0
    held_since_ms: int = 0
    wrapping_ms: int = 0
    wrap_ms: int = 0
    code: str | None = None

    @property
    def queue(self) -> str:
        """The queue that it is booked to; empty for none."""
        return self.home.queue if self.home is not None else ""

    @property
    def talk_ms(self) -> int:
        """Speaking or writing, without hold."""
        return self.ended_ms - self.answered_ms - self.held_ms if self.ended_ms else 0

    def hold(self, on: bool, at_ms: int) -> None:
        """The caller is put on hold, or taken back."""
        if self.held_since_ms:
            self.held_ms += at_ms - self.held_since_ms
        self.held_since_ms = at_ms if on else 0


#: The row that a stay is booked to.
RowOf = Callable[[Stay], QueueRow]


@dataclass(slots=True)
class Account:
    """One contact's stays and legs, folded from its events in their order."""

    #: Whether it is only what colleagues ask each other: nobody's stay, and in no queue's row.
    inner: bool = False
    arrived_ms: int = 0
    ended_ms: int = 0
    stays: list[Stay] = field(default_factory=list)
    legs: list[Leg] = field(default_factory=list)
    #: Since when it is in nobody's line and with no agent.
    free_ms: int | None = None
    #: Whether it was handed on since it left its last queue.
    handed_on: bool = False

    def apply(self, event: Happening, row_of: RowOf) -> Stay | None:
        """Take in the contact's next event, and book what it adds.

        Returns:
            The stay that was answered or given up just now, if any.
        """
        take = _TAKES.get(type(event.fact))
        return take(self, event, event.fact, row_of) if take is not None else None

    @property
    def to_label(self) -> bool:
        """Whether an agent may still label a part of it."""
        return any(leg.code is None for leg in self.legs)

    # Waiting

    def _arrived(self, event: Happening, fact: facts.Arrived, _row_of: RowOf) -> None:
        self.inner = bool(fact.consult_of)
        self.arrived_ms = self.free_ms = event.at_ms

    def _booked(self, event: Happening, _fact: facts.Booked, _row_of: RowOf) -> None:
        self.arrived_ms = self.free_ms = event.at_ms

    def _queued(self, event: Happening, fact: facts.Queued, row_of: RowOf) -> None:
        if self.inner:
            return
        self._settle(Outcome.ELSEWHERE, row_of)
        up_front_ms = event.at_ms - self.free_ms if self.free_ms is not None else 0
        limits = Limits(fact.threshold_ms, fact.short_ms, fact.formula)
        stay = Stay(fact.queue, event.at_ms, up_front_ms, limits)
        self.stays.append(stay)
        row = row_of(stay)
        row.offered += 1
        row.under_way += 1

    def _open(self) -> Stay | None:
        """The stay whose outcome is not known yet."""
        stay = self.stays[-1] if self.stays else None
        return stay if stay is not None and stay.outcome is Outcome.UNDER_WAY else None

    def _left_queue(self, event: Happening, fact: facts.LeftQueue, row_of: RowOf) -> Stay | None:
        stay = self._open()
        if stay is None or stay.left_ms:
            return None
        stay.left_ms, stay.why = event.at_ms, fact.why
        self.free_ms, self.handed_on = event.at_ms, False
        if fact.why == "callback":
            self._settle(Outcome.CALLBACK, row_of)
        if fact.why != "hung_up":
            return None
        row = self._settle(Outcome.ABANDONED, row_of)
        row.short_abandons += stay.short
        row.abandoned_late += stay.late
        row.wait_abandoned_ms += stay.wait_ms
        row.longest_abandoned_ms = max(row.longest_abandoned_ms, stay.wait_ms)
        return stay

    def _settle(self, outcome: Outcome, row_of: RowOf) -> QueueRow:
        """Say what became of the open stay, if there is one."""
        stay = self._open()
        if stay is None:
            return QueueRow()
        stay.outcome = outcome
        row = row_of(stay)
        row.under_way -= 1
        setattr(row, outcome, getattr(row, outcome) + 1)
        return row

    def _left_message(self, _event: Happening, _fact: Any, row_of: RowOf) -> None:
        self._settle_if_left(Outcome.MESSAGE, row_of)

    def _settle_if_left(self, outcome: Outcome, row_of: RowOf) -> None:
        stay = self._open()
        if stay is not None and stay.left_ms:
            self._settle(outcome, row_of)

    def _went_on(self, _event: Happening, _fact: Any, _row_of: RowOf) -> None:
        self.handed_on = True

    def _rang_out(self, _event: Happening, fact: facts.RangOut, row_of: RowOf) -> None:
        if fact.result == "answered":
            self._settle_if_left(Outcome.ELSEWHERE, row_of)

    # Agents

    def _answered(self, event: Happening, fact: facts.Answered, row_of: RowOf) -> Stay | None:
        stay, waited = self._home(event, fact, row_of)
        how = How.QUEUE
        if self.inner:
            how = How.CONSULT
        elif fact.callback or fact.begun:
            how = How.CALLBACK if fact.callback else How.BEGUN
        elif not waited:
            how = How.TRANSFERRED if self.legs else How.DIRECT
        leg = Leg(event.agent, how, event.at_ms, stay)
        self.legs.append(leg)
        if stay is not None:
            row = row_of(stay)
            row.legs += 1
            row.callbacks_reached += fact.callback
        return stay if waited else None

    def _home(self, event: Happening, fact: facts.Answered, row_of: RowOf) -> tuple[Stay | None, bool]:
        """The stay that a leg is booked to, and whether that was answered by it."""
        if self.inner:
            return None, False
        if fact.callback or fact.begun:
            # Booked when the caller hung up, or never in a queue: only the agent's time is told.
            here = Stay(fact.queue, event.at_ms, 0, Limits(), Outcome.ANSWERED, event.at_ms)
            return here, False
        last = self.stays[-1] if self.stays else None
        stay = self._open()
        if stay is None or stay.left_ms or fact.queue.startswith(DIRECT):
            self._settle_if_left(Outcome.ELSEWHERE, row_of)
            return last, False
        stay.left_ms, stay.agent = event.at_ms, event.agent
        row = self._settle(Outcome.ANSWERED, row_of)
        row.answered_late += stay.late
        row.wait_answered_ms += stay.wait_ms
        row.up_front_ms += stay.up_front_ms
        row.longest_answered_ms = max(row.longest_answered_ms, stay.wait_ms)
        row.longest_arrival_ms = max(row.longest_arrival_ms, stay.wait_ms + stay.up_front_ms)
        return stay, True

    def _talking(self) -> Leg | None:
        leg = self.legs[-1] if self.legs else None
        return leg if leg is not None and not leg.ended_ms else None

    def _held(self, event: Happening, fact: facts.Held, _row_of: RowOf) -> None:
        leg = self._talking()
        if leg is not None:
            leg.hold(fact.on, event.at_ms)

    def _leg_ended(self, event: Happening, fact: facts.LegEnded, row_of: RowOf) -> None:
        leg = self._talking()
        if leg is None:
            return
        leg.hold(on=False, at_ms=event.at_ms)
        leg.ended_ms, leg.by = event.at_ms, fact.by
        self.free_ms = event.at_ms
        if leg.home is not None:
            row = row_of(leg.home)
            row.talk_ms += leg.talk_ms
            row.hold_ms += leg.held_ms
            row.transferred += fact.by == "transferred"

    def _of(self, agent: str) -> Leg | None:
        """The agent's leg that has ended and is not wrapped up."""
        ended = (leg for leg in self.legs if leg.ended_ms and leg.code is None)
        return next((leg for leg in ended if leg.agent == agent), None)

    def _agent_changed(self, event: Happening, fact: facts.AgentChanged, _row_of: RowOf) -> None:
        leg = self._of(event.agent)
        if leg is not None and fact.status == Status.WRAPPING:
            leg.wrapping_ms = leg.wrapping_ms or fact.since_ms or event.at_ms

    def _coded(self, event: Happening, fact: facts.Coded, row_of: RowOf) -> None:
        leg = self._of(event.agent)
        if leg is None:
            return
        leg.code = fact.code
        leg.wrap_ms = event.at_ms - leg.wrapping_ms if leg.wrapping_ms else 0
        if leg.home is not None:
            row_of(leg.home).wrap_ms += leg.wrap_ms

    def labels_no_more(self, agent: str) -> None:
        """The agent is free again: their part has no code, if it has none by now."""
        leg = self._of(agent)
        if leg is not None:
            leg.code = ""

    # The end

    def _ended(self, event: Happening, fact: facts.Ended, row_of: RowOf) -> None:
        self.ended_ms = event.at_ms
        stay = self._open()
        if stay is not None and not stay.left_ms:
            stay.left_ms = event.at_ms
        outcome = Outcome.ELSEWHERE if self.handed_on else Outcome.ENDED
        self._settle(_ENDINGS.get(fact.ending, outcome), row_of)


_ENDINGS = {"callback": Outcome.CALLBACK, "elsewhere": Outcome.ELSEWHERE}
_TAKES: dict[type, Callable[[Account, Happening, Any, RowOf], Stay | None]] = {
    facts.Arrived: Account._arrived,
    facts.Booked: Account._booked,
    facts.Queued: Account._queued,
    facts.LeftQueue: Account._left_queue,
    facts.MessageLeft: Account._left_message,
    facts.WentOn: Account._went_on,
    facts.RangOut: Account._rang_out,
    facts.Answered: Account._answered,
    facts.Held: Account._held,
    facts.LegEnded: Account._leg_ended,
    facts.AgentChanged: Account._agent_changed,
    facts.Coded: Account._coded,
    facts.Ended: Account._ended,
}
#: The kinds of facts that an account takes in.
TAKEN = tuple(_TAKES)
