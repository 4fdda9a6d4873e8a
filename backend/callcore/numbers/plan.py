"""Which flow answers a number at a moment, and why.

A number has a flow now and changes dated ahead. The change that was due last counts;
before the first one, the flow that the number names itself.
"""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime
from typing import NamedTuple


class Planned(NamedTuple):
    """From this moment on (aware), this flow answers; empty answers nothing any more."""

    at: datetime
    flow: str


class Applies(NamedTuple):
    """The flow that answers (may be empty), since when (None: since ever), and what comes next."""

    flow: str
    since: datetime | None
    next: Planned | None


def applies(flow: str, planned: Iterable[Planned], moment: datetime) -> Applies:
    """What counts for a number at an aware moment.

    Args:
        flow: the number's own flow.
        planned: its dated changes, in any order.
    """
    ordered = sorted(planned, key=lambda change: change.at)
    due = [change for change in ordered if change.at <= moment]
    coming = [change for change in ordered if change.at > moment]
    following = coming[0] if coming else None
    if due:
        return Applies(due[-1].flow, due[-1].at, following)
    return Applies(flow, None, following)
