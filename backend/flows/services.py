"""Flows: drafted, published, and asked for by other apps."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import datetime, timedelta
from typing import Any, Literal, NamedTuple

from django.db import transaction
from django.db.models import BooleanField, Case, F, Value, When

from callcore.errors import DefinitionError, Problem
from callcore.flow.blocks import laid_out
from callcore.flow.catalogue import Catalogue, FlowFacts
from callcore.flow.checks import blocking, check
from callcore.flow.definition import Flow as Definition
from callcore.flow.definition import (
    Input,
    LibrarySound,
    Music,
    Say,
    SpokenText,
    all_prompts,
    dump,
    load,
    references,
)
from callcore.flow.extract import NEW_BLOCK, extract
from callcore.flow.first_hours import FirstHours, first_hours
from callcore.flow.flow_file import with_references
from callcore.flow.parts import values_in
from callcore.flow.runner import Machine
from changelog import config_store
from changelog.reading import Unreadable, readable
from flows import trials
from flows.inspect import catalogue_around
from flows.models import Flow, Version
from phone_numbers.answering import FlowChoice
from sounds import services as sound_services
from sounds.tasks import speak_ahead
from web.clock import site_now
from web.errors import Refused, Use

#: Draft saves of one author within this time are one entry of the change log.
MERGE_SAVES = timedelta(minutes=5)
#: Of a flow's row: whether its draft is what its version in force is.
DRAFT_IS_IN_FORCE = Case(
    When(draft=F("in_force__definition"), then=Value(True)), default=Value(False), output_field=BooleanField()
)


class VersionFacts(NamedTuple):
    """A published version as the exchange runs it; or what is no version, with no id."""

    id: int | None
    flow: str
    flow_name: str
    number: int
    definition: Definition


class NotPublishable(Refused):
    """Findings block publishing."""

    def __init__(self, findings: list[Any]) -> None:
        count = len(findings)
        what = "One finding blocks" if count == 1 else f"{count} findings block"
        super().__init__("findings-block", f"{what} publishing: {findings[0].message}")


class TrialsFail(Refused):
    """Saved trials do not go as expected."""

    def __init__(self, failed: list[trials.Outcome]) -> None:
        names = ", ".join(f"“{t.name}”" for t in failed[:3])
        what = "A saved trial fails" if len(failed) == 1 else f"{len(failed)} saved trials fail"
        message = f"{what}: {names}. Mend the flow, or say why it is published all the same."
        super().__init__("trials-fail", message)


def make_flow(
    user: Any,
    name: str,
    definition: Definition | None = None,
    purpose: Literal["flow", "block", "plan"] = "flow",
    description: str = "",
) -> Flow:
    """A new flow; without a definition it has one stop to begin with."""
    if definition is None:
        first = Music(id="music") if purpose == "plan" else Say(id="greeting")
        definition = Definition(start=first.id, steps=(first,), purpose=purpose)
    return config_store.create(
        user, Flow, name=name, draft=dump(definition), refers_to=_refs(definition), description=description
    )


def save_draft(user: Any, flow: Flow, revision: int | None, data: Any) -> Flow:
    """Keep a draft, finished or not.

    Raises:
        DefinitionError: it is no definition, or not of what this flow is for.
        Stale: somebody else saved in the meantime.
    """
    definition = load(data)
    if definition.purpose != flow.draft.get("purpose", "flow"):
        words = "A flow, a shared block or a waiting plan stays what it is: make a new one."
        raise DefinitionError([Problem(("purpose",), words)])
    saved = config_store.change(
        user, flow, revision, merge_within=MERGE_SAVES, draft=dump(definition), refers_to=_refs(definition)
    )
    transaction.on_commit(lambda: _speak_ahead(definition))
    return saved


def publish(
    user: Any, flow: Flow, revision: int, note: str, at: datetime | None = None, override: str = ""
) -> Version:
    """Put the draft in force as the next version, now or at a moment ahead.

    Every text is spoken first, so that no caller waits for the engine.

    Args:
        override: why trials that fail are let be; without it they block.

    Raises:
        NotPublishable: findings block it.
        Refused: `trials-fail`, or the moment is not ahead.
        Stale: the draft is not the one that the author saw.
    """
    if at is not None and at <= site_now():
        message = "The moment must be ahead."
        raise Refused("not-valid", message, status=400, fields={"at": [message]})
    with transaction.atomic():
        current = Flow.objects.select_for_update(of=("self",)).get(pk=flow.pk)
        if current.revision != revision:
            raise config_store.stale(current)
        definition = load(current.draft)
        catalogue = catalogue_around(definition, str(flow.pk), facts(), library)
        blocked = blocking(check(definition, catalogue))
        if blocked:
            raise NotPublishable(blocked)
        failed = [t for t in trials.run_all(current, stage(definition, catalogue)) if not t.passed]
        if failed and not override.strip():
            raise TrialsFail(failed)
        _speak_all(definition)
        newest = current.versions.order_by("-number").first()
        version = Version.objects.create(
            flow=current,
            number=newest.number + 1 if newest else 1,
            definition=dump(definition),
            refers_to=_refs(definition),
            note=note,
            overridden=override.strip() if failed else "",
            author=user if getattr(user, "pk", None) else None,
            author_name=getattr(user, "full_name", "") or "Hazeridge",
        )
        if at is None:
            config_store.change(user, current, None, in_force=version, scheduled=None, scheduled_at=None)
        else:
            config_store.change(user, current, None, scheduled=version, scheduled_at=at)
    return version


def extract_block(
    user: Any, definition: Definition, chosen: list[str], name: str, catalogue: Catalogue
) -> tuple[Flow, Definition, str]:
    """Make a shared block of some stops: the block, the flow that uses it, and the new stop.

    Raises:
        DefinitionError: the stops are no block, in words.
    """
    made = extract(definition, chosen, catalogue)
    block = make_flow(user, name, made.block)
    used = with_references(made.flow, {NEW_BLOCK: f"flow:{block.pk}"})
    return block, used, made.made


def unschedule(user: Any, flow: Flow, revision: int) -> Flow:
    """Let the version that was to come into force be; it stays among the versions."""
    return config_store.change(user, flow, revision, scheduled=None, scheduled_at=None)


def bring_back(user: Any, flow: Flow, revision: int, number: int) -> Flow:
    """Make an older version the draft.

    Raises:
        Refused: there is no such version.
        Stale: somebody else saved the draft in the meantime.
    """
    found = flow.versions.filter(number=number).first()
    if found is None:
        raise Refused("no-such-version", f"There is no version {number}.", status=404)
    return save_draft(user, flow, revision, found.definition)


def promote_due() -> datetime | None:
    """Put in force what was scheduled for by now; gives when the next one is due."""
    now = site_now()
    for flow in Flow.objects.filter(scheduled__isnull=False, scheduled_at__lte=now):
        config_store.change(None, flow, None, in_force=flow.scheduled, scheduled=None, scheduled_at=None)
    coming = Flow.objects.filter(scheduled__isnull=False).order_by("scheduled_at")
    return coming.values_list("scheduled_at", flat=True).first()


def library(reference: str, number: int | None) -> Definition | None:
    """A shared block in a version, or as it is in force."""
    wanted = number or number_in_force(reference)
    return numbered(reference, wanted) if wanted is not None else None


def stage(definition: Definition, catalogue: Catalogue) -> trials.Stage:
    """What trials of a definition need."""
    return trials.stage_of(definition, catalogue, library)


def versions_in_force(left_out: list[Unreadable] | None = None) -> list[VersionFacts]:
    """The version in force of every flow that has one; those that cannot be read are named."""
    rows = Flow.objects.filter(in_force__isnull=False).select_related("in_force")
    return readable(rows, lambda flow: _facts(flow.in_force, flow), left_out)


def version(version_id: int) -> VersionFacts:
    """One published version, for contacts that began on it."""
    found = Version.objects.select_related("flow").get(pk=version_id)
    return _facts(found, found.flow)


def definition_of_version(version_id: int) -> dict[str, Any] | None:
    """A published definition as plain data; None where its flow is gone."""
    return Version.objects.filter(pk=version_id).values_list("definition", flat=True).first()


def draft(flow_id: str) -> tuple[str, Definition]:
    """A flow's name and draft, for a trial call."""
    flow = Flow.objects.get(pk=flow_id)
    return flow.name, load(flow.draft)


def machine_of(flow_id: str) -> tuple[Machine | None, Catalogue]:
    """A flow ready to run by itself, in force or else its draft, and what its words need."""
    flow = Flow.objects.filter(pk=flow_id).select_related("in_force").first() if flow_id else None
    if flow is None:
        return None, Catalogue()
    written = load(flow.in_force.definition if flow.in_force else flow.draft)
    definition = laid_out(written, library)
    catalogue = Catalogue(
        sounds=sound_services.facts(),
        spoken_ms=sound_services.spoken_ms(_texts(definition)),
        language=definition.language,
    )
    return Machine(definition, catalogue.length_ms), catalogue


def flow_names(identities: Iterable[str]) -> dict[str, str]:
    """The names of flows, by id."""
    found = Flow.objects.filter(pk__in=list(identities)).order_by()
    return {str(pk): name for pk, name in found.values_list("pk", "name")}


def in_force_names() -> dict[str, str]:
    """The names of the flows that callers may be in, by id; blocks and waiting plans are none."""
    found = Flow.objects.filter(in_force__isnull=False).exclude(
        in_force__definition__purpose__in=("block", "plan")
    )
    return {str(pk): name for pk, name in found.values_list("pk", "name")}


def inputs_of(flow: Flow) -> tuple[Input, ...]:
    """The inputs that a number may fill: those in force, and those that the draft adds."""
    drafted = load(flow.draft).inputs
    standing = load(flow.in_force.definition).inputs if flow.in_force else ()
    names = {declared.name for declared in standing}
    return (*standing, *[declared for declared in drafted if declared.name not in names])


def flow_choices(identities: Iterable[str]) -> dict[str, FlowChoice]:
    """Those of the flows that exist, by id, as a number sees them."""
    found = Flow.objects.filter(pk__in=identities).select_related("in_force")
    return {
        str(f.pk): FlowChoice(
            f.name, f.draft.get("channel", "voice"), inputs_of(f), f.draft.get("purpose", "flow")
        )
        for f in found
    }


def facts() -> dict[str, FlowFacts]:
    """Every flow as other flows see it, by reference."""
    rows = Flow.objects.values_list(
        "pk",
        "name",
        "draft__channel",
        "in_force__refers_to",
        "in_force__definition__inputs",
        "in_force__definition__outputs",
        "draft__purpose",
    )
    return {
        f"flow:{pk}": FlowFacts(
            name,
            refers_to is not None,
            channel or "voice",
            tuple(ref for ref in refers_to or () if ref.startswith("flow:")),
            tuple(Input.model_validate(row) for row in inputs or ()),
            tuple(outputs or ()),
            purpose or "flow",
        )
        for pk, name, channel, refers_to, inputs, outputs, purpose in rows
    }


#: By the version in force of a flow and those of all blocks: published definitions never change.
_first_hours: dict[tuple[int, tuple[int, ...]], FirstHours | None] = {}
_MOST_KNOWN = 10_000


def first_hours_of(callers: Mapping[str, tuple[str, Mapping[str, Any]]]) -> dict[str, str]:
    """The hours (`hours:…`) that callers meet first, by whatever `callers` are known by: the flow
    whose version in force they come to, and the values that they bring."""
    published = Flow.objects.filter(in_force__isnull=False).order_by("pk")
    of_blocks = published.filter(draft__purpose="block").values_list("in_force", flat=True)
    blocks = tuple(of_blocks)
    flows = published.filter(pk__in={flow for flow, _ in callers.values() if flow})
    versions = flows.values_list("pk", "in_force")
    in_force = {str(flow): (version, blocks) for flow, version in versions}
    _learn_first_hours(in_force)
    first = {flow: _first_hours.get(key) for flow, key in in_force.items()}
    found = {
        name: hours.met(values)
        for name, (flow, values) in callers.items()
        if (hours := first.get(flow)) is not None
    }
    return {name: hours for name, hours in found.items() if hours}


def _learn_first_hours(in_force: Mapping[str, tuple[int, tuple[int, ...]]]) -> None:
    """Read what is not known yet; a definition that cannot be read has none."""
    missing = [flow for flow, key in in_force.items() if key not in _first_hours]
    if len(_first_hours) + len(missing) > _MOST_KNOWN:
        _first_hours.clear()
        missing = [*in_force]
    rows = Flow.objects.filter(pk__in=missing).select_related("in_force")

    def read(flow: Flow) -> tuple[str, FirstHours | None]:
        return str(flow.pk), first_hours(load(flow.in_force.definition), library)

    found = dict(readable(rows, read, None))
    _first_hours.update({in_force[flow]: found.get(flow) for flow in missing})


def number_in_force(reference: str) -> int | None:
    """The number of the version in force of a flow (a `flow:` reference)."""
    flow = Flow.objects.filter(pk=reference.partition(":")[2]).select_related("in_force").first()
    return flow.in_force.number if flow and flow.in_force else None


def numbered(reference: str, number: int) -> Definition | None:
    """A published version of a flow (a `flow:` reference) by its number."""
    identity = reference.partition(":")[2]
    found = Version.objects.filter(flow=identity, number=number).first()
    return load(found.definition) if found else None


def speak_prompts(definition: Definition) -> None:
    """Speak every text of a definition that was not spoken yet, now."""
    _speak_all(definition)


def search(text: str) -> list[Use]:
    """Flows whose name holds a text."""
    found = Flow.objects.filter(name__icontains=text)[:5]
    return [Use("flow", str(f.pk), f.name, "flow") for f in found]


def _facts(found: Version, flow: Flow) -> VersionFacts:
    return VersionFacts(found.pk, str(flow.pk), flow.name, found.number, load(found.definition))


def _refs(definition: Definition) -> list[str]:
    return sorted(references(definition))


def _texts(definition: Definition) -> list[tuple[str, str]]:
    """What can be spoken beforehand: texts as they stand, without those that hold values."""
    spoken = [p for p in all_prompts(definition) if isinstance(p, SpokenText)]
    return sorted({(p.language, p.text) for p in spoken if p.text and not values_in(p)})


def _speak_all(definition: Definition) -> None:
    for language, text in _texts(definition):
        sound_services.speak(language, text)
    library = [
        prompt
        for prompt in all_prompts(definition)
        if isinstance(prompt, LibrarySound) and not values_in(prompt)
    ]
    recorded = sound_services.takes(library, definition.language)
    if any(prompt not in recorded for prompt in library):
        raise Refused("sound-missing", "A sound of this flow has no recording yet.")


def _speak_ahead(definition: Definition) -> None:
    """Let the worker speak new texts, so that lengths and trial calls are ready."""
    texts = _texts(definition)
    known = sound_services.spoken_ms(texts)
    unspoken = [pair for pair in texts if pair not in known]
    if unspoken:
        speak_ahead.delay(unspoken)


def flows_with(kind: str, identity: str) -> list[Use]:
    """The flows whose draft or version in force refers to a thing; of a flow, the others."""
    reference = f"{kind}:{identity}"
    flows = Flow.objects.exclude(pk=identity)
    found = flows.filter(refers_to__contains=[reference])
    uses = {str(f.pk): Use("flow", str(f.pk), f.name, "flow, draft") for f in found}
    for flow in flows.filter(in_force__refers_to__contains=[reference]):
        uses[str(flow.pk)] = Use("flow", str(flow.pk), flow.name, "flow in force")
    return list(uses.values())


def version_names(numbers: list[int]) -> dict[int, str]:
    """What versions are called."""
    rows = Version.objects.filter(pk__in=numbers).values_list("pk", "number")
    return {pk: f"version {number}" for pk, number in rows}
