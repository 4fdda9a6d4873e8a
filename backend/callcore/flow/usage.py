"""Which values a step looks at, and which it sets."""

from __future__ import annotations

from callcore.flow.conditions import values_of
from callcore.flow.parts import PLACE, named, values_in
from callcore.flow.steps import AnyStep, Block, Digits, Fork, Label, Lookup, SetValue, references_of


def sets(step: AnyStep) -> frozenset[str]:
    """The names of the values that a step can set."""
    if isinstance(step, Digits):
        return frozenset({step.into})
    if isinstance(step, Lookup | Block):
        return frozenset(take.into for take in step.take)
    if isinstance(step, SetValue):
        return frozenset({step.value})
    return frozenset()


def uses(step: AnyStep) -> frozenset[str]:
    """The names of the values that a step looks at; what it has just set itself left out."""
    found = {name for ref in references_of(step) for name in named(ref)}
    for prompt in step.prompts():
        found |= values_in(prompt)
    if isinstance(step, Digits):
        found -= {step.into}
    elif isinstance(step, Fork):
        found |= {name for arm in step.arms for name in values_of(arm.when)}
    elif isinstance(step, Lookup):
        found.add(step.key)
    elif isinstance(step, SetValue) and step.copy_of:
        found.add(step.copy_of)
    elif isinstance(step, Label):
        found |= {match[1] for match in PLACE.finditer(step.label)}
    elif isinstance(step, Block):
        found |= {given.copy_of for given in step.give if given.copy_of}
    return frozenset(found)
