"""The configuration as the exchange runs it: one consistent reading, with its revision."""

from __future__ import annotations

import logging
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any, NamedTuple

from django.conf import settings
from django.db import InterfaceError, OperationalError, connection, transaction

from agents import groups as ring_groups
from agents import services as agent_services
from agents.groups import RingGroupSettings
from callcore.directory.extensions import Dialled, dial
from callcore.directory.names import Person
from callcore.errors import EventRefused
from callcore.flow import describe
from callcore.flow.blocks import laid_out, plain
from callcore.flow.checks import blocking, check
from callcore.flow.definition import AnyPrompt, Flow, SpokenText, all_prompts, outside_numbers
from callcore.flow.inputs import filled, said
from callcore.flow.parts import values_in
from callcore.flow.runner import Machine, MailboxRule
from callcore.flow.steps import SetValue
from callcore.flow.world import World
from callcore.handling.rules import DeskRule, desk, handling, resolve
from callcore.hours.plan import Hours
from callcore.measures.fold import Limits
from callcore.numbers.detour import detour
from callcore.numbers.plan import Diversion, diverted
from callcore.routing.events import HandlingRule, QueueRule
from changelog.kept import revision_in_database
from changelog.kinds import kind_named
from changelog.reading import Unreadable
from diversions import services as diversion_services
from diversions.services import DiversionFacts
from flows import services as flow_services
from flows.services import VersionFacts
from flows.surroundings import surroundings
from hours_app import services as hours_services
from mailboxes import services as mailbox_services
from mailboxes.services import MailboxSettings
from numbers_app import numbering
from numbers_app import services as number_services
from numbers_app.plan import national
from numbers_app.services import NumberFacts
from queues import services as queue_services
from queues.services import QueueSettings
from sounds import services as sound_services
from wrapup import services as wrapup_services
from wrapup.services import CodeFacts

log = logging.getLogger(__name__)
#: What is wrong with a contact of the other channel, by whether the number takes texts.
OTHER_CHANNEL = {
    True: "This number takes text messages, no calls.",
    False: "This number takes calls, no text messages.",
}
_NO_DESK = DeskRule()


@dataclass(slots=True)
class Script:
    """A definition ready to run, with its sounds. `number` 0 is a draft on trial."""

    flow_id: str
    flow_name: str
    number: int
    version_id: int | None
    machine: Machine
    world: World
    takes: dict[AnyPrompt, int]
    #: The definition as its author wrote it: shared blocks are one step each.
    written: Flow | None = None
    #: The versions of the blocks that are laid into the machine's flow, by reference.
    blocks: dict[str, int] = field(default_factory=dict)

    def loose_definition(self) -> dict[str, Any] | None:
        """The definition itself, where no version is kept that has it."""
        written = self.written or self.machine.flow
        return written.model_dump(mode="json") if self.version_id is None else None

    def step_words(self, step_id: str) -> describe.StopWords | None:
        """A stop in words; None for what only hands values over to a block and back."""
        step = (
            next((s for s in self.written.steps if s.id == step_id), None) if self.written else None
        )
        step = step or self.machine.steps.get(step_id)
        if step is None or (isinstance(step, SetValue) and "." in step_id):
            return None
        words = describe.stop(step, self.world)
        return describe.StopWords(*(plain(part) for part in words)) if "." in step_id else words


class Unsound(NamedTuple):
    """Something that does not do what it should: a thing that cannot be read, or a version in
    force that could not be published any more. `page` is where it is mended."""

    id: str
    page: str
    name: str
    message: str


class Answer(NamedTuple):
    """What answers a call: a script, the values handed to it, and the diversion if there is one."""

    script: Script
    values: dict[str, Any]
    diversion: Diversion | None


def _no_world() -> World:
    return World()


@dataclass(slots=True)
class Configuration:
    """Everything that an administrator set up, at one revision."""

    revision: int = 0
    #: When a scheduled version comes into force, and the configuration must be read again.
    next_due_ms: int | None = None
    time_zone: str = "UTC"
    numbers: dict[str, NumberFacts] = field(default_factory=dict)
    hours: dict[str, Hours] = field(default_factory=dict)
    scripts: dict[str, Script] = field(default_factory=dict)
    queues: dict[str, QueueSettings] = field(default_factory=dict)
    agents: dict[str, agent_services.AgentFacts] = field(default_factory=dict)
    codes: dict[str, list[CodeFacts]] = field(default_factory=dict)
    handling: HandlingRule = field(default_factory=HandlingRule)
    handling_of: dict[str, HandlingRule] = field(default_factory=dict)
    desks: dict[str, DeskRule] = field(default_factory=dict)
    away_reasons: list[str] = field(default_factory=list)
    #: The centre's hold music (a sound), or empty.
    music: str = ""
    groups: dict[str, RingGroupSettings] = field(default_factory=dict)
    notices: list[agent_services.NoticeFacts] = field(default_factory=list)
    mailboxes: dict[str, MailboxSettings] = field(default_factory=dict)
    diversions: list[DiversionFacts] = field(default_factory=list)
    #: Things by name and the sounds of greetings, for what is not a flow of its own.
    world: World = field(default_factory=_no_world)
    greeting_takes: dict[AnyPrompt, int] = field(default_factory=dict)
    extensions: dict[str, str] = field(default_factory=dict)
    unsound: list[Unsound] = field(default_factory=list)

    def open_at(self, reference: str, now_ms: int) -> tuple[bool, str] | None:
        """Open or closed at a moment, and why; None where there are no such hours."""
        hours = self.hours.get(reference)
        return hours_services.ask(hours, now_ms) if hours is not None else None

    def mailbox(self, reference: str) -> MailboxRule | None:
        """A mailbox as the runner needs it."""
        found = self.mailboxes.get(reference.partition(":")[2])
        return MailboxRule(found.greeting, found.longest_ms) if found else None

    def dial(self, digits: str) -> Dialled:
        """Whose an extension is, as a reference."""
        return dial(self.extensions, digits)

    def people(self) -> tuple[Person, ...]:
        """Who can be spelled in the name directory."""
        return ring_groups.directory(self.agents.values(), self.groups.values())

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
        moment = datetime.fromtimestamp(now_ms / 1000, UTC)
        diversion = diverted(number.address, (d.rule for d in self.diversions), moment)
        if diversion is not None and number.channel == "voice":
            return Answer(self.detour(diversion, applies.flow), values, diversion)
        script = self.scripts.get(applies.flow)
        if script is None:
            message = "Nothing answers this number: it has no flow in force."
            raise EventRefused("not-in-force", message)
        return Answer(script, values, None)

    def detour(self, diversion: Diversion, normal: str) -> Script:
        """A diversion, ready to run."""
        flow = detour(diversion, normal)
        return self.loose(flow, f"Diversion: {diversion.reason}")

    def loose(self, flow: Flow, name: str) -> Script:
        """A definition that belongs to no flow, ready to run."""
        machine = Machine(flow, self.world.length_ms)
        return Script("", name, 0, None, machine, self.world, self.greeting_takes, flow)

    def diversion_words(self, rule: Diversion) -> str:
        """Why a call was diverted, and where to."""
        to = next((d.to for d in self.diversions if d.rule.id == rule.id), "")
        return f"{rule.reason} → {to}"

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
                q.growth,
                q.chooses,
                q.asks,
                q.widening,
                q.prefer_s * 1000,
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

    def limits(self) -> dict[str, Limits]:
        """What each queue counts as late and as a short abandon."""
        return {
            q.id: Limits(q.threshold_s * 1000, q.short_abandon_s * 1000)
            for q in self.queues.values()
        }

    def codes_of(self, queue: str) -> list[CodeFacts]:
        """The wrap-up codes that a queue's agents choose from."""
        known = self.queues.get(queue)
        return self.codes.get(known.code_set, []) if known else []


def read() -> Configuration:
    """The configuration in force, read in one snapshot; what is due by now is put in force."""
    next_due = flow_services.promote_due()
    outermost = not connection.in_atomic_block
    with transaction.atomic():
        if outermost:
            _one_snapshot()
        left_out: list[Unreadable] = []
        agents = agent_services.agents()
        rules, handling_of, desks = _handling(agents)
        mailboxes = {m.id: m for m in mailbox_services.settings(left_out)}
        greetings = [m.greeting for m in mailboxes.values() if m.greeting is not None]
        surroundings = _surroundings()
        in_force = flow_services.versions_in_force(left_out)
        scripts = _scripts(in_force, surroundings, left_out)
        queues = queue_services.settings(left_out)
        groups = ring_groups.settings(left_out)
        numbers = number_services.numbers(left_out).values()
        hours = hours_services.plans(left_out)
        diversions = diversion_services.rules(left_out)
        return Configuration(
            revision=revision_in_database(),
            next_due_ms=round(next_due.timestamp() * 1000) if next_due else None,
            time_zone=settings.CENTRE_TIME_ZONE,
            numbers={n.address: n for n in numbers},
            hours=hours,
            scripts=scripts,
            unsound=[*map(_told_of, left_out), *_unsound(in_force, surroundings)],
            queues={q.id: q for q in queues if q.finished},
            agents=agents,
            codes=wrapup_services.codes_by_set(),
            handling=rules,
            handling_of=handling_of,
            desks=desks,
            away_reasons=list(agent_services.rules().away_reasons),
            groups={g.id: g for g in groups},
            music=sound_services.hold_music(),
            notices=agent_services.notices(),
            mailboxes=mailboxes,
            extensions=_extensions(),
            diversions=diversions,
            world=_with_texts(surroundings, greetings, "en"),
            greeting_takes=sound_services.takes(greetings, "en"),
        )


def _handling(
    agents: dict[str, agent_services.AgentFacts],
) -> tuple[HandlingRule, dict[str, HandlingRule], dict[str, DeskRule]]:
    """The centre's rules, those of every agent, and those of their desks."""
    centre, teams, own = agent_services.all_layers()
    handling_of, desks = {}, {}
    for agent in agents.values():
        counted = resolve({"centre": centre, "team": teams.get(agent.team_id, {}),
                           "agent": own.get(agent.id, {})})  # fmt: skip
        handling_of[agent.id] = handling(counted)
        desks[agent.id] = desk(counted)
    return handling(resolve({"centre": centre})), handling_of, desks


def _unsound(in_force: Iterable[VersionFacts], around: World) -> list[Unsound]:
    """The versions that could not be published today: what they refer to has changed."""
    callings = number_services.callings()
    found = []
    for version in in_force:
        called = callings.get(version.flow, number_services.Callings())
        world = around._replace(
            own=f"flow:{version.flow}",
            handed=called.handed,
            called=called.channels,
            language=version.definition.language,
            channel=version.definition.channel,
        )
        wrong = blocking(check(version.definition, world))
        if wrong:
            words = f"version {version.number} in force is not sound any more: {wrong[0].message}"
            page = kind_named("flow").page
            found.append(Unsound(version.flow, page, version.flow_name, words))
    return found


def _told_of(row: Unreadable) -> Unsound:
    return Unsound(row.id, kind_named(row.kind).page, row.name, row.message)


def _scripts(
    in_force: Iterable[VersionFacts], surroundings: World, left_out: list[Unreadable]
) -> dict[str, Script]:
    """The versions in force, ready to run. One that cannot be made ready answers nobody."""
    scripts = {}
    for version in in_force:
        try:
            scripts[version.flow] = _script_of(version, surroundings)
        except (OperationalError, InterfaceError):
            raise
        except Exception:
            log.exception("version %s of flow %s cannot run", version.number, version.flow)
            message = f"version {version.number} in force cannot run, and answers nobody."
            left_out.append(Unreadable("flow", version.flow, version.flow_name, message))
    return scripts


def _extensions() -> dict[str, str]:
    """Whose each extension is, as a reference; a number's leads to its flow."""
    flows = {n.address: n.flow for n in number_services.numbers().values()}
    return {
        held.extension: f"flow:{flows[held.extension]}"
        if held.kind == "number"
        else f"{held.kind}:{held.id}"
        for held in numbering.plan()
    }


def _surroundings() -> World:
    return surroundings(flow_services.facts())


def _with_texts(world: World, prompts: list[AnyPrompt], language: str) -> World:
    texts = [(p.language, p.text) for p in prompts if isinstance(p, SpokenText)]
    return world._replace(spoken_ms=sound_services.spoken_ms(texts), language=language)


def _script_of(version: VersionFacts, surroundings: World) -> Script:
    return script(
        version.definition, version.flow, version.flow_name, version.number, version.id,
        surroundings,
    )  # fmt: skip


def script(
    definition: Flow,
    flow_id: str,
    flow_name: str,
    number: int,
    version_id: int | None,
    surroundings: World,
    blocks: dict[str, int] | None = None,
) -> Script:
    """Any definition, ready to run, with the takes that exist.

    Args:
        blocks: versions of shared blocks that count instead of those in force.
    """
    written, used = definition, {}

    def library(reference: str, fixed: int | None) -> Flow | None:
        wanted = fixed or (blocks or {}).get(reference) or flow_services.number_in_force(reference)
        if fixed is None and wanted is not None:
            used[reference] = wanted
        return flow_services.numbered(reference, wanted) if wanted is not None else None

    definition = laid_out(definition, library)
    prompts = [*_all_said(definition, flow_id), *mailbox_services.greetings()]
    takes = sound_services.takes(prompts, definition.language)
    world = _with_texts(surroundings, prompts, definition.language)
    world = world._replace(channel=definition.channel)
    world = world._replace(national={n: national(n) for n in outside_numbers(definition)})
    machine = Machine(definition, world.length_ms)
    return Script(flow_id, flow_name, number, version_id, machine, world, takes, written, used)


def _all_said(definition: Flow, flow_id: str) -> list[AnyPrompt]:
    """Every prompt, those with values as each number of the flow fills them in."""
    prompts = list(all_prompts(definition))
    with_values = [p for p in prompts if values_in(p)]
    if with_values:
        for given in number_services.calling(flow_id).values or ({},):
            values = filled(definition.inputs, given)
            prompts += [heard for p in with_values if (heard := said(p, values)) is not None]
    return prompts


def script_of_version(version_id: int, blocks: dict[str, int]) -> Script:
    """A version that a contact began on, in force or not, with the blocks of that time."""
    version = flow_services.version(version_id)
    return script(
        version.definition, version.flow, version.flow_name, version.number, version.id,
        _surroundings(), blocks,
    )  # fmt: skip


def script_of_draft(flow_id: str, definition: Flow | None = None) -> Script:
    """A flow's draft (or the definition a trial call began on), its texts spoken first."""
    name, draft = flow_services.draft(flow_id)
    definition = definition or draft
    flow_services.speak_prompts(definition)
    return script(definition, flow_id, name, 0, None, _surroundings())


def _one_snapshot() -> None:
    with connection.cursor() as cursor:
        cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")
