"""Everything that an administrator set up, thing by thing, as the centre runs on it: plain data.

What is set in seconds is in seconds (`_s`), what runs is in milliseconds (`_ms`). Things are named
by their ids, references have their kind before it (`flow:…`).
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import UTC, datetime
from types import MappingProxyType
from typing import Any, NamedTuple

from callcore.directory.names import Person
from callcore.flow.parts import AnyPrompt, Language
from callcore.flow.state import GroupRule
from callcore.measures.rows import Formula
from callcore.numbers.plan import Applies, Diversion, Planned, applies
from callcore.routing.events import Widen
from callcore.routing.groups import rounds
from callcore.talk.recording import RecordingRule

#: A language that an agent speaks is a skill of this name, at the highest level.
LANGUAGE = "language:"
HIGHEST = 10
NO_VALUES: Mapping[str, Any] = MappingProxyType({})


class QueueSettings(NamedTuple):
    """A queue as the exchange runs it. Times in seconds as they are set."""

    id: str
    name: str
    finished: bool
    colour: str
    members: tuple[str, ...]
    priority: int
    longest_wait_s: int | None
    threshold_s: int
    goal_percent: int
    short_abandon_s: int
    formula: Formula
    code_set: str
    note: str
    plan: str = ""
    priority_growth: float = 0.0
    distribution: str = "longest_idle"
    required_skills: tuple[tuple[str, int], ...] = ()
    widening: tuple[Widen, ...] = ()
    last_agent_s: int = 0
    hours: str = ""
    when_closed: str = "wait"
    when_nobody: str = "wait"
    link: str = ""
    channels: tuple[str, ...] = ("voice", "text")
    overflow: str = ""
    recording: RecordingRule = RecordingRule()
    survey: str = ""
    text_number: str = ""
    overflow_nobody: str = ""
    overflow_closed: str = ""
    music: str = ""
    group: str = ""

    def sends(self, way: str) -> str:
        """Where it sends those whom it lets go by a way (`waited`, `nobody`, `closed`)."""
        return {"nobody": self.overflow_nobody, "closed": self.overflow_closed}.get(way, self.overflow)


class LookLimits(NamedTuple):
    """From when on the floor points somebody of a team out: talking, wrapping up or away for longer
    (s), and so many of the last five rings missed. 0 for never."""

    talk_s: int = 480
    wrap_s: int = 120
    away_s: int = 1800
    missed: int = 2


class AgentFacts(NamedTuple):
    """An agent as the exchange sees one: `team` is its name, `skills` are levels by skill id."""

    id: str
    name: str
    extension: str
    team: str
    team_id: str = ""
    skills: Mapping[str, int] = NO_VALUES
    outside_number: str = ""
    staff_number: str = ""
    limits: LookLimits = LookLimits()
    site: str = ""


class NoticeFacts(NamedTuple):
    """A notice as desks show it; no teams: everybody's."""

    id: str
    text: str
    teams: frozenset[str]
    since_ms: int
    until_ms: int


class RingGroupSettings(NamedTuple):
    """A ring group as the exchange rings it: `people` are agents' ids, teams taken apart."""

    id: str
    name: str
    people: tuple[str, ...]
    way: str
    ring_s: int
    when_busy: str
    mailbox: str
    language: Language

    def rule(self, after: str = "", *, busy: bool = False) -> GroupRule:
        """Whom it rings now; `after` as in `callcore.routing.groups.rounds`."""
        people = tuple(f"agent:{person}" for person in self.people)
        return GroupRule(rounds(people, self.way, after), self.ring_s, busy, self.mailbox)


class MailboxSettings(NamedTuple):
    """A mailbox as the exchange runs it; `new` counts the messages nobody has heard."""

    id: str
    name: str
    greeting: AnyPrompt | None
    longest_ms: int
    new: int


class NumberFacts(NamedTuple):
    """A number as the exchange sees it; `flow` is empty where nothing answers."""

    id: str
    address: str
    label: str
    flow: str
    planned: tuple[Planned, ...] = ()
    channel: str = "voice"
    values: Mapping[str, Any] = NO_VALUES

    def applies_at(self, now_ms: int) -> Applies:
        """The flow and values that count at a moment, diversions apart."""
        moment = datetime.fromtimestamp(now_ms / 1000, UTC)
        return applies(self.flow, self.planned, moment, self.values)


class DiversionFacts(NamedTuple):
    """A diversion as the exchange runs it, with its words for people."""

    rule: Diversion
    numbers: tuple[str, ...]
    to: str


class CodeFacts(NamedTuple):
    """A code as an agent sees it."""

    id: str
    name: str
    digits: str
    group: str
    long_label: str = ""
    retired: bool = False


def directory(people: Iterable[AgentFacts], groups: Iterable[RingGroupSettings]) -> tuple[Person, ...]:
    """Who can be spelled on the keys: people by their surnames, groups by their names."""
    return (
        *(Person(f"agent:{a.id}", a.name) for a in people),
        *(Person(f"group:{g.id}", g.name, g.name) for g in groups),
    )
