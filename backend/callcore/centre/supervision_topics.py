"""What the live topics `person` and `supervisor` say; see `topics`."""

from __future__ import annotations

from typing import Any, Literal

from typing_extensions import TypedDict

from callcore.centre.contact_topics import ChatLine, SteeredBy

#: What somebody at a contact does, for those who look on.
PartyDoing = Literal["speaks", "hears_music", "waits", "rings", "writes", "coaches", "listens"]


class Party(TypedDict):
    """Somebody at a contact; `who` is `caller`, `agent`, `colleague` or `supervisor`."""

    who: Literal["caller", "agent", "colleague", "supervisor"]
    name: str
    doing: PartyDoing


class HeldContact(TypedDict):
    """A contact that an agent, or a supervisor, has. `may`: what a supervisor may do with it now,
    each with what it does."""

    caller: str
    queue: str
    label: str
    channel: Literal["voice", "text"]
    arrived_ms: int
    answered_ms: int | None
    waited_ms: int
    up_front_ms: int
    values: dict[str, Any]
    parties: list[Party]
    may: dict[str, str]


class PersonNow(TypedDict):
    """An agent, opened on the floor. `acts`: what a supervisor may have them do, each with when it
    counts. `serves`: queues of this shift only; `own`: their own."""

    name: str
    team_id: str
    steered: SteeredBy | None
    next: list[str] | None
    acts: dict[str, str]
    away_reasons: list[str]
    own: list[str]
    serves: list[str]


class PersonTopic(TypedDict):
    """`person.<agent>`."""

    person: PersonNow
    contacts: dict[str, HeldContact]
    chat: dict[str, ChatLine]


class AttendedContact(HeldContact):
    """A contact at which the supervisor is, and how: `listens`, `coaches`, `joins` or `has`."""

    agent: str
    agent_name: str
    how: str
    since_ms: int


class SupervisorTopic(TypedDict):
    """`supervisor.<user>`."""

    contacts: dict[str, AttendedContact]
