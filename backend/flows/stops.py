"""What the stops of a flow are called, for whoever counts what happens at them."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any, NamedTuple

from callcore.flow import describe
from callcore.flow.definition import load
from callcore.flow.steps import AnyStep
from flows.catalogue import catalogue_of
from flows.models import Flow
from flows.services import facts


class StopNames(NamedTuple):
    """A stop in words, its kind, its exits in the author's order, and what each is called, also
    those by which it is tried again."""

    name: str
    sentence: str
    kind: str
    exits: tuple[str, ...]
    called: Callable[[str], str]


def definition_of(flow_id: str) -> dict[str, Any] | None:
    """The definition of a flow in force, or else its draft; None for a flow that is gone."""
    flow = Flow.objects.filter(pk=flow_id).select_related("in_force").first()
    if flow is None:
        return None
    return flow.in_force.definition if flow.in_force else flow.draft


def stops_of(flow_id: str) -> dict[str, StopNames]:
    """The stops of a flow in force, or else of its draft, by their ids, in the author's order."""
    definition = definition_of(flow_id)
    if definition is None:
        return {}
    written = load(definition)
    catalogue = catalogue_of(facts())
    found = {}
    for step in written.steps:
        words = describe.stop(step, catalogue)
        exits = tuple(e.name for e in step.exits())
        called = partial(_called, step, written.channel)
        name = words.name or words.title
        found[step.id] = StopNames(name, words.sentence, step.kind, exits, called)
    return found


def _called(step: AnyStep, channel: str, exit_name: str) -> str:
    return describe.exit_label(step, exit_name, channel).replace("_", " ")
