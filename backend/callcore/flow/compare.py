"""What differs between two definitions, step by step."""

from __future__ import annotations

from typing import NamedTuple

from callcore.flow.definition import Flow


class Difference(NamedTuple):
    """Step ids that were added, removed and changed, and the settings that changed."""

    added: tuple[str, ...]
    removed: tuple[str, ...]
    changed: tuple[str, ...]
    settings: tuple[str, ...]

    @property
    def size(self) -> int:
        """How many things differ."""
        return sum(len(part) for part in self)


def compare(before: Flow, after: Flow) -> Difference:
    """What `after` does to `before`."""
    old = {step.id: step for step in before.steps}
    new = {step.id: step for step in after.steps}
    names = ("channel", "language", "inputs", "outputs", "start", "stay_limit_s", "failure_prompt")
    return Difference(
        added=tuple(i for i in new if i not in old),
        removed=tuple(i for i in old if i not in new),
        changed=tuple(i for i in new if i in old and new[i] != old[i]),
        settings=tuple(n for n in names if getattr(before, n) != getattr(after, n)),
    )
