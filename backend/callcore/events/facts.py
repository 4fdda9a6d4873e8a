"""What can happen, kind by kind: each a fact of its own shape. Contacts, agents and things stand
there by their ids, references with their kind before it; words are made when somebody reads.

A field may be added with a value that says what was before there was it; one that changes its
meaning makes a new version of its kind (`VERSIONS` in `callcore.events.codec`).
"""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import Any, Literal, NamedTuple

#: A formula of the service level; see `callcore.measures.rows`.
Formula = Literal["A", "B", "C", "D"]
NOTHING: Mapping[str, Any] = MappingProxyType({})


class Arrived(NamedTuple):
    """A contact is there. `definition`: of a flow of which no version is kept. `consult_of`: the
    contact that a colleague is asked about, `by` whom and why. `begun`: by an agent,
    not by the caller."""

    number: str = ""
    caller: str = ""
    flow: str = ""
    flow_name: str = ""
    version: int = 0
    version_id: int | None = None
    trial: bool = False
    values: Mapping[str, Any] = NOTHING
    definition: Mapping[str, Any] | None = None
    blocks: Mapping[str, int] = NOTHING
    begun: str = ""
    placed_by: str = ""
    consult_of: str = ""
    by: str = ""
    purpose: str = ""


class Moved(NamedTuple):
    """It took an exit of a stop, both as their author wrote them; `inner` are those that ran, where
    a shared block was laid in. `plan`: of this waiting plan, in the version
    `plan_version`. `told`: the words of a journal that held words."""

    step: str = ""
    exit: str = ""
    to: str | None = None
    why: str = ""
    detail: str = ""
    inner: tuple[str, str] | None = None
    plan: str = ""
    plan_version: str = ""
    told: str = ""


class Heard(NamedTuple):
    """It hears a prompt: the recording `take`, or `text` in `language` where that is none of the
    stop's own, or was never spoken. `role`: which prompt of the stop, or `notice`, caused by an
    agent or a rule (`by`). `plan_version`: of a stop of a waiting plan."""

    step: str = ""
    role: str = ""
    take: int | None = None
    length_ms: int = 0
    text: str = ""
    language: str = ""
    by: str = ""
    plan_version: str = ""


class Listens(NamedTuple):
    """It is waited for a key, or for words."""

    step: str = ""
    until_ms: int = 0


class Keyed(NamedTuple):
    """A key was pressed, by the caller or (`by`) an agent."""

    step: str = ""
    key: str = ""
    by: str = ""


class Spoken(NamedTuple):
    """The caller said something, and which keys it was taken for."""

    step: str = ""
    words: str = ""
    meant: str = ""


class Texted(NamedTuple):
    """A message was written, by `caller` or `agent`."""

    by: str = "caller"
    words: str = ""


class Queued(NamedTuple):
    """It entered a queue, with so many at work who could take it. What counts as late and as a
    short abandon there (ms), and the formula of the service level, at that moment."""

    queue: str = ""
    step: str = ""
    staff: int = 0
    threshold_ms: int = 60_000
    short_ms: int = 5_000
    formula: Formula = "A"


class WaitTold(NamedTuple):
    """The caller, who waits in a queue, was told that it takes so long from then on (s)."""

    queue: str = ""
    seconds: int = 0


class LeftQueue(NamedTuple):
    """It left a queue without an answer."""

    queue: str = ""
    entered_ms: int = 0
    why: str = ""


class Diverted(NamedTuple):
    """A diversion sent it elsewhere; `reason` and `to` as they were told then."""

    diversion: str = ""
    reason: str = ""
    to: str = ""


class WentOn(NamedTuple):
    """It is in another flow from here on. See `Arrived`."""

    flow: str = ""
    flow_name: str = ""
    version: int = 0
    version_id: int | None = None
    blocks: Mapping[str, int] = NOTHING
    definition: Mapping[str, Any] | None = None


class RingsOut(NamedTuple):
    """An outside number is rung."""

    step: str = ""
    number: str = ""
    until_ms: int = 0


class RangOut(NamedTuple):
    """What came of ringing an outside number."""

    step: str = ""
    result: str = ""


class RingsPerson(NamedTuple):
    """People (`agent:…`) are rung, as a ring group or each by themself."""

    step: str = ""
    people: tuple[str, ...] = ()
    until_ms: int = 0
    group: str = ""


class Music(NamedTuple):
    """It hears hold music; `sound` empty for the one that is built in."""

    step: str = ""
    until_ms: int = 0
    sound: str = ""


class LooksUp(NamedTuple):
    """A row of a table is looked up."""

    step: str = ""
    table: str = ""
    key: str = ""


class Labelled(NamedTuple):
    """Agents read this label from here on."""

    step: str = ""
    label: str = ""
    priority: int | None = None
    asks: tuple[tuple[str, int], ...] = ()


class Records(NamedTuple):
    """A message is recorded for a mailbox (a reference)."""

    step: str = ""
    mailbox: str = ""
    until_ms: int = 0


class MessageLeft(NamedTuple):
    """A message of a mailbox (an id) was left."""

    step: str = ""
    mailbox: str = ""
    length_ms: int = 0


class Booked(NamedTuple):
    """A callback stands in a queue from here on, for the caller of `origin`."""

    origin: str = ""
    queue: str = ""
    number: str = ""
    caller: str = ""
    entered_ms: int = 0
    attempts: int = 0
    retry_ms: int = 0
    next_ms: int = 0
    label: str = ""
    priority: int | None = None
    flow: str = ""


class CallsBack(NamedTuple):
    """An agent rings the caller of a callback."""

    queue: str = ""
    number: str = ""
    attempt: int = 0


class NotReached(NamedTuple):
    """A callback's caller was not reached; rung again at `next_ms`, 0 for never."""

    queue: str = ""
    result: str = ""
    next_ms: int = 0


class Ended(NamedTuple):
    """It is over."""

    step: str = ""
    ending: str = ""


class Rang(NamedTuple):
    """An agent is rung by a queue's rule. From `considered` on: see
    `callcore.routing.events.Explained`."""

    queue: str = ""
    until_ms: int = 0
    rule: str = ""
    considered: tuple[tuple[str, str], ...] = ()
    weighed: tuple[tuple[str, int], ...] = ()
    unnamed: tuple[tuple[str, int], ...] = ()
    among: int = 0
    priority: float = 0.0


class RingStopped(NamedTuple):
    """An agent is rung no more."""

    queue: str = ""
    why: str = ""


class Answered(NamedTuple):
    """An agent has it: a `callback`, one `transferred` by a colleague, or one they have `begun`."""

    queue: str = ""
    entered_ms: int = 0
    callback: bool = False
    transferred: bool = False
    begun: bool = False


class Held(NamedTuple):
    """It is put on hold, or taken back."""

    on: bool = False


class Consults(NamedTuple):
    """Somebody (`to`, a reference or a number) is asked about it, by the contact `consult`."""

    consult: str = ""
    to: str = ""
    purpose: str = ""


class Joined(NamedTuple):
    """All three speak; `agent` is the colleague, or empty for a number outside (`to`)."""

    colleague: str = ""
    to: str = ""


class ConsultOver(NamedTuple):
    """Whoever was asked is gone."""

    to: str = ""


class RecordsTalk(NamedTuple):
    """The talk is recorded from here on, or no more; how that was told, and who caused it."""

    on: bool = False
    told: str = "nothing"
    by: str = ""


class Transferred(NamedTuple):
    """It is sent on: to a reference or a number, or put through to whom `consult` rang."""

    to: str = ""
    consult: str = ""


class Emergency(NamedTuple):
    """An agent presses the emergency button; `to` is rung in."""

    to: str = ""


class EmergencyTaken(NamedTuple):
    """Somebody of the floor, by name, looks after it."""

    by: str = ""


class Attends(NamedTuple):
    """A supervisor, by name, hears it: `listens`, `coaches` (the agent hears them) or `joins` (all
    do); empty for no more. `user`: their id."""

    user: str = ""
    by: str = ""
    how: str = ""


class TakenOver(NamedTuple):
    """A supervisor, by name, has it in place of the agent."""

    user: str = ""
    by: str = ""


class GivenBack(NamedTuple):
    """The supervisor who took it over has done with it: `ended`, `sent` (`to`), or `lost`, where
    their telephone was gone."""

    user: str = ""
    by: str = ""
    why: str = ""
    to: str = ""


class Steered(NamedTuple):
    """A supervisor, by name, did something to an agent or to a contact that waits: `act` is
    `available`, `away` (for a `reason`), `sign_out`, `serve` (`queues`), `priority` (`value`),
    `move` (to the first of `queues`) or `offer` (a callback)."""

    user: str = ""
    by: str = ""
    act: str = ""
    reason: str = ""
    queues: tuple[str, ...] = ()
    value: int = 0


class Said(NamedTuple):
    """A line of the chat between an agent and their supervisors; `user` is the supervisor's id, and
    empty where the agent wrote it. `by`: the writer's name."""

    user: str = ""
    by: str = ""
    words: str = ""


class Alert(NamedTuple):
    """An alert of a rule, by id and name: it has `arisen`, is `seen` (`by` whom), or is `over`."""

    rule: str = ""
    name: str = ""
    state: str = ""
    words: str = ""
    queue: str = ""
    by: str = ""


class Line(NamedTuple):
    """An agent's outside telephone: `rings`, what came of it, or `closed`."""

    number: str = ""
    result: str = ""


class LegEnded(NamedTuple):
    """An agent's part of it is over."""

    queue: str = ""
    by: str = ""


class Coded(NamedTuple):
    """An agent's part of it has its wrap-up code; empty for none."""

    queue: str = ""
    code: str = ""


class AgentChanged(NamedTuple):
    """An agent has another state."""

    status: str = ""
    reason: str = ""
    queue: str = ""
    since_ms: int = 0


Fact = (
    Arrived
    | Moved
    | Heard
    | Listens
    | Keyed
    | Spoken
    | Texted
    | Queued
    | WaitTold
    | LeftQueue
    | Diverted
    | WentOn
    | RingsOut
    | RangOut
    | RingsPerson
    | Music
    | LooksUp
    | Labelled
    | Records
    | MessageLeft
    | Booked
    | CallsBack
    | NotReached
    | Ended
    | Rang
    | RingStopped
    | Answered
    | Held
    | Consults
    | Joined
    | ConsultOver
    | RecordsTalk
    | Transferred
    | Emergency
    | EmergencyTaken
    | Attends
    | TakenOver
    | GivenBack
    | Steered
    | Said
    | Alert
    | Line
    | LegEnded
    | Coded
    | AgentChanged
)
