"""Values and the channel: used before they can be there, of the wrong type, or in vain."""

from __future__ import annotations

from collections.abc import Iterator

from callcore.flow import usage
from callcore.flow.definition import SetValue, prompts
from callcore.flow.findings import Finding, Fix, free_id
from callcore.flow.inputs import ALWAYS, TYPE_WORDS, WAYS
from callcore.flow.parts import PLACE, REFERENCE_WORDS, SpokenText, named, values_in
from callcore.flow.rules.walk import Walk
from callcore.flow.steps import VOICE_ONLY
from callcore.lookups.table import TYPE_WORDS as COLUMN_WORDS


def _unknown_values(walk: Walk) -> Iterator[Finding]:
    setters: dict[str, list[str]] = {}
    for step in walk.flow.steps:
        for name in usage.sets(step):
            setters.setdefault(name, []).append(step.id)
    for step in walk.flow.steps:
        for name in sorted(usage.uses(step) - walk.inputs.keys() - ALWAYS.keys()):
            if name not in setters:
                yield Finding(
                    "unknown-value",
                    "blocks",
                    step.id,
                    "",
                    f"The value {name} is not there: nothing sets it before a caller comes here.",
                    f"Declare an input {name}, or use another value.",
                )
            elif step.id in walk.reached and not walk.comes_after(step.id, setters[name]):
                yield Finding(
                    "used-too-early",
                    "blocks",
                    step.id,
                    "",
                    f"The value {name} is used before it can have been set: it is set only later.",
                    "Set it earlier on the way.",
                    _set_first(walk, name),
                )


def _set_first(walk: Walk, name: str) -> Fix:
    """Set a value to nothing before anything else."""
    first = SetValue(id=free_id(walk.flow, "set"), value=name, to="", next=walk.flow.start)
    return Fix(
        f"Begin with an empty {name}",
        (
            {"op": "add", "path": "/steps/-", "value": first.model_dump(mode="json")},
            {"op": "replace", "path": "/start", "value": first.id},
        ),
    )


_KINDS = {
    "queue": "queue",
    "check_queue": "queue",
    "callback": "queue",
    "tell": "queue",
    "hours": "hours",
    "message": "mailbox",
    "go": "flow",
    "ring": "agent",
}


def _types(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        wanted = _KINDS.get(step.kind)
        pairs = [(ref, wanted) for ref in step.references() if wanted]
        pairs += [(p.sound, "sound") for p in prompts(step) if not isinstance(p, SpokenText)]
        for reference, kind in pairs:
            for name in named(reference):
                declared = walk.inputs.get(name)
                held = walk.taken.get(name, set()) if declared is None else set()
                if held and kind is not None and held != {kind}:
                    words = " or ".join(sorted(COLUMN_WORDS[one] for one in held))
                    yield Finding(
                        "wrong-type",
                        "blocks",
                        step.id,
                        "",
                        f"The value {name} is {words} of a row, where {REFERENCE_WORDS[kind]} is needed.",
                        "Take another column into it, or change what the column holds.",
                    )
                if declared is not None and kind is not None and declared.type != kind:
                    yield Finding(
                        "wrong-type",
                        "blocks",
                        step.id,
                        "",
                        f"The value {name} is {TYPE_WORDS[declared.type]}, where "
                        f"{TYPE_WORDS[kind]} is needed.",
                        "Use another value, or change the input's type.",
                    )
        for prompt in prompts(step):
            if isinstance(prompt, SpokenText):
                ways = {match[2] for match in PLACE.finditer(prompt.text) if match[2]}
                for way in sorted(ways.difference(WAYS)):
                    yield Finding(
                        "unknown-way",
                        "warns",
                        step.id,
                        "",
                        f"No value can be said in the way “{way}”: callers hear it as it is kept.",
                        f"Choose one of {', '.join(WAYS)}.",
                    )


def _inputs(walk: Walk) -> Iterator[Finding]:
    flow = walk.flow
    used = {name for step in flow.steps for name in usage.uses(step)} | set(flow.outputs)
    if flow.failure_prompt is not None:
        used |= values_in(flow.failure_prompt)
    for at, declared in enumerate(flow.inputs):
        if declared.name not in used:
            yield Finding(
                "unused-input",
                "hints",
                "",
                "",
                f"Nobody uses the input {declared.label or declared.name}.",
                "Use it, or remove it.",
                Fix("Remove it", ({"op": "remove", "path": f"/inputs/{at}"},)),
            )


def _voice_in_text(walk: Walk) -> Iterator[Finding]:
    if walk.flow.channel == "voice":
        return
    for step in walk.flow.steps:
        if step.kind in VOICE_ONLY:
            yield Finding(
                "voice-in-text",
                "blocks",
                step.id,
                "",
                "This step needs a voice, and this flow answers text messages.",
                "Take the step out.",
            )


def _numbers_of_another_channel(walk: Walk) -> Iterator[Finding]:
    if walk.catalogue.called - {walk.flow.channel}:
        kind, lost = {
            "voice": ("text messages", "what is written to it would be lost"),
            "text": ("calls", "its callers would be cut off"),
        }[walk.flow.channel]
        yield Finding(
            "number-of-another-channel",
            "blocks",
            "",
            "",
            f"A number of this flow takes {kind}, and the flow does not: {lost}.",
            "Give the number another flow, or change what this one answers.",
        )


RULES = (_unknown_values, _types, _inputs, _voice_in_text, _numbers_of_another_channel)
