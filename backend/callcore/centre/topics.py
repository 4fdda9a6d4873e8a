"""What each live topic says, item by item: the one description of it, from which the types of
the interface are made (`docs/openapi.yaml`).

A topic is sections of items by id, `{section: {id: item}}`; a section of one thing only has the
fields of that thing in place of ids. Moments are milliseconds since the epoch, by the site's
clock; ages are for the reader to count.
"""

from __future__ import annotations

from typing import Any, Literal

from typing_extensions import TypedDict

from callcore.flow.state import Phase
from callcore.measures.rows import Formula
from callcore.routing.events import Status

#: What an agent on a contact does at the moment.
Doing = Literal["", "talking", "holding", "consulting", "conference", "asked"]


# The floor


class Counts(TypedDict):
    """Agents by state."""

    signed_in: int
    available: int
    ringing: int
    on_contact: int
    wrapping: int
    away: int


class Figures(TypedDict):
    """Today's figures of a queue, or of the centre; waits in ms, the level from 0 to 1."""

    offered: int
    answered: int
    abandoned: int
    left_otherwise: int
    under_way: int
    short_abandons: int
    answered_late: int
    abandoned_late: int
    average_wait_ms: float | None
    longest_answered_ms: int
    longest_abandoned_ms: int
    service_level: float | None


class Bead(TypedDict):
    """One who waits, and who of the agents is rung for them."""

    contact: str
    entered_ms: int
    caller: str
    ringing: str


class Score(TypedDict):
    """How well an estimator did on those who were answered (s)."""

    scored: int
    within: int
    error_s: float | None
    bias_s: float | None


class ExpectedWait(TypedDict):
    """The wait (s) of a caller who came now, and how well waits were estimated so far."""

    seconds: float | None
    told: bool
    best: str | None
    scores: dict[str, Score]


class FloorQueue(Counts):
    """A queue: its agents' counts are of those who take part in it."""

    name: str
    colour: str
    threshold_s: int
    goal_percent: int
    formula: Formula
    waiting: list[Bead]
    callbacks: int
    first_entered_ms: int | None
    expected: ExpectedWait | None
    figures: Figures


class FloorAgent(TypedDict):
    """An agent who is signed in. `texts`: how many at once, 0 for one contact or none."""

    name: str
    team: str
    team_id: str
    extension: str
    staff_number: str
    status: Status
    reason: str
    since_ms: int
    due_ms: int | None
    caller: str
    queue: str
    doing: Doing
    texts: int
    emergency: bool


class Span(TypedDict):
    """The states of an agent that began within some ten minutes of the last hour, each since when
    (ms), oldest first."""

    agent: str
    team_id: str
    states: list[tuple[int, Status]]


class Centre(Counts):
    """All queues and agents together, each agent counted once."""

    known: int
    waiting: int
    first_entered_ms: int | None
    figures: Figures


class Floor(TypedDict):
    """`floor`. `spans` also has those of agents who have signed out."""

    queues: dict[str, FloorQueue]
    agents: dict[str, FloorAgent]
    spans: dict[str, Span]
    centre: Centre


# The strip


class StripFigures(Counts):
    """What stands under the stages of a caller's journey."""

    arrived: int
    in_flows: int
    waiting: int
    first_entered_ms: int | None
    invalid: int
    diversions: int
    callbacks: int
    messages: int
    legs: int
    coded: int
    service_level: float | None


class StandingDiversion(TypedDict):
    """A diversion that counts now; None for one that counts until it is lifted."""

    reason: str
    numbers: list[str]
    to: str
    since_ms: int
    until_ms: int | None


class StandingAlarm(TypedDict):
    """An emergency that nobody has taken. `over`: the contact is over."""

    name: str
    team_id: str
    caller: str
    since_ms: int
    over: bool


class InvalidThing(TypedDict):
    """Something that does not do what it should; `page` is where it is mended."""

    id: str
    page: str
    name: str
    message: str


class Strip(TypedDict):
    """`strip`. `activity`: for each stage what happened in each of the last 60 minutes."""

    figures: StripFigures
    diversions: dict[str, StandingDiversion]
    alarms: dict[str, StandingAlarm]
    invalid: dict[str, InvalidThing]
    activity: dict[str, list[int]]


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


class LogLine(_Told, total=False):
    """What happened, in words; which fields there are goes by its kind."""

    attempt: int
    by: str
    ending: str
    exit: str
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
    why: str
    words: str


class CallTopic(TypedDict):
    """`call.<contact>`. The log's ids are its places."""

    call: Call
    log: dict[str, LogLine]


# A desk


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
    they speak, `browser`, `dialled` or `open`."""

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


class TalkNow(TypedDict):
    """How a contact stands: on hold, recorded, and whoever is asked beside it. `purpose`: why,
    `consult`, `help` or `emergency`. `notice`: the caller is being told, and the recording begins
    after that."""

    held: bool
    recording: bool
    notice: bool
    joined: bool
    purpose: str
    side: str
    side_talks: bool


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


class DeskNotice(TypedDict):
    """A notice for the agent's team."""

    text: str
    until_ms: int


class Desk(TypedDict):
    """`desk.<agent>`."""

    agent: DeskAgent
    contacts: dict[str, DeskContact]
    codes: dict[str, DeskCode]
    notices: dict[str, DeskNotice]


# A flow, a queue


class FlowTopic(TypedDict):
    """`flow.<flow>`: callers by stop now, and today's by `stop exit` and by ending."""

    here: dict[str, int]
    arms: dict[str, int]
    endings: dict[str, int]


class Waits(TypedDict):
    """Today's waits in a queue; counted by how long they were, in bins of `bin_ms`."""

    threshold_s: int
    answered_in_time: int
    answered_late: int
    abandoned_in_time: int
    abandoned_late: int
    bin_ms: int
    answered: dict[str, int]
    abandoned: dict[str, int]


class QueueTopic(TypedDict):
    """`queue.<queue>`."""

    waits: Waits


# The exchange itself, and who is there


class Fault(TypedDict):
    """What our own code failed at last, and the contact that ended by it, if any."""

    at_ms: int
    what: str
    contact: str


class Heartbeat(TypedDict):
    """That the exchange lives: on which revision, and how the site's clock runs."""

    revision: int
    at_ms: int
    speed: int
    wall_ms: int
    faults: int
    fault: Fault | None


class HeartbeatTopic(TypedDict):
    """`heartbeat`."""

    heartbeat: Heartbeat


class Author(TypedDict):
    """Somebody who has a flow open in a window."""

    user: str
    name: str


class Authors(TypedDict):
    """`authors.<flow>`."""

    people: dict[str, Author]


class Topics(TypedDict):
    """Every topic, by the word that it begins with."""

    floor: Floor
    strip: Strip
    call: CallTopic
    desk: Desk
    flow: FlowTopic
    queue: QueueTopic
    heartbeat: HeartbeatTopic
    authors: Authors


#: What the exchange makes for one thing, or for the whole centre.
CentreTopic = Floor | Strip | CallTopic | Desk | FlowTopic | QueueTopic
