"""Everything that an administrator set up, as one consistent reading at one revision."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any, NamedTuple

from callcore.centre.facts import (
    AgentFacts,
    CodeFacts,
    DiversionFacts,
    MailboxSettings,
    NoticeFacts,
    NumberFacts,
    QueueSettings,
    RingGroupSettings,
    directory,
)
from callcore.directory.extensions import Dialled, dial
from callcore.directory.names import Person
from callcore.errors import EventRefused
from callcore.flow import describe
from callcore.flow.blocks import plain
from callcore.flow.catalogue import Catalogue
from callcore.flow.definition import AnyPrompt, Flow
from callcore.flow.runner import Machine, MailboxRule
from callcore.flow.state import WITHIN
from callcore.flow.steps import SetValue
from callcore.handling.rules import DeskRule
from callcore.hours.answer import decided
from callcore.hours.plan import Hours
from callcore.measures.alerts import AlertRule
from callcore.measures.rows import Limits
from callcore.numbers import writing
from callcore.numbers.detour import detour
from callcore.numbers.plan import Diversion, diverted
from callcore.routing.events import HandlingRule, QueueRule

#: What is wrong with a contact of the other channel, by whether the number takes texts.
OTHER_CHANNEL = {
    True: "This number takes text messages, no calls.",
    False: "This number takes calls, no text messages.",
}
_NO_DESK = DeskRule()


@dataclass(slots=True)
class RunnableFlow:
    """A definition ready to run, with its sounds. `number` 0 is a draft on trial."""

    flow_id: str
    flow_name: str
    number: int
    version_id: int | None
    machine: Machine
    catalogue: Catalogue
    takes: Mapping[AnyPrompt, int]
    #: The definition as its author wrote it: shared blocks are one step each.
    written: Flow | None = None
    #: The versions of the blocks that are laid into the machine's flow, by reference.
    blocks: Mapping[str, int] = field(default_factory=dict)

    @property
    def plan_key(self) -> str:
        """What a waiting plan is kept by: its version, or the name of one that has none."""
        return self.flow_id if self.version_id is None else str(self.version_id)

    def ad_hoc_definition(self) -> dict[str, Any] | None:
        """The definition itself, where no version is kept that has it."""
        written = self.written or self.machine.flow
        return written.model_dump(mode="json") if self.version_id is None else None

    def prompt_of(self, step_id: str, role: str) -> AnyPrompt | None:
        """What a stop says itself in one of its roles; None for what is made up as it goes."""
        if role == "failure":
            return self.machine.flow.failure_prompt
        step = self.machine.steps.get(step_id.partition(WITHIN)[2] or step_id)
        return getattr(step, _FIELD_OF.get(role, role), None)

    def step_words(self, step_id: str) -> describe.StopWords | None:
        """A stop in words; None for what only hands values over to a block and back."""
        step = next((s for s in self.written.steps if s.id == step_id), None) if self.written else None
        step = step or self.machine.steps.get(step_id)
        if step is None or (isinstance(step, SetValue) and "." in step_id):
            return None
        words = describe.stop(step, self.catalogue)
        return describe.StopWords(*(plain(part) for part in words)) if "." in step_id else words


_FIELD_OF = {
    "no_key": "no_key_prompt",
    "wrong_key": "wrong_key_prompt",
    "farewell": "prompt",
    "booked": "thanks",
}


class Invalid(NamedTuple):
    """Something that does not do what it should: a thing that cannot be read, or a version in
    force that could not be published any more. `page` is where it is mended."""

    id: str
    page: str
    name: str
    message: str


class Answer(NamedTuple):
    """What answers a call: a script, the values handed to it, and the diversion if there is one."""

    flow: RunnableFlow
    values: Mapping[str, Any]
    diversion: Diversion | None


def _no_catalogue() -> Catalogue:
    return Catalogue()


@dataclass(frozen=True, slots=True)
class Setup:
    """Everything that an administrator set up, at one revision."""

    revision: int = 0
    #: When a scheduled version comes into force, and the configuration must be read again.
    next_due_ms: int | None = None
    time_zone: str = "UTC"
    #: Where numbers without a country code are (ISO 3166).
    region: str = "GB"
    numbers: Mapping[str, NumberFacts] = field(default_factory=dict)
    hours: Mapping[str, Hours] = field(default_factory=dict)
    flows: Mapping[str, RunnableFlow] = field(default_factory=dict)
    queues: Mapping[str, QueueSettings] = field(default_factory=dict)
    agents: Mapping[str, AgentFacts] = field(default_factory=dict)
    codes: Mapping[str, list[CodeFacts]] = field(default_factory=dict)
    handling: HandlingRule = field(default_factory=HandlingRule)
    handling_of: Mapping[str, HandlingRule] = field(default_factory=dict)
    desks: Mapping[str, DeskRule] = field(default_factory=dict)
    away_reasons: tuple[str, ...] = ()
    #: The centre's hold music (a sound), or empty.
    music: str = ""
    groups: Mapping[str, RingGroupSettings] = field(default_factory=dict)
    notices: tuple[NoticeFacts, ...] = ()
    alerts: tuple[AlertRule, ...] = ()
    mailboxes: Mapping[str, MailboxSettings] = field(default_factory=dict)
    diversions: tuple[DiversionFacts, ...] = ()
    #: Things by name and the sounds of greetings, for what is not a flow of its own.
    catalogue: Catalogue = field(default_factory=_no_catalogue)
    greeting_takes: Mapping[AnyPrompt, int] = field(default_factory=dict)
    extensions: Mapping[str, str] = field(default_factory=dict)
    #: What cannot be read, and versions in force that could not be published any more.
    invalid: tuple[Invalid, ...] = ()
    invalid_in_force: tuple[Invalid, ...] = ()

    def open_at(self, reference: str, now_ms: int) -> tuple[bool, str] | None:
        """Open or closed at a moment, and why; None where there are no such hours."""
        hours = self.hours.get(reference)
        if hours is None:
            return None
        return decided(hours, datetime.fromtimestamp(now_ms / 1000, UTC))

    def mailbox(self, reference: str) -> MailboxRule | None:
        """A mailbox as the runner needs it."""
        found = self.mailboxes.get(reference.partition(":")[2])
        return MailboxRule(found.greeting, found.longest_ms) if found else None

    def dial(self, digits: str) -> Dialled:
        """Whose an extension is, as a reference."""
        return dial(self.extensions, digits)

    def people(self) -> tuple[Person, ...]:
        """Who can be spelled in the name directory."""
        return directory(self.agents.values(), self.groups.values())

    def national(self, e164: str) -> str:
        """A number as people at home write it."""
        return writing.national(e164, self.region)

    def name_of(self, reference: str) -> str | None:
        """The name of a person, skill, queue, ring group, mailbox, flow or sound; a number as people write
        it; None for what is gone."""
        kind, found, identity = reference.partition(":")
        if not found:
            return self.national(reference)
        if kind == "flow":
            flow = self.flows.get(identity)
            return flow.flow_name if flow is not None else None
        if kind == "skill":
            return self.catalogue.skills.get(reference)
        if kind == "sound":
            sound = self.catalogue.sounds.get(reference)
            return sound.name if sound is not None else None
        where: dict[str, Mapping[str, Any]] = {
            "agent": self.agents,
            "queue": self.queues,
            "group": self.groups,
            "mailbox": self.mailboxes,
        }
        thing = where.get(kind, {}).get(identity)
        return thing.name if thing is not None else None

    def code_name(self, code: str) -> str:
        """The name of a wrap-up code."""
        named = (c.name for codes in self.codes.values() for c in codes if c.id == code)
        return next(named, "")

    def outside(self, typed: str) -> str:
        """A number as it can be rung (E.164).

        Raises:
            NotANumber: it is none.
        """
        return writing.read(typed, self.region)

    def answers(self, number: NumberFacts | None, channel: str, now_ms: int) -> Answer:
        """What answers a number at a moment.

        Raises:
            EventRefused: there is no such number, it takes the other channel, or nothing answers.
        """
        if number is None:
            raise EventRefused("no-such-number", "There is no such number.")
        if number.channel != channel:
            raise EventRefused("other-channel", OTHER_CHANNEL[number.channel == "text"])
        applies = number.applies_at(now_ms)
        values = dict(applies.values)
        diversion = self._diverts(number, now_ms)
        if diversion is not None:
            return Answer(self.detour(diversion, applies.flow), values, diversion)
        found = self.flows.get(applies.flow)
        if found is None:
            message = "Nothing answers this number: it has no flow in force."
            raise EventRefused("not-in-force", message)
        return Answer(found, values, None)

    def _diverts(self, number: NumberFacts, now_ms: int) -> Diversion | None:
        if not self.diversions or number.channel != "voice":
            return None
        moment = datetime.fromtimestamp(now_ms / 1000, UTC)
        return diverted(number.address, (d.rule for d in self.diversions), moment)

    def detour(self, diversion: Diversion, normal: str) -> RunnableFlow:
        """A diversion, ready to run."""
        flow = detour(diversion, normal)
        return self.ad_hoc(flow, f"Diversion: {diversion.reason}")

    def ad_hoc(self, flow: Flow, name: str) -> RunnableFlow:
        """A definition that belongs to no flow, ready to run."""
        machine = Machine(flow, self.catalogue.length_ms)
        return RunnableFlow("", name, 0, None, machine, self.catalogue, self.greeting_takes, flow)

    def diversions_in_force(self, now_ms: int) -> list[DiversionFacts]:
        """The diversions that count at a moment."""
        moment = datetime.fromtimestamp(now_ms / 1000, UTC)
        return [d for d in self.diversions if d.rule.in_force(moment)]

    def queue_rules(self) -> list[QueueRule]:
        """The queues as the router takes them."""
        return [
            QueueRule(
                q.id,
                q.priority,
                None if q.longest_wait_s is None else q.longest_wait_s * 1000,
                q.priority_growth,
                q.distribution,
                q.required_skills,
                q.widening,
                q.last_agent_s * 1000,
                q.when_nobody == "wait",
            )
            for q in self.queues.values()
        ]

    def members(self) -> dict[str, tuple[str, ...]]:
        """The members of each queue."""
        return {q.id: q.members for q in self.queues.values()}

    def rule_of(self, agent: str) -> HandlingRule:
        """How an agent works."""
        return self.handling_of.get(agent, self.handling)

    def desk_of(self, agent: str) -> DeskRule:
        """What counts at an agent's desk."""
        return self.desks.get(agent, _NO_DESK)

    def limits_of(self, queue: str) -> Limits:
        """What a queue counts as late and as a short abandon, and its formula."""
        known = self.queues.get(queue)
        if known is None:
            return Limits()
        return Limits(known.threshold_s * 1000, known.short_abandon_s * 1000, known.formula)

    def codes_of(self, queue: str) -> list[CodeFacts]:
        """The wrap-up codes that a queue's agents choose from."""
        known = self.queues.get(queue)
        return self.codes.get(known.code_set, []) if known else []
