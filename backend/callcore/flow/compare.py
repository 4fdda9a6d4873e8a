"""What differs between two definitions, step by step, and in words."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NamedTuple

from callcore.flow import conditions, describe, periods
from callcore.flow.conditions import Group
from callcore.flow.definition import AnyPrompt, AnyStep, Flow, LibrarySound, SpokenText
from callcore.flow.parts import Part
from callcore.flow.periods import Period
from callcore.flow.world import World

_SETTINGS = (
    "channel", "language", "inputs", "outputs", "start", "stay_limit_s", "failure_prompt",
    "accepted",
)  # fmt: skip


class Difference(NamedTuple):
    """Step ids that were added, removed and changed, and the settings that changed."""

    added: tuple[str, ...]
    removed: tuple[str, ...]
    changed: tuple[str, ...]
    settings: tuple[str, ...]

    @property
    def size(self) -> int:
        """How many things differ."""
        return sum(len(part) for part in self)


class Change(NamedTuple):
    """One difference in words: `added`, `removed`, `changed` or `settings`, and what of it."""

    kind: str
    step: str
    words: str
    details: tuple[str, ...]


def compare(before: Flow, after: Flow) -> Difference:
    """What `after` does to `before`."""
    old = {step.id: step for step in before.steps}
    new = {step.id: step for step in after.steps}
    return Difference(
        added=tuple(i for i in new if i not in old),
        removed=tuple(i for i in old if i not in new),
        changed=tuple(i for i in new if i in old and new[i] != old[i]),
        settings=tuple(n for n in _SETTINGS if getattr(before, n) != getattr(after, n)),
    )


def in_words(before: Flow, after: Flow, world: World) -> list[Change]:
    """Every difference as a person reads it."""
    old = {step.id: step for step in before.steps}
    new = {step.id: step for step in after.steps}
    names = {i: describe.stop(s, world).name for i, s in {**old, **new}.items()}
    found = compare(before, after)
    rows = [Change("added", i, _stop(new[i], world), ()) for i in found.added]
    for i in found.changed:
        details = tuple(_details(old[i], new[i], names, world))
        rows.append(Change("changed", i, _stop(new[i], world), details))
    rows += [Change("removed", i, _stop(old[i], world), ()) for i in found.removed]
    rows += [
        Change("settings", "", _LABELS.get(name, name),
               (_pair(getattr(before, name), getattr(after, name), names, world),))
        for name in found.settings
    ]  # fmt: skip
    return rows


_LABELS = {
    "channel": "what it answers",
    "language": "the language",
    "inputs": "the inputs",
    "outputs": "the outputs",
    "start": "the first stop",
    "stay_limit_s": "the longest stay",
    "failure_prompt": "what is said when something fails",
    "accepted": "the warnings that are let be",
    "prompt": "what is said",
    "arms": "its arms",
    "next": "leads to",
    "no_key": "without a key leads to",
    "wrong_key": "after wrong keys leads to",
    "wrong_tries": "how many wrong keys there may be",
    "wait_s": "seconds for a key",
    "tries": "how often it asks",
}


def _stop(step: AnyStep, world: World) -> str:
    words = describe.stop(step, world)
    return f"{words.title}: {words.sentence}"


def _details(old: AnyStep, new: AnyStep, names: Mapping[str, str], world: World) -> list[str]:
    if old.kind != new.kind:
        return [f"was {_stop(old, world)}"]
    rows = []
    for field in type(new).model_fields:
        before, after = getattr(old, field), getattr(new, field)
        if before != after:
            label = _LABELS.get(field, field.replace("_s", " (s)").replace("_", " "))
            rows.append(f"{label}: {_pair(before, after, names, world)}")
    return rows


def _pair(before: Any, after: Any, names: Mapping[str, str], world: World) -> str:
    if isinstance(before, tuple) and isinstance(after, tuple):
        # Of a list only what differs.
        before, after = (
            tuple(part for part in before if part not in after),
            tuple(part for part in after if part not in before),
        )
    return f"{_said(before, names, world)} → {_said(after, names, world)}"


def _said(value: Any, names: Mapping[str, str], world: World) -> str:
    """A part of a definition, short."""
    if value is None or value == "" or value == ():
        return "nothing"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, SpokenText | LibrarySound):
        return _prompt(value, world)
    if isinstance(value, Group):
        return conditions.words(value)
    if isinstance(value, Period):
        return periods.words(value)
    if isinstance(value, tuple):
        return ", ".join(_said(item, names, world) for item in value)
    if isinstance(value, Part):
        named = [
            (n, v) for n, v in value if n not in ("id", "kind") and v not in (None, "", (), False)
        ]
        return " ".join(
            n.replace("_", " ") if v is True else _said(v, names, world) for n, v in named
        )
    if isinstance(value, str) and value in names:
        return f"“{names[value]}”"
    if isinstance(value, str) and value.partition(":")[0] in describe.PLACES and ":" in value:
        return describe.place_name(value, world)
    return str(value)


def _prompt(prompt: AnyPrompt, world: World) -> str:
    return f"“{describe.prompt_words(prompt, world)}”"
