"""Flows: drafted, published, and asked for by other apps."""

from __future__ import annotations

from datetime import timedelta
from typing import Any, NamedTuple

from django.db import transaction

from callcore.flow.checks import blocking, check
from callcore.flow.definition import (
    Flow as Definition,
)
from callcore.flow.definition import (
    LibrarySound,
    Say,
    SpokenText,
    all_prompts,
    dump,
    load,
    references,
)
from changelog import kept
from changelog.errors import Refused, Use
from flows.inspect import world_of
from flows.models import Flow, Version
from sounds import services as sound_services
from sounds.tasks import speak_ahead

#: Draft saves of one author within this time are one entry of the change log.
MERGE_SAVES = timedelta(minutes=5)


class VersionFacts(NamedTuple):
    """A published version as the exchange runs it."""

    id: int
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


def make_flow(user: Any, name: str, definition: Definition | None = None) -> Flow:
    """A new flow; without a definition it has one stop to begin with."""
    definition = definition or Definition(start="greeting", steps=(Say(id="greeting"),))
    return kept.create(user, Flow, name=name, draft=dump(definition), refers_to=_refs(definition))


def save_draft(user: Any, flow: Flow, revision: int | None, data: Any) -> Flow:
    """Keep a draft, finished or not.

    Raises:
        DefinitionError: it is no definition.
        Stale: somebody else saved in the meantime.
    """
    definition = load(data)
    saved = kept.change(
        user,
        flow,
        revision,
        merge_within=MERGE_SAVES,
        draft=dump(definition),
        refers_to=_refs(definition),
    )
    transaction.on_commit(lambda: _speak_ahead(definition))
    return saved


def publish(user: Any, flow: Flow, revision: int, note: str) -> Version:
    """Put the draft in force as the next version.

    Every text is spoken first, so that no caller waits for the engine.

    Raises:
        NotPublishable: findings block it.
        Stale: the draft is not the one that the author saw.
    """
    with transaction.atomic():
        current = Flow.objects.select_for_update(of=("self",)).get(pk=flow.pk)
        if current.revision != revision:
            raise kept.stale(current)
        definition = load(current.draft)
        blocked = blocking(check(definition, world_of(definition)))
        if blocked:
            raise NotPublishable(blocked)
        _speak_all(definition)
        newest = current.versions.order_by("-number").first()
        version = Version.objects.create(
            flow=current,
            number=newest.number + 1 if newest else 1,
            definition=dump(definition),
            refers_to=_refs(definition),
            note=note,
            author=user if getattr(user, "pk", None) else None,
            author_name=getattr(user, "full_name", "") or "Hazeridge",
        )
        kept.change(user, current, None, in_force=version)
    return version


def versions_in_force() -> list[VersionFacts]:
    """The version in force of every flow that has one."""
    rows = Flow.objects.filter(in_force__isnull=False).select_related("in_force")
    return [_facts(flow.in_force, flow) for flow in rows]


def version(version_id: int) -> VersionFacts:
    """One published version, for contacts that began on it."""
    found = Version.objects.select_related("flow").get(pk=version_id)
    return _facts(found, found.flow)


def draft(flow_id: str) -> tuple[str, Definition]:
    """A flow's name and draft, for a trial call."""
    flow = Flow.objects.get(pk=flow_id)
    return flow.name, load(flow.draft)


def flow_names() -> dict[str, str]:
    """The name of every flow, by id."""
    return {str(pk): name for pk, name in Flow.objects.values_list("pk", "name")}


def speak_prompts(definition: Definition) -> None:
    """Speak every text of a definition that was not spoken yet, now."""
    _speak_all(definition)


def flows_with_queue(queue_id: str) -> list[Use]:
    """The flows whose draft or version in force leads to a queue."""
    return _flows_with(f"queue:{queue_id}")


def flows_with_sound(sound_id: str) -> list[Use]:
    """The flows whose draft or version in force plays a sound."""
    return _flows_with(f"sound:{sound_id}")


def flows_with_hours(hours_id: str) -> list[Use]:
    """The flows whose draft or version in force asks hours."""
    return _flows_with(f"hours:{hours_id}")


def search(text: str) -> list[Use]:
    """Flows whose name holds a text."""
    found = Flow.objects.filter(name__icontains=text)[:5]
    return [Use("flow", str(f.pk), f.name, "flow") for f in found]


def _facts(found: Version, flow: Flow) -> VersionFacts:
    return VersionFacts(found.pk, str(flow.pk), flow.name, found.number, load(found.definition))


def _refs(definition: Definition) -> list[str]:
    return sorted(references(definition))


def _texts(definition: Definition) -> list[tuple[str, str]]:
    spoken = [p for p in all_prompts(definition) if isinstance(p, SpokenText)]
    return sorted({(p.language, p.text) for p in spoken if p.text})


def _speak_all(definition: Definition) -> None:
    for language, text in _texts(definition):
        sound_services.speak(language, text)
    silent = [
        prompt
        for prompt in all_prompts(definition)
        if isinstance(prompt, LibrarySound) and prompt not in sound_services.takes([prompt])
    ]
    if silent:
        raise Refused("sound-missing", "A sound of this flow has no recording yet.")


def _speak_ahead(definition: Definition) -> None:
    """Let the worker speak new texts, so that lengths and trial calls are ready."""
    texts = _texts(definition)
    known = sound_services.spoken_ms(texts)
    unspoken = [pair for pair in texts if pair not in known]
    if unspoken:
        speak_ahead.delay(unspoken)


def _flows_with(reference: str) -> list[Use]:
    found = Flow.objects.filter(refers_to__contains=[reference])
    uses = {str(f.pk): Use("flow", str(f.pk), f.name, "flow, draft") for f in found}
    for flow in Flow.objects.filter(in_force__refers_to__contains=[reference]):
        uses[str(flow.pk)] = Use("flow", str(flow.pk), flow.name, "flow in force")
    return list(uses.values())
