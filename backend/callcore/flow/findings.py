"""What a finding of the checker is, and the mends it can offer."""

from __future__ import annotations

from typing import Any, Literal, NamedTuple

from callcore.flow.definition import End, Flow, exits

Severity = Literal["blocks", "warns", "hints"]
SEVERITIES: tuple[Severity, ...] = ("blocks", "warns", "hints")


class Fix(NamedTuple):
    """A mend of one click: a JSON Patch (RFC 6902) on the definition, or a place to go to."""

    label: str
    patch: tuple[dict[str, Any], ...] = ()
    goto: str = ""


class Finding(NamedTuple):
    """One thing the checker found: where, what a caller would meet, and how to mend it.

    `accepted` is why the author lets a warning be; empty where they do not.
    """

    code: str
    severity: Severity
    step: str
    exit: str
    message: str
    mend: str
    fix: Fix | None = None
    accepted: str = ""


def position(flow: Flow, step_id: str) -> int:
    """Where a step stands in the definition."""
    return next(i for i, step in enumerate(flow.steps) if step.id == step_id)


def exit_path(flow: Flow, step_id: str, exit_name: str) -> str:
    """The JSON Pointer of an exit's target."""
    at = position(flow, step_id)
    if ":" in exit_name:  # an arm, by its key or its id; arms are the first of the exits
        names = [e.name for e in exits(flow.steps[at])]
        return f"/steps/{at}/arms/{names.index(exit_name)}/next"
    return f"/steps/{at}/{exit_name}"


def free_id(flow: Flow, stem: str) -> str:
    """A step id that is not taken yet."""
    taken = {step.id for step in flow.steps}
    number = 1
    while f"{stem}-{number}" in taken:
        number += 1
    return f"{stem}-{number}"


def end_here(flow: Flow, step_id: str, exit_name: str, label: str = "End the call there") -> Fix:
    """Let an exit lead to a new ending."""
    new = End(id=free_id(flow, "end"))
    return Fix(
        label,
        (
            {"op": "add", "path": "/steps/-", "value": new.model_dump(mode="json")},
            {"op": "add", "path": exit_path(flow, step_id, exit_name), "value": new.id},
        ),
    )
