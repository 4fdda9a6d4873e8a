"""Flows out to a file and in from one: looked at first, then all or nothing."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any, NamedTuple

from django.db import transaction

from callcore.flow.definition import load, references
from callcore.flow.flow_file import (
    THINGS,
    AgentThing,
    AnyThing,
    FlowFile,
    FlowThing,
    GroupThing,
    MailboxThing,
    SoundThing,
    with_references,
)
from changelog import config_store
from changelog.kinds import kind_named
from flows import services
from flows.models import Flow
from sounds.services import make_sound, speak


class Item(NamedTuple):
    """What taking a file in would do with one thing: `new`, `same`, `differs` or `missing`.

    One that is there under its name is used as it is, also where it differs. A person
    who is missing is left out: people are not made by a flow.
    """

    kind: str
    name: str
    state: str


def _hours(found: Any) -> dict[str, Any]:
    return {**found.plan(), "closure": None}


def _sound(found: Any) -> dict[str, Any]:
    rows = [
        {"language": language, "text": row["text"], "speed": row["speed"]}
        for language, row in sorted(found.takes.items())
    ]
    return {"recordings": rows}


def _mailbox(found: Any) -> dict[str, Any]:
    greeting = found.greeting if (found.greeting or {}).get("kind") == "text" else None
    return {"greeting": greeting, "longest_s": found.longest_s}


def _flow(found: Any) -> dict[str, Any]:
    return {"definition": found.in_force.definition if found.in_force else found.draft}


#: What goes into the file of a kept thing, by kind; the others go by name alone.
_CONTENT: dict[str, Callable[[Any], dict[str, Any]]] = {
    "hours": _hours,
    "sound": _sound,
    "mailbox": _mailbox,
    "table": lambda found: {"columns": found.columns},
    "flow": _flow,
}


#: People, and groups of them.
_NEVER_MADE = (AgentThing, GroupThing)


def _thing(ref: str, kind: str, found: Any) -> AnyThing:
    content = _CONTENT.get(kind, lambda _: {})(found)
    return THINGS[kind].model_validate({"ref": ref, "name": found.name[:80], "content": content})


def export(flow: Flow) -> FlowFile:
    """A flow's draft with everything it refers to, and what that refers to."""
    definition = load(flow.draft)
    things: dict[str, AnyThing] = {}
    todo = sorted(references(definition))
    while todo:
        ref = todo.pop(0)
        kind, _, identity = ref.partition(":")
        if ref in things or kind not in THINGS or ref == f"flow:{flow.pk}":
            continue
        found = kind_named(kind).model._default_manager.filter(pk=identity).first()
        if found is None:
            continue
        thing = things[ref] = _thing(ref, kind, found)
        if isinstance(thing, FlowThing):
            todo += sorted(references(thing.content.definition))
    return FlowFile(name=flow.name, definition=definition, things=tuple(things.values()))


def preview(file: FlowFile) -> list[Item]:
    """What taking a file in would do; nothing is changed."""
    return [Item(t.kind, t.name, _state(t)) for t in file.things]


def _named(thing: AnyThing) -> Any:
    return kind_named(thing.kind).model._default_manager.filter(name=thing.name).first()


def _state(thing: AnyThing) -> str:
    found = _named(thing)
    if found is None:
        return "missing" if isinstance(thing, _NEVER_MADE) else "new"
    if thing.kind not in _CONTENT:
        return "same"
    return "same" if _thing(thing.ref, thing.kind, found).content == thing.content else "differs"


def import_file(user: Any, file: FlowFile) -> Flow:
    """Make the flow, and what it refers to that is not there yet.

    Raises:
        Refused, DefinitionError: something of the file cannot be kept; nothing is.
    """
    with transaction.atomic():
        made: dict[str, str | None] = {}
        for thing in _in_order(file.things):
            found = _named(thing) or _make(user, thing, made)
            made[thing.ref] = f"{thing.kind}:{found.pk}" if found is not None else None
        definition = with_references(file.definition, made)
        return services.make_flow(user, _free_name(file.name), definition)


def _in_order(things: tuple[AnyThing, ...]) -> Iterator[AnyThing]:
    """Flows last, and those first that others refer to: a thing is there before its users."""
    yield from (t for t in things if t.kind != "flow")
    yield from reversed([t for t in things if t.kind == "flow"])


def _make(user: Any, thing: AnyThing, made: dict[str, str | None]) -> Any:
    if isinstance(thing, _NEVER_MADE):
        return None
    if isinstance(thing, FlowThing):
        definition = with_references(thing.content.definition, made)
        return services.make_flow(user, thing.name, definition)
    content = thing.content.model_dump(mode="json")
    if isinstance(thing, SoundThing):
        return make_sound(user, thing.name, content["recordings"])
    if isinstance(thing, MailboxThing) and thing.content.greeting is not None:
        speak(thing.content.greeting.language, thing.content.greeting.text)
    return config_store.create(user, kind_named(thing.kind).model, name=thing.name, **content)


def _free_name(name: str) -> str:
    free, number = name, 1
    while Flow.objects.filter(name=free).exists():
        number += 1
        free = f"{name[:70]} {number}"
    return free
