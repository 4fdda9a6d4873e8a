"""What flows ask of whoever runs them: the exchange stands above, and says so here."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, NamedTuple


class Runner(NamedTuple):
    """Who runs the flows in force.

    `take_up`: the revision in effect once what was published runs (asked by a person); None if
    nobody answers. `arms`: today's callers of a flow by stop and exit.
    """

    take_up: Callable[[Any], int | None]
    arms: Callable[[str], dict[tuple[str, str], int]]


_runner: Runner | None = None


def run_by(runner: Runner) -> None:
    """Let whoever runs flows say so, once."""
    global _runner
    _runner = runner


def take_up(user: Any) -> int | None:
    """See `Runner.take_up`; None where nothing runs flows."""
    return _runner.take_up(user) if _runner else None


def arm_counts(flow_id: str) -> dict[tuple[str, str], int]:
    """See `Runner.arms`; nothing where nothing runs flows."""
    return _runner.arms(flow_id) if _runner else {}
