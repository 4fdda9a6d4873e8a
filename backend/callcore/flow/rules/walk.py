"""A flow as the rules of the checker look at it."""

from __future__ import annotations

from functools import cached_property

from callcore.flow.catalogue import Catalogue
from callcore.flow.definition import Exit, Flow, Input, Lookup, Say, exits
from callcore.flow.parts import named


class Walk:
    """A flow with what several rules need to know of it."""

    def __init__(self, flow: Flow, catalogue: Catalogue) -> None:
        self.flow = flow
        self.catalogue = catalogue
        self.steps = {step.id: step for step in flow.steps}
        self.exits: dict[str, tuple[Exit, ...]] = {s.id: exits(s) for s in flow.steps}

    @cached_property
    def reached(self) -> set[str]:
        """Every step that a caller can come to."""
        return self.onward(self.flow.start)

    def onward(self, step_id: str | None) -> set[str]:
        """A step and every other that a caller can come to from it; none where there is no such step."""
        seen: set[str] = set()
        todo = [step_id] if step_id is not None and step_id in self.steps else []
        while todo:
            at = todo.pop()
            if at not in seen:
                seen.add(at)
                todo.extend(e.to for e in self.exits[at] if e.to is not None and e.to in self.steps)
        return seen

    def comes_after(self, step_id: str, others: list[str]) -> bool:
        """Whether a caller can come to a step from one of others."""
        seen: set[str] = set()
        todo = [way.to for other in others for way in self.exits[other]]
        while todo:
            at = todo.pop()
            if at == step_id:
                return True
            if at in self.steps and at not in seen:
                seen.add(at)
                todo.extend(way.to for way in self.exits[at])
        return False

    def leads(self, way: Exit) -> bool:
        """Whether an exit leads to a step."""
        return way.to in self.steps

    @cached_property
    def positions(self) -> dict[str, int]:
        """Where each step stands in the definition."""
        return {step.id: at for at, step in enumerate(self.flow.steps)}

    @cached_property
    def said_before(self) -> dict[str | None, list[Say]]:
        """What callers hear just before a step, by the step that it leads to."""
        found: dict[str | None, list[Say]] = {}
        for step in self.flow.steps:
            if isinstance(step, Say):
                found.setdefault(step.next, []).append(step)
        return found

    @cached_property
    def inputs(self) -> dict[str, Input]:
        """The flow's inputs, by name."""
        return {declared.name: declared for declared in self.flow.inputs}

    def counted(self, reference: str | None) -> str | None:
        """What a reference leads to as far as the flow itself says: an input's default."""
        for name in named(reference):
            declared = self.inputs.get(name)
            return str(declared.default) if declared and declared.default else None
        return reference

    @cached_property
    def taken(self) -> dict[str, set[str]]:
        """What columns of lookup tables put into values, by the values' names."""
        found: dict[str, set[str]] = {}
        for step in self.flow.steps:
            facts = self.catalogue.tables.get(step.table or "") if isinstance(step, Lookup) else None
            types = dict(zip(facts.columns, facts.types, strict=False)) if facts else {}
            for take in step.take if isinstance(step, Lookup) else ():
                found.setdefault(take.into, set()).add(types.get(take.column, "text"))
        return found

    def from_a_row(self, reference: str | None) -> bool:
        """Whether a reference is whatever a looked-up row holds."""
        return any(name in self.taken and name not in self.inputs for name in named(reference))

    def left_to_numbers(self, reference: str | None) -> bool:
        """Whether a reference is an input without a default: each number must fill it."""
        return any(name in self.inputs and self.inputs[name].default is None for name in named(reference))

    def all_numbers_name(self, reference: str | None) -> bool:
        """Whether a reference is an input that every number of the flow fills."""
        return any(name in self.catalogue.handed for name in named(reference))
