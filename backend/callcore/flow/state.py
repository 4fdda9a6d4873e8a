"""Where a contact is in a flow, what can happen to it there, and what then has to be done."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from types import MappingProxyType
from typing import Any, Literal, NamedTuple

from callcore.flow.parts import AnyPrompt

NO_VALUES: Mapping[str, Any] = MappingProxyType({})

Phase = Literal[
    "playing", "listening", "queued", "with_person", "ringing", "outside", "recording", "going",
    "ended",
]  # fmt: skip
#: Which prompt of a step is playing.
Role = Literal["prompt", "no_key", "wrong_key", "greeting", "thanks", "farewell", "failure", ""]
Ending = Literal["person", "ended", "message", "elsewhere", "hung_up", "failed"]


class MailboxRule(NamedTuple):
    """A mailbox as the runner needs it: what it says first, and how long a message may be."""

    greeting: AnyPrompt | None
    longest_ms: int


class Around(NamedTuple):
    """What a machine asks of its surroundings. Each answers None where there is no such thing.

    `open_at`: open or closed at a moment (ms), and why. `mailbox`: its rule.
    """

    open_at: Callable[[str, int], tuple[bool, str] | None] = lambda _ref, _now_ms: None
    mailbox: Callable[[str], MailboxRule | None] = lambda _ref: None


NOTHING_AROUND = Around()


class RunState(NamedTuple):
    """Where a contact is. Times are milliseconds of the driver's clock.

    `began_ms` is moved forward by the time spent in queues and with people, so that
    `began_ms + limit` is always the end of the contact's stay in the flow. `values`
    is never changed in place. `flows` counts the flows that handed the contact on.
    """

    step: str
    phase: Phase
    role: Role
    began_ms: int
    entered_ms: int
    due_ms: int | None
    tries: int
    ending: Ending | None
    values: Mapping[str, Any] = NO_VALUES
    flows: int = 0


class Key(NamedTuple):
    """The caller pressed a key."""

    key: str


class Due(NamedTuple):
    """The time in `due_ms` has come."""


class Taken(NamedTuple):
    """A person answered the waiting contact."""


class WaitedOut(NamedTuple):
    """The queue lets the contact go: its longest wait has passed, or the queue is gone."""

    why: str = "waited_out"


class PersonDone(NamedTuple):
    """The person who had the contact ended it."""


class Rung(NamedTuple):
    """What came of ringing: `answered`, `busy`, `failed`, or later `done` by the one who answered.

    Nobody answering is no event: the time in `due_ms` comes.
    """

    result: str


class NowhereToGo(NamedTuple):
    """The flow that a contact was to go on in is not there."""


class HungUp(NamedTuple):
    """The caller hung up."""


Event = Key | Due | Taken | WaitedOut | PersonDone | Rung | NowhereToGo | HungUp


class Play(NamedTuple):
    """Let the caller hear a prompt; it replaces what is playing."""

    step: str
    role: Role
    prompt: AnyPrompt
    length_ms: int


class Listen(NamedTuple):
    """The prompt is over; wait for a key until `until_ms`."""

    step: str
    until_ms: int


class JoinQueue(NamedTuple):
    """Put the contact into a queue (a `queue:` reference)."""

    step: str
    queue: str


class Dial(NamedTuple):
    """Ring an outside number until `until_ms`; answer with `Rung`."""

    step: str
    number: str
    until_ms: int


class Record(NamedTuple):
    """Record the caller for a mailbox (a `mailbox:` reference) until `until_ms`."""

    step: str
    mailbox: str
    until_ms: int


class MessageLeft(NamedTuple):
    """The recording is a message of the mailbox."""

    step: str
    mailbox: str
    length_ms: int


class HandOver(NamedTuple):
    """Let the contact go on in another flow (a `flow:` reference), with its values."""

    step: str
    flow: str


class Moved(NamedTuple):
    """The contact took `exit` of `step`; `to` is None where it ends. `why` is a reason code."""

    step: str
    exit: str
    to: str | None
    why: str
    detail: str


class Finish(NamedTuple):
    """The contact is over."""

    step: str
    ending: Ending


Effect = Play | Listen | JoinQueue | Dial | Record | MessageLeft | HandOver | Moved | Finish
Outcome = tuple[RunState, tuple[Effect, ...]]


def to_data(state: RunState) -> list[Any]:
    """The state as a JSON list."""
    return list(state._replace(values=dict(state.values)))


def from_data(data: list[Any]) -> RunState:
    """The state that `to_data` wrote."""
    return RunState(*data)
