"""Comparisons that decide nothing: always or never true, of the wrong kind, or asked already."""

from __future__ import annotations

from collections.abc import Iterator

from callcore.flow import conditions
from callcore.flow.certain import certain, misfitting
from callcore.flow.definition import CheckQueue, Fork
from callcore.flow.findings import Finding, Fix, position
from callcore.flow.inputs import ALWAYS, TYPE_WORDS
from callcore.flow.rules.walk import Walk
from callcore.flow.steps.decide import ForkArm, counted

#: Figures of one caller, which the whole centre does not have.
_OF_A_QUEUE = {"position": "A place in line", "expected_wait": "An expected wait"}


def _name(arm: ForkArm) -> str:
    return f"“{arm.label}”" if arm.label else "A way"


def _forks(walk: Walk) -> Iterator[Finding]:
    types = {**ALWAYS, **{name: declared.type for name, declared in walk.inputs.items()}}
    for step in walk.flow.steps:
        if not isinstance(step, Fork):
            continue
        earlier: dict[str, ForkArm] = {}
        for arm in step.arms:
            said = conditions.words(arm.when)
            exit_name = f"arm:{arm.id}"
            twin = earlier.setdefault(said.casefold(), arm)
            misfits = list(misfitting(arm.when, types))
            if twin is not arm and arm.when.parts:
                yield Finding(
                    "same-condition",
                    "warns",
                    step.id,
                    exit_name,
                    f"{_name(arm)} has the condition of {_name(twin)} before it: no caller ever takes it.",
                    "Change its condition, or take it out.",
                )
            elif misfits:
                first = misfits[0]
                yield Finding(
                    "unlike-compared",
                    "warns",
                    step.id,
                    exit_name,
                    f"{first.value} is {TYPE_WORDS[types.get(first.value, 'text')]}, and "
                    f"“{conditions.words(first)}” holds for none.",
                    "Compare it with something of its kind.",
                )
            elif conditions.complete(arm.when):
                yield from _certain(step.id, exit_name, _name(arm), said, certain(arm.when))


def _certain(step: str, exit_name: str, name: str, said: str, answer: bool | None) -> Iterator[Finding]:
    if answer is False:
        yield Finding(
            "never-true",
            "warns",
            step,
            exit_name,
            f"{name} never holds: “{said}” cannot be. No caller ever takes it.",
            "Change the condition.",
        )
    elif answer:
        yield Finding(
            "always-true",
            "warns",
            step,
            exit_name,
            f"{name} always holds: “{said}” is so for everybody. Whatever stands after it is never taken.",
            "Change the condition, or lead callers there without a fork.",
        )


def _figures(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        if not isinstance(step, CheckQueue):
            continue
        if step.whole_centre and step.figure in _OF_A_QUEUE:
            at = position(walk.flow, step.id)
            patch = {"op": "replace", "path": f"/steps/{at}/whole_centre", "value": False}
            yield Finding(
                "figure-of-a-queue",
                "blocks",
                step.id,
                "",
                f"{_OF_A_QUEUE[step.figure]}: a caller has "
                "one in a queue, not in the whole centre. Every caller would take the way “no”.",
                "Ask it of a queue.",
                Fix("Ask a queue", (patch,)),
            )
            continue
        reaches = _reaches(step)
        if reaches is not None:
            holds = reaches == (step.how == "at_least")
            code, unused, taken = ("always-true", "no", "yes") if holds else ("never-true", "yes", "no")
            always = "always" if reaches else "never"
            yield Finding(
                code,
                "warns",
                step.id,
                unused,
                f"There are {always} at least {counted(step.figure, step.limit)}: every "
                f"caller takes the way “{taken}”.",
                "Compare with another figure.",
            )


def _reaches(step: CheckQueue) -> bool | None:
    """Whether a figure is always at least the limit, or never; None where that depends."""
    if step.limit == 0:
        return True
    if step.figure == "service_level" and step.limit > 100:
        return False
    return None


RULES = (_forks, _figures)
