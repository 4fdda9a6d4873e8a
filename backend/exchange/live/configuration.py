"""The configuration as the exchange runs it: one consistent reading, with its revision."""

from __future__ import annotations

from dataclasses import dataclass, field

from django.conf import settings
from django.db import connection, transaction

from agents import services as agent_services
from callcore.flow.definition import Flow, LibrarySound, SpokenText, all_prompts
from callcore.flow.runner import Machine
from callcore.flow.world import World
from callcore.hours.plan import Hours
from callcore.measures.fold import Limits
from callcore.routing.events import HandlingRule, QueueRule
from changelog.kept import revision_in_database
from flows import services as flow_services
from flows.services import VersionFacts
from hours_app import services as hours_services
from numbers_app import services as number_services
from numbers_app.services import NumberFacts
from queues import services as queue_services
from queues.services import QueueSettings
from sounds import services as sound_services
from wrapup import services as wrapup_services
from wrapup.services import CodeFacts

AnyPrompt = SpokenText | LibrarySound


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


@dataclass(slots=True)
class Configuration:
    """Everything that an administrator set up, at one revision."""

    revision: int = 0
    time_zone: str = "UTC"
    numbers: dict[str, NumberFacts] = field(default_factory=dict)
    hours: dict[str, Hours] = field(default_factory=dict)
    scripts: dict[str, Script] = field(default_factory=dict)
    queues: dict[str, QueueSettings] = field(default_factory=dict)
    agents: dict[str, agent_services.AgentFacts] = field(default_factory=dict)
    codes: dict[str, list[CodeFacts]] = field(default_factory=dict)
    handling: HandlingRule = field(default_factory=HandlingRule)
    away_reasons: list[str] = field(default_factory=list)

    def open_at(self, reference: str, now_ms: int) -> tuple[bool, str] | None:
        """Open or closed at a moment, and why; None where there are no such hours."""
        hours = self.hours.get(reference)
        return hours_services.ask(hours, now_ms) if hours is not None else None

    def queue_rules(self) -> list[QueueRule]:
        """The queues as the router takes them."""
        return [
            QueueRule(
                q.id, q.priority, None if q.longest_wait_s is None else q.longest_wait_s * 1000
            )
            for q in self.queues.values()
        ]

    def members(self) -> dict[str, tuple[str, ...]]:
        """The members of each queue."""
        return {q.id: q.members for q in self.queues.values()}

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
    """The configuration in force, read in one snapshot."""
    outermost = not connection.in_atomic_block
    with transaction.atomic():
        if outermost:
            _one_snapshot()
        rules = agent_services.rules()
        return Configuration(
            revision=revision_in_database(),
            time_zone=settings.CENTRE_TIME_ZONE,
            numbers={n.e164: n for n in number_services.numbers().values()},
            hours=hours_services.plans(),
            scripts={v.flow: script_of(v) for v in flow_services.versions_in_force()},
            queues={q.id: q for q in queue_services.settings() if q.finished},
            agents=agent_services.agents(),
            codes=wrapup_services.codes_by_set(),
            handling=HandlingRule(rules.ring_s * 1000, rules.wrap_up, rules.longest_wrap_s * 1000),
            away_reasons=list(rules.away_reasons),
        )


def script_of(version: VersionFacts) -> Script:
    """A published version, ready to run."""
    return script(version.definition, version.flow, version.flow_name, version.number, version.id)


def script(
    definition: Flow, flow_id: str, flow_name: str, number: int, version_id: int | None
) -> Script:
    """Any definition, ready to run, with the takes that exist."""
    prompts = all_prompts(definition)
    takes = sound_services.takes(prompts)
    texts = [(p.language, p.text) for p in prompts if isinstance(p, SpokenText)]
    world = World(
        queues=queue_services.facts(),
        sounds=sound_services.facts(),
        hours=hours_services.facts(),
        spoken_ms=sound_services.spoken_ms(texts),
    )
    machine = Machine(definition, world.length_ms)
    return Script(flow_id, flow_name, number, version_id, machine, world, takes)


def script_of_version(version_id: int) -> Script:
    """A version that a contact began on, in force or not."""
    return script_of(flow_services.version(version_id))


def script_of_draft(flow_id: str, definition: Flow | None = None) -> Script:
    """A flow's draft (or the definition a trial call began on), its texts spoken first."""
    name, draft = flow_services.draft(flow_id)
    definition = definition or draft
    flow_services.speak_prompts(definition)
    return script(definition, flow_id, name, 0, None)


def _one_snapshot() -> None:
    with connection.cursor() as cursor:
        cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")
