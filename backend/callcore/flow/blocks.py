"""Shared blocks laid into the flows that use them, so that the one machine runs both.

A block's steps get the using step's id and a dot before their own (`check.ask`); its
values get a name of their own for each use. Its ends lead to the using step's exits.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any

from callcore.flow.definition import AnyStep, Block, End, Flow, Lookup, Say, SetValue
from callcore.flow.inputs import ALWAYS
from callcore.flow.parts import FROM_VALUE, PLACE, Part, SpokenText
from callcore.flow.state import WITHIN

#: Blocks within blocks within blocks: deeper is a circle.
DEEPEST = 6
#: So many stops a flow may have with all its blocks: ten of ten of ten are a thousand.
MOST_LAID = 20_000
_NAMES = frozenset({"into", "copy_of", "value"})
#: The definition of a block (a `flow:` reference) in a version; None where there is none.
Library = Callable[[str, int | None], Flow | None]


def laid_out(flow: Flow, library: Library) -> Flow:
    """The flow with every shared block in place of the step that uses it.

    A block that is not there, lies too deep, or for which no room is left (`MOST_LAID`) leads to
    `not_worked` at once.
    """
    return _laid_out(flow, library, 0, _Room(MOST_LAID))


def laid_size(flow: Flow, library: Library) -> int:
    """How many stops a flow would have with all its blocks, however many that are; each block is
    looked at once. Where blocks lie too deep it is more than `MOST_LAID`."""
    return _size(flow, library, 0, {})


def _size(flow: Flow, library: Library, depth: int, known: dict[tuple[str, int | None], int]) -> int:
    total = len(flow.steps)
    for step in flow.steps:
        if not isinstance(step, Block) or not step.flow:
            continue
        if depth >= DEEPEST:
            return MOST_LAID + 1
        key = (step.flow, step.version)
        if key not in known:
            inner = library(step.flow, step.version)
            known[key] = _size(inner, library, depth + 1, known) if inner is not None else 0
        total += known[key]
    return total


class _Room:
    """How many steps may still be laid into a flow."""

    def __init__(self, left: int) -> None:
        self.left = left

    def has(self, flow: Flow) -> bool:
        """Take what a flow needs; false where there is not so much."""
        self.left -= len(flow.steps)
        return self.left >= 0


def _laid_out(flow: Flow, library: Library, depth: int, room: _Room) -> Flow:
    if not any(isinstance(step, Block) for step in flow.steps):
        return flow
    steps: list[AnyStep] = []
    for number, step in enumerate(flow.steps):
        if isinstance(step, Block):
            inner = library(step.flow, step.version) if step.flow and depth < DEEPEST else None
            fits = inner is not None and room.has(inner)
            laid = _laid_out(inner, library, depth + 1, room) if inner and fits else None
            steps += _inlined(step, laid, f"b{depth}_{number}_")
        else:
            steps.append(step)
    return flow.model_copy(update={"steps": tuple(steps)})


def _inlined(use: Block, inner: Flow | None, prefix: str) -> list[AnyStep]:
    if inner is None or inner.start is None:
        nothing = SetValue(id="x", value="x", next=None)
        return [nothing.model_copy(update={"id": use.id, "value": prefix, "next": use.not_worked})]
    ids = {step.id: f"{use.id}.{step.id}" for step in inner.steps}
    steps = _given(use, inner, prefix, ids.get(inner.start))
    for step in inner.steps:
        steps += _one(step, use, inner, ids, prefix)
    return steps


def _given(use: Block, inner: Flow, prefix: str, start: str | None) -> list[AnyStep]:
    """Steps that hand the inputs over; the first has the id of the using step."""
    given = {row.input: row for row in use.give}
    chain: list[dict[str, Any]] = []
    for declared in inner.inputs:
        row = given.get(declared.name)
        to = declared.default if row is None else row.to
        copy_of = row.copy_of if row is not None else None
        chain.append({"value": prefix + declared.name, "to": to, "copy_of": copy_of})
    chain = chain or [{"value": prefix}]
    steps: list[AnyStep] = []
    blank = SetValue(id="x", value="x")
    for number, values in enumerate(chain):
        own = use.id if number == 0 else f"{use.id}.in{number}"
        following = f"{use.id}.in{number + 1}" if number + 1 < len(chain) else start
        steps.append(blank.model_copy(update={**values, "id": own, "next": following}))
    return steps


def _one(step: AnyStep, use: Block, inner: Flow, ids: Mapping[str, str], prefix: str) -> list[AnyStep]:
    if not isinstance(step, End):
        return [_moved(step, ids, prefix, use.not_worked)]
    target = use.worked if step.worked else use.not_worked
    rows = [row for row in use.take if row.output in inner.outputs]
    out = f"{ids[step.id]}.out"
    blank = SetValue(id="x", value="x")
    steps: list[AnyStep] = [
        blank.model_copy(
            update={
                "id": f"{out}{i}" if i or step.prompt else ids[step.id],
                "value": row.into,
                "copy_of": prefix + row.output,
                "next": f"{out}{i + 1}" if i + 1 < len(rows) else target,
            }
        )
        for i, row in enumerate(rows)
    ]
    following = f"{out}0" if rows else target
    if step.prompt is not None:
        heard = _renamed(step.prompt, ids, prefix)
        say = Say(id="x", prompt=step.prompt)
        said = say.model_copy(update={"id": ids[step.id], "prompt": heard, "next": following})
        return [said, *steps]
    if not rows:
        through = {"id": ids[step.id], "value": prefix, "next": target}
        return [blank.model_copy(update=through)]
    return steps


def _moved(step: AnyStep, ids: Mapping[str, str], prefix: str, not_worked: str | None) -> AnyStep:
    """A step of the block under its new id, its exits led on; an open one has not worked."""
    moved = _renamed(step, ids, prefix)
    changed: dict[str, Any] = {"id": ids[step.id]}
    arms = getattr(moved, "arms", None)
    if arms is not None:
        changed["arms"] = tuple(
            arm.model_copy(update={"next": ids.get(arm.next or "", not_worked)}) for arm in arms
        )
    for way in step.exits():
        if ":" not in way.name:
            changed[way.name] = ids.get(way.to or "", not_worked)
    done: AnyStep = moved.model_copy(update=changed)
    return done


def _renamed(part: Any, ids: Mapping[str, str], prefix: str) -> Any:
    """A part with the block's values under their names for this use."""
    changed: dict[str, Any] = {}
    for name, value in part:
        new = _value(part, name, value, ids, prefix)
        if new is not value:
            changed[name] = new
    return part.model_copy(update=changed) if changed else part


def _value(part: Any, name: str, value: Any, ids: Mapping[str, str], prefix: str) -> Any:
    if isinstance(value, Part):
        return _renamed(value, ids, prefix)
    if isinstance(value, tuple):
        return tuple(
            _renamed(item, ids, prefix) if isinstance(item, Part) else _text(item, prefix) for item in value
        )
    if not isinstance(value, str):
        return value
    if name in _NAMES or (name == "key" and isinstance(part, Lookup)):
        return value if value in ALWAYS else prefix + value
    if name == "text" and isinstance(part, SpokenText):
        return _spoken(value, prefix)
    if name == "label" and not hasattr(part, "arms"):
        return _spoken(value, prefix)
    return _text(value, prefix)


def _text(value: Any, prefix: str) -> Any:
    """A reference to a value, under its new name."""
    if isinstance(value, str) and value.startswith(FROM_VALUE):
        name = value.removeprefix(FROM_VALUE)
        return value if name in ALWAYS else FROM_VALUE + prefix + name
    return value


def _spoken(text: str, prefix: str) -> str:
    def place(match: re.Match[str]) -> str:
        name = match[1] if match[1] in ALWAYS else prefix + match[1]
        return f"{{{name}:{match[2]}}}" if match[2] else f"{{{name}}}"

    return PLACE.sub(place, text)


_PREFIX = re.compile(r"\b(?:b[0-9]+_[0-9]+_)+")


def plainly(values: Mapping[str, Any]) -> dict[str, Any]:
    """Values under the names that their authors gave them; the flow's own come before a block's."""
    own = {name: value for name, value in values.items() if not _PREFIX.match(name)}
    return own | {
        plain: value
        for name, value in values.items()
        if (plain := _PREFIX.sub("", name)) and plain not in own
    }


def plain(words: str) -> str:
    """Words with the block's values under the names that their author gave them.

    Nothing is said of a step that is only there to lead into a block or out of it.
    """
    cleaned = _PREFIX.sub("", words)
    return "" if cleaned == " = nothing" else cleaned


def way_out(written: Flow, step: str, exit_name: str, to: str | None) -> tuple[str, str]:
    """The step and exit of the written flow that a move of the laid-out one stands for."""
    if WITHIN in step:
        return step, exit_name
    outer, dot, _ = step.partition(".")
    if not dot or (to or "").startswith(f"{outer}."):
        return step, exit_name
    use = next((s for s in written.steps if s.id == outer), None)
    if not isinstance(use, Block):
        return step, exit_name
    return outer, "worked" if to == use.worked else "not_worked"
