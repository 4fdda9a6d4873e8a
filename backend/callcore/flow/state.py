"""Where a contact is in a flow, what can happen to it there, and what then has to be done."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from types import MappingProxyType
from typing import Any, Literal, NamedTuple, Protocol

from callcore.directory.extensions import Dialled
from callcore.directory.names import Person
from callcore.flow.parts import AnyPrompt

NO_VALUES: Mapping[str, Any] = MappingProxyType({})

Phase = Literal[
    "playing",
    "listening",
    "queued",
    "with_person",
    "ringing",
    "outside",
    "recording",
    "asking",
    "going",
    "leaving",
    "ended",
]
#: Which prompt of a step is playing.
Role = Literal[
    "prompt",
    "no_key",
    "wrong_key",
    "greeting",
    "confirm",
    "choices",
    "music",
    "thanks",
    "other_number",
    "booked",
    "farewell",
    "failure",
    "",
]
Ending = Literal["person", "ended", "message", "callback", "elsewhere", "hung_up", "failed"]


class Place(NamedTuple):
    """Where a caller stands in a queue, or would if they joined now (1 is next).

    `expected_s`: the wait that is still ahead, in seconds; None where past errors forbid to
    tell one, or nothing is known yet.
    """

    position: int
    expected_s: float | None


class MailboxRule(NamedTuple):
    """A mailbox as the runner needs it: what it says first, and how long a message may be."""

    greeting: AnyPrompt | None
    longest_ms: int


class GroupRule(NamedTuple):
    """A ring group as the runner needs it.

    `rounds`: whom it rings (`agent:` references), one after another, each for `ring_s`. `busy`: it
    counts as busy now. `mailbox`: where callers go whom nobody takes (a reference), or empty.
    """

    rounds: tuple[tuple[str, ...], ...]
    ring_s: int
    busy: bool = False
    mailbox: str = ""


class Environment(Protocol):
    """What a flow asks while it runs. Each answer is None where there is no such thing."""

    @property
    def silence_ends(self) -> bool:
        """Whether a call from which a menu got no key ends quietly where the menu says nothing."""

    def open_at(self, reference: str, now_ms: int, /) -> tuple[bool, str] | None:
        """Open or closed at a moment, and why."""

    def mailbox(self, reference: str, /) -> MailboxRule | None:
        """The rule of a mailbox."""

    def figure(self, reference: str | None, name: str, /) -> float | None:
        """A live figure of a queue, or of the centre (None)."""

    def dial(self, digits: str, /) -> Dialled:
        """Whose an extension is."""

    def people(self) -> Iterable[Person]:
        """Who can be spelled in the name directory."""

    def plan(self, queue: str, plan: str | None, /) -> str:
        """The key of a queue's waiting plan, or of a plan that counts instead; empty for none."""

    def plan_machine(self, key: str, /) -> Any:
        """The machine of a waiting plan, by its key."""

    def place(self, queue: str, /) -> Place | None:
        """Where the contact that is being run stands in a queue, or would stand."""

    def outside(self, typed: str, /) -> str | None:
        """A number that was typed, as it can be rung (E.164)."""

    def overflow(self, queue: str, way: str, /) -> str:
        """Where a queue sends callers whom it lets go by one of `QUEUE_WAYS` and whose flow says
        nothing; or empty."""

    def group(self, reference: str, /) -> GroupRule | None:
        """Whom a ring group rings now."""


class MadeUp(NamedTuple):
    """An environment made of answers: for trials and tests. See `Environment`."""

    open_at: Callable[[str, int], tuple[bool, str] | None] = lambda _ref, _now_ms: None
    mailbox: Callable[[str], MailboxRule | None] = lambda _ref: None
    figure: Callable[[str | None, str], float | None] = lambda _ref, _figure: None
    dial: Callable[[str], Dialled] = lambda _digits: Dialled("none", "", False)
    people: Callable[[], Iterable[Person]] = tuple
    plan: Callable[[str, str | None], str] = lambda _queue, _plan: ""
    plan_machine: Callable[[str], Any] = lambda _key: None
    place: Callable[[str], Place | None] = lambda _queue: None
    outside: Callable[[str], str | None] = lambda _typed: None
    overflow: Callable[[str, str], str] = lambda _queue, _way: ""
    group: Callable[[str], GroupRule | None] = lambda _group: None
    silence_ends: bool = False


NOTHING_AROUND = MadeUp()


class RunState(NamedTuple):
    """Where a contact is. Times are milliseconds of the driver's clock.

    `began_ms` is moved forward by the time spent in queues and with people, so that
    `began_ms + limit` is always the end of the contact's stay in the flow. `values`
    is never changed in place. `flows` counts the flows that handed the contact on.
    `typed` holds the keys pressed at this step, or what they led to. `counts` says how
    often each repeat has gone round. `inner` is the state in the waiting plan, whose `due_ms`
    counts for the whole.
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
    typed: str = ""
    counts: Mapping[str, int] = NO_VALUES
    #: The queue that the contact waits in, its waiting plan, and where it is in that.
    queue: str = ""
    plan: str = ""
    inner: RunState | None = None
    #: The position that was told last, and the least wait (s) told since it last grew; None for
    #: no wait.
    told: tuple[int, int | None] | None = None
    #: How many steps were entered since time last passed for the contact.
    rush: int = 0
    #: Wrong keys pressed at this menu; `tries` counts its silences.
    wrong: int = 0
    #: Whom it rings here: those who ring now, then those after them.
    rounds: tuple[tuple[str, ...], ...] = ()


class Key(NamedTuple):
    """The caller pressed a key."""

    key: str


class Texted(NamedTuple):
    """The contact has sent a text message."""

    text: str


class Spoken(NamedTuple):
    """The caller said something: the words, and the keys that the recogniser took them for (empty:
    not understood)."""

    said: str
    meant: str


class Due(NamedTuple):
    """The time in `due_ms` has come."""


class Taken(NamedTuple):
    """A person answered the waiting contact."""


#: The ways in which a queue lets somebody go, by the reason.
QUEUE_WAYS = {"waited_out": "waited", "nobody_there": "nobody", "queue_closed": "closed"}


class WaitedOut(NamedTuple):
    """The queue lets the contact go: its longest wait has passed, nobody could come, it is closed
    or gone."""

    why: str = "waited_out"


class PersonDone(NamedTuple):
    """The person who had the contact ended it."""


class Rung(NamedTuple):
    """What came of ringing: `answered`, `busy`, `away` (nobody of them is signed in), `failed`, or
    later `done` by the one who answered.

    Nobody answering is no event: the time in `due_ms` comes.
    """

    result: str


class Looked(NamedTuple):
    """What came of a look-up: the row by column name, none, or that it could not be done."""

    row: Mapping[str, Any] | None
    failed: bool = False


class FaxTone(NamedTuple):
    """The tone of a fax machine is heard."""


class OtherPlan(NamedTuple):
    """Whoever waits in a queue hears another waiting plan from now on, by its key."""

    key: str


class NowhereToGo(NamedTuple):
    """The flow that a contact was to go on in is not there."""


class HungUp(NamedTuple):
    """The caller hung up."""


Event = (
    Key
    | Texted
    | Spoken
    | Due
    | Taken
    | WaitedOut
    | PersonDone
    | Rung
    | Looked
    | FaxTone
    | OtherPlan
    | NowhereToGo
    | HungUp
)


class Play(NamedTuple):
    """Let the caller hear a prompt; it replaces what is playing. `told_s`: the wait in a queue (s)
    that it tells of."""

    step: str
    role: Role
    prompt: AnyPrompt
    length_ms: int
    told_s: int | None = None


class Listen(NamedTuple):
    """The prompt is over; wait for a key until `until_ms`."""

    step: str
    until_ms: int


class JoinQueue(NamedTuple):
    """Put the contact into a queue (a `queue:` reference)."""

    step: str
    queue: str


class LeaveQueue(NamedTuple):
    """Take the contact out of its queue: its waiting plan leads elsewhere."""

    step: str
    why: str


class BookCallback(NamedTuple):
    """Keep the contact's place in a queue, and ring `number` (E.164) when its turn comes."""

    step: str
    queue: str
    number: str
    attempts: int
    retry_ms: int


class Dial(NamedTuple):
    """Ring an outside number until `until_ms`; answer with `Rung`."""

    step: str
    number: str
    until_ms: int


class RingPerson(NamedTuple):
    """Ring people (`agent:` references), all at once, until `until_ms`.

    Answer with `Taken`, or with `Rung`: `busy` or `away` where none of them can be rung,
    `no_answer` where all of them let it pass. `group`: the ring group that begins with them.
    """

    step: str
    people: tuple[str, ...]
    until_ms: int
    group: str = ""


class StopRinging(NamedTuple):
    """Let the person be: the time is over."""

    step: str


class PlayMusic(NamedTuple):
    """Let the caller hear the hold music until `until_ms`."""

    step: str
    until_ms: int


class HearFax(NamedTuple):
    """Listen for a fax machine until `until_ms`; answer with `FaxTone`."""

    step: str
    until_ms: int


class LookUp(NamedTuple):
    """Look a row of a table (a `table:` reference) up by its key; answer with `Looked`."""

    step: str
    table: str
    key: str


class Labelled(NamedTuple):
    """From now on agents read this label; `priority` None leaves it to the queue.

    `asks`: skills (references) and least levels; `language` None asks for none.
    """

    step: str
    label: str
    priority: int | None
    asks: tuple[tuple[str, int], ...] = ()
    language: str | None = None


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
    """Let the contact go on in another flow (a `flow:` reference), with its values.

    A queue that lets its callers go may also name a mailbox or another queue.
    """

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


Effect = (
    Play
    | Listen
    | PlayMusic
    | HearFax
    | JoinQueue
    | LeaveQueue
    | BookCallback
    | Dial
    | RingPerson
    | StopRinging
    | Record
    | MessageLeft
    | LookUp
    | Labelled
    | HandOver
    | Moved
    | Finish
)
Outcome = tuple[RunState, tuple[Effect, ...]]


#: Between the stop of a queue and the stop of the waiting plan that runs there.
WITHIN = "~"


def to_data(state: RunState) -> dict[str, Any]:
    """The state as JSON, by name; what is as at the beginning is left out."""
    data: dict[str, Any] = {
        name: value
        for name, value in zip(RunState._fields, state, strict=True)
        if name not in _BEGINS or value != _BEGINS[name]
    }
    for name in ("values", "counts"):
        if name in data:
            data[name] = dict(data[name])
    if state.inner is not None:
        data["inner"] = to_data(state.inner)
    return data


def from_data(data: dict[str, Any] | list[Any]) -> RunState:
    """The state that `to_data` wrote; a list is that of a version of November 2026."""
    state = RunState(*data) if isinstance(data, list) else RunState(**data)
    told = (state.told[0], state.told[1]) if state.told else None
    inner = from_data(state.inner) if isinstance(state.inner, dict | list) else None
    rounds = tuple(tuple(people) for people in state.rounds)
    return state._replace(inner=inner, told=told, rounds=rounds)


_BEGINS = RunState._field_defaults
