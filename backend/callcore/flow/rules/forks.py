"""Forks, look-ups, people and shared blocks: arms that never hold, things that are not there."""

from __future__ import annotations

from collections.abc import Iterator

from callcore.flow.blocks import MOST_LAID
from callcore.flow.conditions import complete
from callcore.flow.definition import Block, CheckQueue, Fork, Label, Lookup, Ring, Times
from callcore.flow.findings import Finding, Fix
from callcore.flow.inputs import misfit
from callcore.flow.periods import overlap
from callcore.flow.rules.things import missing
from callcore.flow.rules.walk import Walk
from callcore.flow.steps.decide import ForkArm, TimesArm


def _arm(arm: ForkArm | TimesArm) -> str:
    return f"“{arm.label}”" if arm.label else "A way"


def _no_arm(step: Fork | Times) -> Iterator[Finding]:
    if not step.arms:
        yield Finding(
            "no-arm",
            "blocks",
            step.id,
            "",
            "The fork has no way but one: every caller goes on the same way.",
            "Add a way, or take the fork out.",
        )


def _times(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        if not isinstance(step, Times):
            continue
        yield from _no_arm(step)
        for at, arm in enumerate(step.arms):
            if not any(period.days for period in arm.periods):
                yield Finding(
                    "arm-never",
                    "blocks",
                    step.id,
                    f"arm:{arm.id}",
                    f"{_arm(arm)} has no days and times: no caller ever takes it.",
                    "Give it days and times.",
                )
            for other in step.arms[:at]:
                if overlap(arm.periods, other.periods):
                    yield Finding(
                        "arms-overlap",
                        "warns",
                        step.id,
                        f"arm:{arm.id}",
                        f"{_arm(arm)} and {_arm(other)} share some time: callers then take the "
                        "one that comes first.",
                        "Part their times, or leave their order as it is on purpose.",
                    )


def _forks(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        if not isinstance(step, Fork):
            continue
        yield from _no_arm(step)
        for arm in step.arms:
            if not complete(arm.when):
                yield Finding(
                    "no-condition",
                    "blocks",
                    step.id,
                    f"arm:{arm.id}",
                    f"{_arm(arm)} has no complete condition: no caller ever takes it.",
                    "Choose a value and what it is compared with.",
                )


def _lookups(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        if not isinstance(step, Lookup):
            continue
        facts = walk.catalogue.tables.get(step.table or "")
        if facts is None:
            yield from missing(walk, step, step.table, "table", "would meet the failure exit")
            continue
        for take in step.take:
            if take.column not in facts.columns:
                yield Finding(
                    "unknown-column",
                    "blocks",
                    step.id,
                    "",
                    f"“{facts.name}” has no column “{take.column}”: its value stays empty.",
                    "Choose another column.",
                    Fix(f"Open {facts.name}…", goto=step.table or ""),
                )


def _checked_queues(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        if not isinstance(step, CheckQueue) or step.whole_centre:
            continue
        if walk.flow.purpose == "plan" and step.queue is None:
            continue
        if walk.counted(step.queue) not in walk.catalogue.queues:
            yield from missing(walk, step, step.queue, "queue", "would meet the failure rule")


def _skills(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        if isinstance(step, Label) and any(a.skill not in walk.catalogue.skills for a in step.skills):
            yield Finding(
                "missing-skill",
                "blocks",
                step.id,
                "",
                "A skill that is asked for does not exist any more: nobody could take the caller.",
                "Take it out, or choose another.",
            )


def _people(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        if not isinstance(step, Ring):
            continue
        known = (p in walk.catalogue.agents or walk.from_a_row(p) for p in step.people)
        if not all(known):
            yield Finding(
                "missing-person",
                "blocks",
                step.id,
                "",
                "Somebody who is rung here does not exist any more.",
                "Choose somebody else.",
            )
        if sum(map(bool, (step.people, step.number, step.group))) > 1:
            yield Finding(
                "people-and-number",
                "blocks",
                step.id,
                "",
                "More than one of people, a ring group and an outside number are given: only one "
                "of them would be rung.",
                "Take the others out; they can follow in steps of their own.",
            )
        group = walk.catalogue.groups.get(walk.counted(step.group) or "")
        if step.group and group is None and not walk.all_numbers_name(step.group):
            yield Finding(
                "missing-group",
                "blocks",
                step.id,
                "",
                "The ring group does not exist any more: nobody would be rung.",
                "Choose another.",
            )
        elif group is not None and group.people == 0:
            yield Finding(
                "empty-group",
                "warns",
                step.id,
                "",
                f"Nobody is in {group.name}: callers go on at once.",
                "Add people to it.",
            )


def _blocks(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        if not isinstance(step, Block):
            continue
        facts = walk.catalogue.flows.get(step.flow or "")
        if facts is None:
            yield from missing(walk, step, step.flow, "block", "would go on as not worked")
        elif not facts.in_force:
            yield Finding(
                "block-not-in-force",
                "blocks",
                step.id,
                "",
                f"“{facts.name}” is not in force yet: callers would go on as not worked.",
                "Publish the block first.",
                Fix(f"Open {facts.name}…", goto=step.flow or ""),
            )
        elif walk.catalogue.leads_back(step.flow or ""):
            yield Finding(
                "flows-in-a-circle",
                "blocks",
                step.id,
                "",
                f"“{facts.name}” leads back to this flow: it would hold itself without end.",
                "Break the circle.",
            )
        else:
            yield from _block_values(step, facts.name, walk)


def _too_large(walk: Walk) -> Iterator[Finding]:
    if walk.catalogue.laid > MOST_LAID:
        first = next((s.id for s in walk.flow.steps if isinstance(s, Block)), "")
        yield Finding(
            "too-large",
            "blocks",
            first,
            "",
            f"With its shared blocks, and theirs, the flow has more than {MOST_LAID:,} stops or "
            "lies too deep: blocks for which there is no room would not work.",
            "Use fewer blocks within blocks.",
        )


def _block_values(step: Block, name: str, walk: Walk) -> Iterator[Finding]:
    facts = walk.catalogue.flows[step.flow or ""]
    inputs = {declared.name: declared for declared in facts.inputs}
    for row in step.give:
        declared = inputs.get(row.input)
        wrong = None
        if declared is None:
            wrong = "it has no such input"
        elif row.copy_of is None:
            wrong = misfit(declared.type, row.to)
        if wrong:
            yield Finding(
                "wrong-type",
                "blocks",
                step.id,
                "",
                f"What is given to {row.input} of “{name}” does not fit: {wrong}.",
                "Give it something else.",
            )
    for taken in step.take:
        if taken.output not in facts.outputs:
            yield Finding(
                "unknown-output",
                "blocks",
                step.id,
                "",
                f"“{name}” gives no {taken.output} back: the value stays empty.",
                "Choose one of its outputs.",
            )


RULES = (_times, _forks, _lookups, _checked_queues, _people, _skills, _blocks, _too_large)
