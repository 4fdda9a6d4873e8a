"""The configuration as the exchange runs it: one consistent reading, with its revision."""

from __future__ import annotations

import logging
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from typing import Any, NamedTuple

from django.conf import settings
from django.db import InterfaceError, OperationalError, connection, transaction

from agents import groups as ring_groups
from agents import services as agent_services
from callcore.centre.facts import AgentFacts
from callcore.centre.setup import Invalid, RunnableFlow, Setup
from callcore.flow.blocks import laid_out
from callcore.flow.catalogue import Catalogue
from callcore.flow.definition import AnyPrompt, Flow, SpokenText, all_prompts, outside_numbers
from callcore.flow.inputs import filled, said
from callcore.flow.parts import values_in
from callcore.flow.runner import Machine
from callcore.handling.rules import DeskRule, desk, handling, resolve
from callcore.routing.events import HandlingRule
from changelog.config_store import Newest, newest_of, revision_in_database
from changelog.kinds import kind_named
from changelog.reading import Unreadable
from diversions import services as diversion_services
from exchange.live.parts import Part
from flows import services as flow_services
from flows import soundness
from flows.catalogue import catalogue_of
from flows.services import VersionFacts
from mailboxes import services as mailbox_services
from opening_hours import services as hours_services
from phone_numbers import numbering
from phone_numbers import services as number_services
from phone_numbers.plan import national
from queues import services as queue_services
from sounds import services as sound_services
from wrapup import services as wrapup_services

log = logging.getLogger(__name__)


def read(*, promoting: bool = True) -> Setup:
    """The configuration in force, read in one snapshot.

    Args:
        promoting: put in force what is due by now; whoever only looks leaves that to the exchange.
    """
    next_due = flow_services.promote_due() if promoting else None
    outermost = not connection.in_atomic_block
    with transaction.atomic():
        if outermost:
            _one_snapshot()
        left_out: list[Unreadable] = []
        newest = newest_of(*_KINDS)
        _forget_what_changed(newest)
        mailboxes = {m.id: m for m in mailbox_services.settings(left_out)}
        greetings = [m.greeting for m in mailboxes.values() if m.greeting is not None]
        catalogue = _CATALOGUE.at(newest, left_out)
        people = _PEOPLE.at(newest, left_out)
        queues = _QUEUES.at(newest, left_out)
        numbers = _NUMBERS.at(newest, left_out)
        groups = _GROUPS.at(newest, left_out)
        flows = _flows(_VERSIONS.at(newest, left_out), catalogue, left_out)
        hours = hours_services.plans(left_out)
        diversions = diversion_services.rules(left_out)
        return Setup(
            revision=revision_in_database(),
            next_due_ms=round(next_due.timestamp() * 1000) if next_due else None,
            time_zone=settings.CENTRE_TIME_ZONE,
            region=settings.CENTRE_REGION,
            numbers={n.address: n for n in numbers.values()},
            hours=hours,
            flows=flows,
            invalid=tuple(map(_told_of, left_out)),
            invalid_in_force=invalid_in_force(),
            queues={q.id: q for q in queues if q.finished},
            agents=people.agents,
            codes=wrapup_services.codes_by_set(),
            handling=people.handling,
            handling_of=people.handling_of,
            desks=people.desks,
            away_reasons=people.away_reasons,
            groups={g.id: g for g in groups},
            music=sound_services.hold_music(),
            notices=tuple(agent_services.notices()),
            alerts=queue_services.alert_rules(),
            mailboxes=mailboxes,
            extensions=_EXTENSIONS.at(newest, left_out),
            diversions=tuple(diversions),
            catalogue=_with_texts(catalogue, greetings, "en"),
            greeting_takes=sound_services.takes(greetings, "en"),
        )


class People(NamedTuple):
    """Every agent, with the rules that count for them."""

    agents: dict[str, AgentFacts]
    handling: HandlingRule
    handling_of: dict[str, HandlingRule]
    desks: dict[str, DeskRule]
    away_reasons: tuple[str, ...]


def _people() -> People:
    agents = agent_services.agents()
    centre, teams, own = agent_services.all_layers()
    handling_of, desks = {}, {}
    for agent in agents.values():
        counted = resolve(
            {"centre": centre, "team": teams.get(agent.team_id, {}), "agent": own.get(agent.id, {})}
        )
        handling_of[agent.id] = handling(counted)
        desks[agent.id] = desk(counted)
    away_reasons = tuple(agent_services.rules().away_reasons)
    return People(agents, handling(resolve({"centre": centre})), handling_of, desks, away_reasons)


def invalid_in_force() -> tuple[Invalid, ...]:
    """The versions in force that could not be published any more, as the worker found them."""
    page = kind_named("flow").page
    return tuple(Invalid(f.flow, page, f.name, f.message) for f in soundness.kept())


def _told_of(row: Unreadable) -> Invalid:
    return Invalid(row.id, kind_named(row.kind).page, row.name, row.message)


class Version(NamedTuple):
    """A version in force with its blocks laid in, and the versions of those."""

    facts: VersionFacts
    laid: Flow
    blocks: dict[str, int]


def _versions(left_out: list[Unreadable]) -> list[Version]:
    found = []
    for facts in flow_services.versions_in_force(left_out):
        with _kept_apart(facts, left_out):
            found.append(Version(facts, *_laid(facts.definition, {})))
    return found


def _flows(
    versions: Iterable[Version], catalogue: Catalogue, left_out: list[Unreadable]
) -> dict[str, RunnableFlow]:
    """The versions in force, ready to run. One that cannot be made ready answers nobody."""
    flows = {}
    for version in versions:
        with _kept_apart(version.facts, left_out):
            flows[version.facts.flow] = _ready(version, catalogue)
    return flows


@contextmanager
def _kept_apart(version: VersionFacts, left_out: list[Unreadable]) -> Iterator[None]:
    """Let what is wrong with one version stay with it."""
    try:
        yield
    except (OperationalError, InterfaceError):
        raise
    except Exception:
        log.exception("version %s of flow %s cannot run", version.number, version.flow)
        message = f"version {version.number} in force cannot run, and answers nobody."
        left_out.append(Unreadable("flow", version.flow, version.flow_name, message))


def _extensions() -> dict[str, str]:
    """Whose each extension is, as a reference; a number's leads to its flow."""
    flows = {n.address: n.flow for n in number_services.numbers().values()}
    return {
        held.extension: f"flow:{flows[held.extension]}" if held.kind == "number" else f"{held.kind}:{held.id}"
        for held in numbering.plan()
    }


def _whole_catalogue() -> Catalogue:
    return catalogue_of(flow_services.facts())


def _with_texts(catalogue: Catalogue, prompts: list[AnyPrompt], language: str) -> Catalogue:
    texts = [(p.language, p.text) for p in prompts if isinstance(p, SpokenText)]
    return catalogue._replace(spoken_ms=sound_services.spoken_ms(texts), language=language)


def _ready(version: Version, around: Catalogue) -> RunnableFlow:
    facts, laid, used = version
    made = _made(laid, facts.flow, facts.id, used, around)
    catalogue = around._replace(
        spoken_ms=made.spoken_ms,
        language=laid.language,
        channel=laid.channel,
        national={n: national(n) for n in outside_numbers(laid)},
    )
    return RunnableFlow(
        facts.flow,
        facts.flow_name,
        facts.number,
        facts.id,
        made.machine,
        catalogue,
        made.takes,
        facts.definition,
        used,
    )


def _laid(definition: Flow, blocks: Mapping[str, int]) -> tuple[Flow, dict[str, int]]:
    """A definition with its shared blocks laid in, and the versions of those.

    Args:
        blocks: versions that count instead of those in force.
    """
    used: dict[str, int] = {}

    def library(reference: str, fixed: int | None) -> Flow | None:
        wanted = fixed or blocks.get(reference) or flow_services.number_in_force(reference)
        if fixed is None and wanted is not None:
            used[reference] = wanted
        return flow_services.numbered(reference, wanted) if wanted is not None else None

    return laid_out(definition, library), used


def runnable(definition: Flow, flow_id: str, flow_name: str, catalogue: Catalogue) -> RunnableFlow:
    """A definition that is no version, ready to run, with the takes that exist."""
    _forget_what_changed(newest_of(*_MADE_OF))
    facts = VersionFacts(None, flow_id, flow_name, 0, definition)
    return _ready(Version(facts, *_laid(definition, {})), catalogue)


class Made(NamedTuple):
    """What a version needs to run; it changes with sounds, numbers' values and greetings only."""

    machine: Machine
    takes: dict[AnyPrompt, int]
    spoken_ms: Mapping[tuple[str, str], int]


#: What was made ready, by version and its blocks, as long as nothing that it is made of changes.
_kept: dict[tuple[int, tuple[tuple[str, int], ...]], Made] = {}
_kept_since: tuple[Newest, ...] = ()
_MOST_KEPT = 2_000


#: Of what kinds of things it is made.
_MADE_OF = ("sound", "number", "mailbox")


def _forget_what_changed(newest: Mapping[str, Newest]) -> None:
    global _kept_since
    since = tuple(newest[kind] for kind in _MADE_OF)
    if since != _kept_since or len(_kept) > _MOST_KEPT:
        _kept.clear()
        _kept_since = since


def _made(
    definition: Flow, flow_id: str, version_id: int | None, blocks: dict[str, int], around: Catalogue
) -> Made:
    """A definition with its blocks laid in, made ready; a known version is not made again."""
    key = (version_id or 0, tuple(sorted(blocks.items())))
    if version_id is not None and key in _kept:
        return _kept[key]
    prompts = [*_all_said(definition, flow_id), *mailbox_services.greetings()]
    takes = sound_services.takes(prompts, definition.language)
    catalogue = _with_texts(around, prompts, definition.language)
    made = Made(Machine(definition, catalogue.length_ms), takes, catalogue.spoken_ms)
    if version_id is not None:
        _kept[key] = made
    return made


def _all_said(definition: Flow, flow_id: str) -> list[AnyPrompt]:
    """Every prompt, those with values as each number of the flow fills them in."""
    prompts = list(all_prompts(definition))
    with_values = [p for p in prompts if values_in(p)]
    if with_values:
        for given in number_services.calling(flow_id).values or ({},):
            values = filled(definition.inputs, given)
            prompts += [heard for p in with_values if (heard := said(p, values)) is not None]
    return prompts


def flow_of_version(version_id: int, blocks: dict[str, int]) -> RunnableFlow:
    """A version that a contact began on, in force or not, with the blocks of that time."""
    _forget_what_changed(newest_of(*_MADE_OF))
    facts = flow_services.version(version_id)
    return _ready(Version(facts, *_laid(facts.definition, blocks)), _whole_catalogue())


def flow_of_draft(flow_id: str, definition: Flow | None = None) -> RunnableFlow:
    """A flow's draft (or the definition a trial call began on), its texts spoken first."""
    name, draft = flow_services.draft(flow_id)
    definition = definition or draft
    flow_services.speak_prompts(definition)
    return runnable(definition, flow_id, name, _whole_catalogue())


# What is long to read, and of which kinds of things. The rest is read each time: it is short, goes
# by the clock, or counts what no change records.
_PEOPLE = Part(lambda _: _people(), "agent", "team", "skill", "handling_rules")
_QUEUES = Part(queue_services.settings, "queue", "agent", "team", "number")
_NUMBERS = Part(number_services.numbers, "number")
_GROUPS = Part(ring_groups.settings, "group", "agent", "team")
_VERSIONS = Part(_versions, "flow")
_EXTENSIONS = Part(lambda _: _extensions(), "agent", "queue", "mailbox", "group", "number", "flow")
_CATALOGUE = Part(
    lambda _: _whole_catalogue(),
    "queue",
    "sound",
    "hours",
    "mailbox",
    "flow",
    "table",
    "agent",
    "team",
    "group",
    "flow_rules",
    "skill",
    "number",
    "code",
    "code_set",
)
_PARTS: tuple[Part[Any], ...] = (_PEOPLE, _QUEUES, _NUMBERS, _GROUPS, _VERSIONS, _EXTENSIONS, _CATALOGUE)
_KINDS = sorted({*_MADE_OF, *(kind for part in _PARTS for kind in part.kinds)})


def _one_snapshot() -> None:
    with connection.cursor() as cursor:
        cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")
