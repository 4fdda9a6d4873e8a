"""What each live topic says, item by item: the one description of it, from which the types of
the interface are made (`docs/openapi.yaml`).

A topic is sections of items by id, `{section: {id: item}}`; a section of one thing only has the
fields of that thing in place of ids. Moments are milliseconds since the epoch, by the site's
clock; ages are for the reader to count.
"""

from __future__ import annotations

from typing import Literal

from typing_extensions import TypedDict

from callcore.centre.contact_topics import AttendedBy, CallTopic, Desk
from callcore.centre.supervision_topics import PersonTopic, SupervisorTopic
from callcore.measures.looks import Why
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
    """One who waits, and who of the agents is rung for them. `late_from_ms`: from when the wait is
    too long for the queue. `priority`: as it has grown by now."""

    contact: str
    entered_ms: int
    late_from_ms: int
    caller: str
    ringing: str
    priority: int
    channel: Literal["voice", "text"]


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
    """A queue: its agents' counts are of those who can take its contacts. `level_now`: the service
    level of the half hour (0 to 1). `below_goal`: whether the day's level misses the goal."""

    name: str
    group: str
    colour: str
    threshold_s: int
    goal_percent: int
    formula: Formula
    channels: list[str]
    waiting: list[Bead]
    callbacks: int
    first_entered_ms: int | None
    expected: ExpectedWait | None
    figures: Figures
    below_goal: bool
    level_now: float | None


class NeedNow(TypedDict):
    """Why somebody needs a look from a moment on: by a limit in seconds, or so many of the last
    five rings missed."""

    why: Why
    from_ms: int
    limit: int


class FloorAgent(TypedDict):
    """An agent who is signed in. `texts`: how many at once, 0 for one contact or none. `queues`:
    those whose contacts they can take, `extra` of them until they sign out. `attended`: by whom the
    contact in hand is."""

    name: str
    team: str
    team_id: str
    site: str
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
    queues: list[str]
    extra: list[str]
    attended: list[AttendedBy]
    needs: list[NeedNow]


class Span(TypedDict):
    """The states of an agent that began within some ten minutes of the last hour, each since when
    (ms), oldest first."""

    agent: str
    team_id: str
    states: list[tuple[int, Status]]


class Group(Counts):
    """Some queues together, each agent counted once; the level by formula A."""

    waiting: int
    first_entered_ms: int | None
    figures: Figures


class Centre(Group):
    """All queues and agents together. `known`: agents, signed in or not."""

    known: int


class Floor(TypedDict):
    """`floor`. `groups`: queues by the name of their group; `sites`: agents by where they work.
    `spans` also has those of agents who have signed out."""

    queues: dict[str, FloorQueue]
    groups: dict[str, Group]
    sites: dict[str, Counts]
    agents: dict[str, FloorAgent]
    spans: dict[str, Span]
    centre: Centre


class Wait(TypedDict):
    """One who waits, without who it is: since when, and from when on that is too long (ms)."""

    entered_ms: int
    late_from_ms: int


class Line(TypedDict):
    """Who waits in a queue, as agents see it, the first in line first."""

    name: str
    threshold_s: int
    waiting: list[Wait]


class Lines(TypedDict):
    """`lines`."""

    queues: dict[str, Line]


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


class StandingAlert(TypedDict):
    """An alert that is not over: of the rule by its name, with its figure in words as it arose.
    `seen_by`: who has seen it; empty for nobody. `teams`: whose supervisors are told; empty for
    those of the queue."""

    name: str
    words: str
    queue: str
    teams: list[str]
    since_ms: int
    seen_by: str


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
    alerts: dict[str, StandingAlert]
    invalid: dict[str, InvalidThing]
    activity: dict[str, list[int]]


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
    lines: Lines
    strip: Strip
    call: CallTopic
    desk: Desk
    person: PersonTopic
    supervisor: SupervisorTopic
    flow: FlowTopic
    queue: QueueTopic
    heartbeat: HeartbeatTopic
    authors: Authors


#: What the exchange makes for one thing, or for the whole centre.
CentreTopic = (
    Floor | Lines | Strip | CallTopic | Desk | PersonTopic | SupervisorTopic | FlowTopic | QueueTopic
)
