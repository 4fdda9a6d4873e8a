"""Stops of a flow made into a shared block that the flow then uses in their place."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, NamedTuple

from callcore.errors import DefinitionError, Problem
from callcore.flow import describe, usage
from callcore.flow.catalogue import Catalogue
from callcore.flow.definition import AnyStep, Block, End, Flow, Input
from callcore.flow.findings import free_id
from callcore.flow.inputs import ALWAYS
from callcore.flow.steps import Given, Returned

#: Where the block is used until it has a reference of its own.
NEW_BLOCK = "flow:new"


class Extracted(NamedTuple):
    """The block, and the flow that uses it (as `NEW_BLOCK`)."""

    block: Flow
    flow: Flow
    made: str


def extract(flow: Flow, chosen: Iterable[str], catalogue: Catalogue) -> Extracted:
    """Make a shared block of some stops.

    Values that are set before go in, values that are used after come out. The way that callers
    leave the stops becomes "worked", a second one "did not work": of two, the one that is taken
    only when something fails, otherwise the later one.

    Raises:
        DefinitionError: they are no block, in words: nothing is chosen, an ending is among
            them, callers come in at two places, or leave them to more than two, or the flow is a
            waiting plan.
    """
    ids = set(chosen)
    inside = [step for step in flow.steps if step.id in ids]
    outside = [step for step in flow.steps if step.id not in ids]
    names = {step.id: describe.stop(step, catalogue).name for step in flow.steps}
    if flow.purpose == "plan":
        raise _refused("A waiting plan cannot use shared blocks.")
    if not inside:
        raise _refused("Choose the stops that become a block.")
    ends = next((step for step in inside if step.kind in ("end", "go")), None)
    if ends is not None:
        raise _refused(f"“{names[ends.id]}” ends the call: leave it out of the block.")
    entry = _entry(flow, inside, outside, names)
    ways = _ways_out(inside, ids, names)
    inputs, outputs = _values(flow, inside, outside)
    block_id = free_id(flow, "block")
    block = Flow(
        channel=flow.channel,
        language=flow.language,
        purpose="block",
        inputs=inputs,
        outputs=outputs,
        start=entry,
        steps=(*(_turned(step, ways) for step in inside), *_ends(ways)),
    )
    use = Block(
        id=block_id,
        flow=NEW_BLOCK,
        give=tuple(Given(input=i.name, copy_of=i.name) for i in inputs),
        take=tuple(Returned(output=name, into=name) for name in outputs),
        worked=ways[0] if ways else None,
        not_worked=ways[1] if len(ways) > 1 else None,
    )
    at = next(i for i, step in enumerate(flow.steps) if step.id in ids)
    before = [s for s in flow.steps[:at] if s.id not in ids]
    after = [s for s in flow.steps[at:] if s.id not in ids]
    kept = [_led(step, {entry: block_id}) for step in (*before, *after)]
    kept.insert(len(before), use)
    left = flow.model_copy(
        update={
            "steps": tuple(kept),
            "start": block_id if flow.start == entry else flow.start,
            "accepted": tuple(row for row in flow.accepted if row.step not in ids),
        }
    )
    return Extracted(block, left, block_id)


def _refused(words: str) -> DefinitionError:
    return DefinitionError([Problem(("steps",), words)])


def _entry(flow: Flow, inside: list[AnyStep], outside: list[AnyStep], names: dict[str, str]) -> str:
    """The one stop at which callers come in."""
    ids = {step.id for step in inside}
    entries = [way.to for step in outside for way in step.exits() if way.to in ids]
    if flow.start in ids:
        entries.append(flow.start)
    found = list(dict.fromkeys(entry for entry in entries if entry is not None))
    if len(found) > 1:
        raise _refused(
            f"Callers come into these stops at “{names[found[0]]}” and at “{names[found[1]]}”: "
            "a block has one beginning."
        )
    return found[0] if found else inside[0].id


def _ways_out(inside: list[AnyStep], ids: set[str], names: dict[str, str]) -> list[str]:
    """The stops outside that callers go on to, at most two; where all is well first."""
    exits = [way for step in inside for way in step.exits()]
    leaving = sorted((way for way in exits if way.to not in ids), key=lambda way: way.failure)
    found = list(dict.fromkeys(way.to for way in leaving if way.to))
    if len(found) > 2:
        places = ", ".join(f"“{names.get(to, to)}”" for to in found[:3])
        raise _refused(f"Callers leave these stops to {places}: a block has two ways out at most.")
    if len(found) > 1 and any(way.to is None for way in exits):
        raise _refused(
            "An exit of these stops leads nowhere: in a block it would be taken for “did not "
            "work”. Lead it somewhere first."
        )
    return found


def _values(
    flow: Flow, inside: list[AnyStep], outside: list[AnyStep]
) -> tuple[tuple[Input, ...], tuple[str, ...]]:
    used = {name for step in inside for name in usage.uses(step)} - ALWAYS.keys()
    set_inside = {name for step in inside for name in usage.sets(step)}
    set_outside = {name for step in outside for name in usage.sets(step)}
    declared = {i.name: i for i in flow.inputs}
    needed = [n for n in sorted(used) if n in declared or n in set_outside or n not in set_inside]
    inputs = tuple(declared.get(name, Input(name=name)) for name in needed)
    used_outside = {name for step in outside for name in usage.uses(step)} | set(flow.outputs)
    return inputs, tuple(sorted(set_inside & used_outside))


def _ends(ways: list[str]) -> tuple[End, ...]:
    ends = (End(id="worked", label="Worked"), End(id="not-worked", label="Not", worked=False))
    return ends[: max(1, len(ways))]


def _turned(step: AnyStep, ways: list[str]) -> AnyStep:
    """A step whose ways out of the block lead to the block's ends."""
    return _led(step, dict(zip(ways, ("worked", "not-worked"), strict=False)))


def _led(step: AnyStep, targets: dict[str, str]) -> AnyStep:
    """A step with some of its exits led elsewhere."""
    changed: dict[str, Any] = {}
    arms = getattr(step, "arms", None)
    if arms is not None:
        changed["arms"] = tuple(
            arm.model_copy(update={"next": targets.get(arm.next, arm.next)}) for arm in arms
        )
    for way in step.exits():
        if ":" not in way.name and way.to in targets:
            changed[way.name] = targets[way.to]
    done: AnyStep = step.model_copy(update=changed)
    return done
