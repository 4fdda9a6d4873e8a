"""Everything that callcore can refuse.

CallcoreError
├── DefinitionError   bad input: a flow definition that cannot be read
├── EventRefused      an impossible request: the event does not fit the state
└── BrokenRule        our own bug: an invariant does not hold
"""

from __future__ import annotations

from dataclasses import dataclass


class CallcoreError(Exception):
    """Root of all errors of the core; `code` is stable, the text is for people."""

    code = "callcore"


@dataclass(frozen=True, slots=True)
class Problem:
    """One thing wrong with a definition: where (a path of keys and positions) and what."""

    path: tuple[str | int, ...]
    message: str


class DefinitionError(CallcoreError):
    """A definition that is not one; `problems` names every place, worst cases first."""

    code = "definition-not-valid"

    def __init__(self, problems: list[Problem]) -> None:
        super().__init__("; ".join(p.message for p in problems))
        self.problems = problems


class EventRefused(CallcoreError):
    """The event cannot happen in the present state, said in words for the person who tried."""

    def __init__(self, code: str, message: str) -> None:
        super().__init__(message)
        self.code = code


class BrokenRule(CallcoreError):
    """A state that must not exist. Never caught to be ignored."""

    code = "broken-rule"
