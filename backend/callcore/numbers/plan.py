"""What answers a number at a moment, and why.

A number has a flow with values now, and changes dated ahead. The change that was due
last counts; before the first one, what the number says itself. A diversion in force
goes before all of it, and leaves it untouched.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import datetime
from types import MappingProxyType
from typing import Any, Literal, NamedTuple

NO_VALUES: Mapping[str, Any] = MappingProxyType({})


class Planned(NamedTuple):
    """From this moment on (aware), this flow answers with these values; empty answers nothing."""

    at: datetime
    flow: str
    values: Mapping[str, Any] = NO_VALUES


class Applies(NamedTuple):
    """The flow that answers (may be empty), since when (None: since ever), and what comes next."""

    flow: str
    since: datetime | None
    next: Planned | None
    values: Mapping[str, Any] = NO_VALUES


Where = Literal["outside", "mailbox", "flow"]
Then = Literal["normal", "mailbox", "flow", "end"]


class Diversion(NamedTuple):
    """Numbers sent elsewhere for a while.

    `target` is an E.164 number, or the id of a mailbox or flow. An outside number rings
    for `ring_s`; if nobody answers, `then` follows, with `then_target` for a mailbox or
    flow. `until` None: until lifted.
    """

    id: str
    reason: str
    numbers: frozenset[str]
    where: Where
    target: str
    begins: datetime
    until: datetime | None = None
    ring_s: int = 20
    then: Then = "normal"
    then_target: str = ""

    def in_force(self, moment: datetime) -> bool:
        """Whether it counts at an aware moment."""
        return self.begins <= moment and (self.until is None or moment < self.until)


def applies(
    flow: str, planned: Iterable[Planned], moment: datetime, values: Mapping[str, Any] = NO_VALUES
) -> Applies:
    """What counts for a number at an aware moment, diversions apart.

    Args:
        flow: the number's own flow.
        planned: its dated changes, in any order.
        values: what it hands to its own flow.
    """
    ordered = sorted(planned, key=lambda change: change.at)
    due = [change for change in ordered if change.at <= moment]
    coming = [change for change in ordered if change.at > moment]
    following = coming[0] if coming else None
    if due:
        return Applies(due[-1].flow, due[-1].at, following, due[-1].values)
    return Applies(flow, None, following, values)


def diverted(number: str, diversions: Iterable[Diversion], moment: datetime) -> Diversion | None:
    """The diversion that counts for a number: of several, the one that began last."""
    found = [d for d in diversions if number in d.numbers and d.in_force(moment)]
    return max(found, key=lambda d: (d.begins, d.id), default=None)
