"""What the live topics `call` and `desk` say; see `topics`."""

from __future__ import annotations

from typing import Any, Literal

from typing_extensions import TypedDict

from callcore.flow.state import Phase
from callcore.routing.events import Status

# A call


class SpokenNow(TypedDict):
    """Words that no recording has yet: they are spoken when somebody hears them."""

    language: str
    text: str


class Playing(TypedDict):
    """What the caller hears of the flow's own, and since when."""

    take: int | None
    since_ms: int
    length_ms: int
    step: str
    spoken: SpokenNow | None


class Call(TypedDict):
    """A contact as its caller's telephone shows it. `music_take` None: the music of the house."""

    number: str
    caller: str
    flow: str
    flow_name: str
    version: int
    arrived_ms: int
    ended_ms: int | None
    queue: str
    agent: str
    channel: Literal["voice", "text"]
    phase: Phase
    step: str
    listens_until_ms: int | None
    music: bool
    music_take: int | None
    listens: bool
    keys: bool
    position: int | None
    playing: Playing | None
    ending: str | None


class _Told(TypedDict):
    at_ms: int
    kind: str
    agent: str
    agent_name: str


class Considered(TypedDict):
    """Some who were looked at for a contact: what was made of them, who they are by name, and how
    many more there were."""

    words: str
    people: list[str]
    more: int


class LogLine(_Told, total=False):
    """What happened, in words; which fields there are goes by its kind."""

    act: str
    attempt: int
    by: str
    considered: list[Considered]
    ending: str
    exit: str
    how: str
    key: str
    label: str
    length_ms: int
    meant: str
    name: str
    on: bool
    purpose: str
    result: str
    role: str
    sentence: str
    step: str
    title: str
    to: str | None
    value: int
    why: str
    words: str


class CallTopic(TypedDict):
    """`call.<contact>`. The log's ids are its places."""

    call: Call
    log: dict[str, LogLine]


# A desk


class AttendedBy(TypedDict):
    """A supervisor, by name, at a contact: `listens`, `coaches`, `joins` or `has`."""

    by: str
    how: str
    since_ms: int


class SteeredBy(TypedDict):
    """What a supervisor had an agent do: `available`, `away` for a `reason`, or `sign_out`."""

    by: str
    act: str
    reason: str
    at_ms: int


class Unreached(TypedDict):
    """The callback that an agent tried last in vain; `next_ms` 0 for never again."""

    at_ms: int
    number: str
    result: str
    next_ms: int
    attempt: int
    attempts: int


class DeskAgent(TypedDict):
    """The agent. `next`: the state and reason that come after this contact; `must_code`: the
    wrap-up in hand needs a code; `to_wrap`: how many contacts want theirs after it; `line`: where
    they speak, `browser`, `dialled` or `open`; `sign_out_reasons`: one of them is asked for; empty
    for none."""

    name: str
    extension: str
    status: Status
    reason: str
    since_ms: int
    due_ms: int | None
    next: list[str] | None
    away_reasons: list[str]
    must_code: bool
    target_wrap_s: int
    reminder_s: int
    keypad_s: int
    screen_s: int
    line: str
    line_open: bool
    contact: str
    to_wrap: int
    unreached: Unreached | None
    queues: list[str]
    queue_ids: list[str]
    sign_out_reasons: list[str]
    steered: SteeredBy | None


class TalkNow(TypedDict):
    """How a contact stands: on hold, recorded, and whoever is asked beside it. `purpose`: why,
    `consult`, `help` or `emergency`. `notice`: the caller is being told, and the recording begins
    after that."""

    held: bool
    recording: bool
    notice: bool
    joined: bool
    attended: list[AttendedBy]
    purpose: str
    consult: str
    consult_talks: bool


class CallingBack(TypedDict):
    """Which attempt of a callback this is, and whether the caller is there."""

    attempt: int
    attempts: int
    talking: bool
    number: str


class AlarmAtDesk(TypedDict):
    """Who looks after an emergency; empty while nobody does."""

    taken_by: str


class Written(TypedDict):
    """A text of a thread, by `caller`, `agent` or `flow`."""

    at_ms: int
    by: str
    words: str


class Passed(TypedDict):
    """A stop that a contact came to, and why."""

    title: str
    sentence: str
    words: str


class DeskContact(TypedDict):
    """A contact at a desk. `asked_by`: the colleague who asks, where it is a consultation."""

    id: str
    asked_by: str
    purpose: str
    talk: TalkNow | None
    can: list[str]
    values: dict[str, Any]
    link: str
    reply_due_ms: int | None
    unanswered: bool
    caller: str
    number: str
    label: str
    noted: str
    callback: CallingBack | None
    alarm: AlarmAtDesk | None
    channel: Literal["voice", "text"]
    thread: list[Written]
    queue: str
    note: str
    arrived_ms: int
    entered_ms: int
    path: list[Passed]


class DeskCode(TypedDict):
    """A wrap-up code that may be given now."""

    id: str
    name: str
    digits: str
    group: str
    long_label: str


class ChatLine(TypedDict):
    """A line of the chat of an agent with their supervisors. `mine`: the agent wrote it."""

    at_ms: int
    by: str
    mine: bool
    words: str


class DeskNotice(TypedDict):
    """A notice for the agent's team."""

    text: str
    since_ms: int
    until_ms: int


class Desk(TypedDict):
    """`desk.<agent>`."""

    agent: DeskAgent
    contacts: dict[str, DeskContact]
    codes: dict[str, DeskCode]
    notices: dict[str, DeskNotice]
    chat: dict[str, ChatLine]
