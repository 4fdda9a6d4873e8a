"""A contact under way, and its log."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, NamedTuple

from callcore.centre.contact_topics import Playing
from callcore.centre.setup import RunnableFlow
from callcore.events import Happening
from callcore.flow import runner
from callcore.routing.choosing import Agent
from callcore.routing.events import Status
from callcore.talk.conversation import Talk

NO_TALK = Talk()
#: How many flows that a contact was in are known by it.
_PAST = 20
#: A leg that ends so leaves the contact to somebody else.
GOES_ON = ("transferred", "taken_over", "no_reply", "joined")


class Consultation(NamedTuple):
    """What an agent's own call to a colleague has besides: the contact it is about, and why."""

    of: str
    agent: str
    purpose: str
    #: Whom they asked for: a reference, or a number.
    to: str = ""


class Attendance(NamedTuple):
    """A supervisor at a contact, by name: `listens`, `coaches`, `joins`, or `has` it."""

    by: str
    how: str
    since_ms: int


@dataclass(slots=True)
class CallbackState:
    """What a callback has besides what all contacts have. `tried` counts the ringings."""

    origin: str
    attempts: int
    retry_ms: int
    tried: int = 0
    next_ms: int = 0


@dataclass(slots=True)
class Contact:
    """A contact under way."""

    id: str
    number: str
    caller: str
    trial: bool
    flow: RunnableFlow
    state: runner.RunState
    arrived_ms: int
    values: dict[str, Any] = field(default_factory=dict)
    queue: str = ""
    entered_ms: int = 0
    agent: str = ""
    #: What agents read before the caller's number, and the priority in queues.
    label: str = ""
    priority: int | None = None
    #: Skills (ids, or a language) and least levels that its agents must have.
    asks: tuple[tuple[str, int], ...] = ()
    playing: Playing | None = None
    #: The key of the waiting plan of the queue that it came into last.
    plan: str = ""
    #: How many times an outside number was rung: an answer to an older ringing is no answer.
    rings: int = 0
    #: What a callback has besides; None for all other contacts.
    callback: CallbackState | None = None
    consultation: Consultation | None = None
    #: The agent who began it, where it was not the caller.
    begun: str = ""
    talk: Talk = NO_TALK
    #: The supervisors who hear it, or have it, by their ids.
    attended: dict[str, Attendance] = field(default_factory=dict)
    #: The queue that it came into last, also while it is in one person's line.
    home: str = ""
    #: The queue whose contact it was with each agent who had it.
    homes: dict[str, str] = field(default_factory=dict)
    #: Whether an agent has had it, and whether the last one sent it on. Served and not sent on, a
    #: person was the end of its way, even if a survey follows.
    served: bool = False
    sent_on: bool = False
    #: The person at whose telephone it was placed, as a user's id; empty for all other calls.
    placed_by: str = ""
    #: Whether it takes the failure rule because of a fault of our own.
    failing: bool = False
    #: When its text came that has no reply yet; 0 for none.
    unanswered_ms: int = 0
    #: Which contact of the site it is, counted from its beginning.
    ordinal: int = 0
    #: The table and the key that it has looked up and waits for.
    looks_up: tuple[str, str] | None = None
    #: The flows that it was in before, as they ran: what it heard there is told by them.
    past: list[RunnableFlow] = field(default_factory=list)
    #: Of a callback: the events of the call that booked it.
    before: list[Happening] = field(default_factory=list)
    log: list[Happening] = field(default_factory=list)

    @property
    def story(self) -> list[Happening]:
        """All that is told of it: a callback goes on from the call that booked it."""
        return [*self.before, *self.log]

    @property
    def text(self) -> bool:
        """Whether it writes and reads, and does not speak."""
        return self.flow.machine.flow.channel == "text"

    def goes_on_in(self, flow: RunnableFlow) -> None:
        """It leaves its flow for another."""
        self.past = [*(known for known in self.past if known is not self.flow), self.flow][-_PAST:]
        self.flow = flow

    def taken_by(self, agent: str) -> None:
        """An agent has it now, live or in a story that is read back."""
        self.agent, self.homes[agent] = agent, self.home

    def home_of(self, agent: Agent) -> str:
        """The queue whose contact it is for an agent: who wraps it up had it before it went on."""
        wrapping = agent.status is Status.WRAPPING
        return self.homes.get(agent.id, self.home) if wrapping else self.home

    def release(self, by: str) -> None:
        """An agent's part of it is over, live or in a story that is read back."""
        self.sent_on = by in GOES_ON
        # What is recorded stays so with the next agent; nobody stays on hold.
        recording = self.sent_on and self.talk.recording
        self.agent, self.unanswered_ms = "", 0
        if self.talk is not NO_TALK:
            self.talk = NO_TALK._replace(recording=recording, consult=self.talk.consult)
        self.served = self.consultation is None
