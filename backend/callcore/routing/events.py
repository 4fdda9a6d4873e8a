"""What happens to the router, and what it decides. Times are milliseconds of the driver's clock."""

from __future__ import annotations

from enum import StrEnum
from typing import NamedTuple


class Status(StrEnum):
    """An agent's state."""

    OUT = "out"
    AVAILABLE = "available"
    RINGING = "ringing"
    ON_CONTACT = "on_contact"
    WRAPPING = "wrapping"
    AWAY = "away"


class Widen(NamedTuple):
    """After a time in the queue: skills may be lower by some levels, other agents are let in."""

    after_ms: int
    lower: int = 0
    agents: tuple[str, ...] = ()


class QueueRule(NamedTuple):
    """How a queue treats its contacts.

    `priority`: higher is served first; it grows by `priority_growth` for each minute waited.
    `longest_wait_ms`: None waits for ever. `distribution`: how the next agent is chosen (see
    `callcore.routing.choosing.WAYS`). `required_skills`: skills and their least levels (1 to 10).
    `widening`: in the order of time; what it lowers adds up. `prefer_ms`: how long only a
    contact's preferred agents may take it. `keeps`: whether callers wait on while nobody is
    signed in who could take them, by skill as widened as it ever gets; callbacks always do.
    """

    id: str
    priority: int = 5
    longest_wait_ms: int | None = None
    priority_growth: float = 0.0
    distribution: str = "longest_idle"
    required_skills: tuple[tuple[str, int], ...] = ()
    widening: tuple[Widen, ...] = ()
    prefer_ms: int = 0
    keeps: bool = True


class HandlingRule(NamedTuple):
    """How an agent works: ring time, and wrap-up after a contact (none, optional or required).

    A wrap-up ends by itself after `longest_wrap_ms`; 0 for never.

    `missed_away`: the reason for which an agent who lets a ring pass is set away; empty: not.
    `answers`: by hand, or at once when it rings. `texts`: text threads at once. `reply_ms`: how
    long a caller's message may stay without a reply; 0 for as long as it takes.
    """

    ring_ms: int = 20_000
    wrap_up: str = "optional"
    longest_wrap_ms: int = 60_000
    missed_away: str = ""
    answers: str = "by_hand"
    texts: int = 1
    reply_ms: int = 0


class SignIn(NamedTuple):
    agent: str


class SignOut(NamedTuple):
    """`after`: once the contacts in hand and their wrap-up are over, where there are any."""

    agent: str
    after: bool = False
    reason: str = ""


class GoAvailable(NamedTuple):
    agent: str


class StayOn(NamedTuple):
    """What an agent asked for after the contact in hand does not count any more."""

    agent: str


class GoAway(NamedTuple):
    """`why`: what is said of a ringing that ends by it."""

    agent: str
    reason: str
    why: str = "declined"


class Serve(NamedTuple):
    """Queues that an agent takes part in until they sign out, besides their own."""

    agent: str
    queues: tuple[str, ...]


class Rank(NamedTuple):
    """A contact that waits has another priority from now on."""

    contact: str
    priority: int


class Join(NamedTuple):
    """A contact enters a queue. `entered_ms` is earlier than now when it is taken up again.

    `priority` None takes the queue's. A `callback` has no longest wait: nobody is on the line.
    `asks`: skills and least levels beside those of the queue. `preferred`: agents who may take
    it before all others. `longest_ms`: its own longest wait; None for the queue's. `text`: it
    writes, and can be one of several. `inner`: a colleague asks; no leg of a caller, so nothing
    is counted or wrapped up.
    """

    contact: str
    queue: str
    entered_ms: int
    priority: int | None = None
    callback: bool = False
    asks: tuple[tuple[str, int], ...] = ()
    preferred: tuple[str, ...] = ()
    text: bool = False
    inner: bool = False
    longest_ms: int | None = None


class NotReached(NamedTuple):
    """A callback's caller was not reached: the agent who rang them is free at once."""

    contact: str


class Leave(NamedTuple):
    """A contact goes: it hung up, or its flow took it out of the queue."""

    contact: str
    why: str


class Answer(NamedTuple):
    agent: str


class Decline(NamedTuple):
    agent: str


class EndContact(NamedTuple):
    """The agent's part of a contact ends: the one in hand, or another of theirs.

    `by`: `agent` where they end it; `transferred`, `taken_over` or `no_reply` where it goes on
    elsewhere.
    """

    agent: str
    contact: str = ""
    by: str = "agent"


class TakeOver(NamedTuple):
    """Whoever has the contact `side` gets `contact`; the agent who had that has done their part."""

    contact: str
    side: str


class Begin(NamedTuple):
    """The agent begins a text thread of a queue themself."""

    agent: str
    contact: str
    queue: str


class FinishWrapUp(NamedTuple):
    """The agent has labelled the leg (`code` may be empty) and is done with it.

    `late`: no code can be entered any more, so none is required.
    """

    agent: str
    code: str
    late: bool = False


class AgentDue(NamedTuple):
    """The time in an agent's `due_ms` has come."""

    agent: str


class ContactDue(NamedTuple):
    """The longest wait of a contact has come, or its queue widens for it."""

    contact: str


Event = (
    SignIn
    | SignOut
    | GoAvailable
    | StayOn
    | GoAway
    | Serve
    | Rank
    | Join
    | NotReached
    | Leave
    | Answer
    | Decline
    | EndContact
    | TakeOver
    | Begin
    | FinishWrapUp
    | AgentDue
    | ContactDue
)


class Considered(NamedTuple):
    """One agent at a decision: `why` is `chosen`, `eligible` or what ruled them out.

    That is their state, `just_tried`, `not_yet` (let in later), `others_preferred`, or
    `skill:` with the skill that they lack.
    """

    agent: str
    why: str


class Explained(NamedTuple):
    """Why an agent is rung.

    `considered`: who, those who could come first; of many the first are named, `unnamed` counts the
    others by what was made of them. `weighed`: what the queue's rule compared, by agent (see
    `callcore.routing.choosing.comparing`). Where an agent took whoever waited first, `among` is how
    many waited, this contact included, and `priority` is its own as it had grown.
    """

    considered: tuple[Considered, ...] = ()
    weighed: tuple[tuple[str, int], ...] = ()
    unnamed: tuple[tuple[str, int], ...] = ()
    among: int = 0
    priority: float = 0.0


UNEXPLAINED = Explained()


class Ring(NamedTuple):
    """Ring an agent for a contact, by a queue's rule, or as `longest_wait` (who came free took who
    was first in line) or `room` (one more text fitted). `why` is empty unless the router explains."""

    contact: str
    queue: str
    agent: str
    until_ms: int
    rule: str
    why: Explained = UNEXPLAINED


class RingStopped(NamedTuple):
    """The ringing is over without an answer: `missed`, `declined`, `desk_closed`, `caller_left`
    (hung up, or went on in its flow), or `other` (a colleague answered first)."""

    contact: str
    queue: str
    agent: str
    why: str


class Connected(NamedTuple):
    contact: str
    queue: str
    agent: str
    entered_ms: int


class TookOver(NamedTuple):
    """An agent has a contact now that another had."""

    contact: str
    queue: str
    agent: str


class LegEnded(NamedTuple):
    """An agent's part of a contact is over.

    `by` is `agent` or `caller`; where the contact goes on, `transferred`, `taken_over` (by a
    supervisor), `no_reply`, or `joined`
    (what colleagues said to each other has become part of the caller's contact).
    """

    contact: str
    queue: str
    agent: str
    by: str


class Coded(NamedTuple):
    """A leg got its wrap-up code; empty is "no code"."""

    contact: str
    queue: str
    agent: str
    code: str


class LeftQueue(NamedTuple):
    """A contact waits no more without having been answered."""

    contact: str
    queue: str
    entered_ms: int
    why: str


class AgentChanged(NamedTuple):
    """An agent's state from now on; `due_ms` is when `AgentDue` must be fed.

    `others`: contacts that they have besides the one in hand, with their queues. `next`: the state
    that they asked for, once they are free. `handled`: their contacts of today. `to_wrap`: contacts
    that want their wrap-up after the one in hand.
    """

    agent: str
    status: Status
    reason: str
    contact: str
    queue: str
    since_ms: int
    due_ms: int | None
    others: tuple[tuple[str, str], ...] = ()
    next: tuple[Status, str] | None = None
    handled: int = 0
    to_wrap: tuple[tuple[str, str], ...] = ()


Decision = Ring | RingStopped | Connected | TookOver | LegEnded | Coded | LeftQueue | AgentChanged
