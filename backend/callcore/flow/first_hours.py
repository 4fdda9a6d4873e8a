"""Which opening hours a caller meets first in a flow."""

from __future__ import annotations

from collections import deque
from collections.abc import Mapping
from typing import Any, NamedTuple

from callcore.flow.blocks import DEEPEST, Library
from callcore.flow.definition import Flow, exits
from callcore.flow.parts import named
from callcore.flow.steps.away import Block
from callcore.flow.steps.decide import CheckHours


class FirstHours(NamedTuple):
    """The hours that the nearest stop asks which asks any, as that stop names them (`hours:…`, or a
    value of the flow), and what such a value is where nobody gives another."""

    asked: str
    default: str = ""

    def met(self, values: Mapping[str, Any]) -> str:
        """The hours (`hours:…`) for a caller who brings some values; empty for none."""
        for name in named(self.asked):
            return str(values.get(name) or self.default)
        return self.asked


def first_hours(flow: Flow, library: Library) -> FirstHours | None:
    """The first hours of a flow, shared blocks looked into; None where callers meet none."""
    asked = _asked(flow, library, 0, {})
    if asked is None:
        return None
    defaults = {declared.name: declared.default for declared in flow.inputs}
    return FirstHours(asked, *(str(defaults.get(name) or "") for name in named(asked)))


#: What was found of the blocks that were looked into: each is looked into once.
_Known = dict[tuple[str, int | None], str | None]


def _asked(flow: Flow, library: Library, depth: int, known: _Known) -> str | None:
    steps = {step.id: step for step in flow.steps}
    seen: set[str | None] = set()
    todo = deque([flow.start])
    while todo:
        at = todo.popleft()
        step = steps.get(at or "")
        if step is None or at in seen:
            continue
        seen.add(at)
        if isinstance(step, CheckHours) and step.hours:
            return step.hours
        if isinstance(step, Block) and (inside := _in_block(step, library, depth, known)):
            return inside
        todo.extend(way.to for way in exits(step))
    return None


def _in_block(step: Block, library: Library, depth: int, known: _Known) -> str | None:
    """What a block asks first; hours that it is given by whoever uses it cannot be told."""
    if not step.flow or depth >= DEEPEST:
        return None
    key = (step.flow, step.version)
    if key not in known:
        inner = library(step.flow, step.version)
        found = _asked(inner, library, depth + 1, known) if inner is not None else None
        known[key] = None if named(found) else found
    return known[key]
