"""The contacts behind a figure of a queue: the stays and legs that its rows were counted of."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from django.conf import settings
from django.db.models import Q, QuerySet

from reports.models import Leg, Stay
from reports.period import Period

_STAYS: dict[str, Q] = {
    "offered": Q(),
    **{
        name: Q(outcome=name)
        for name in ("answered", "abandoned", "messages", "callbacks", "elsewhere", "ended", "under_way")
    },
    "short_abandons": Q(short=True),
    "answered_late": Q(outcome="answered", late=True),
    "abandoned_late": Q(outcome="abandoned", late=True),
}
_LEGS: dict[str, Q] = {
    "legs": Q(),
    "transferred": Q(by="transferred"),
    "callbacks_reached": Q(how="callback"),
}


class Behind(NamedTuple):
    """One contact behind a figure. `outcome` is of its stay; of an agent's part how that ended."""

    contact: str
    at_ms: int
    wait_ms: int
    outcome: str
    late: bool
    queue: str
    agent: str


def part_behind(leg: Leg) -> Behind:
    """An agent's part of a contact behind a figure."""
    return Behind(leg.contact, leg.answered_ms, leg.wait_ms, leg.how, False, leg.queue, leg.agent)


def contacts(
    column: str, queues: Sequence[str], period: Period, begin_ms: int, end_ms: int, first: int, most: int
) -> tuple[int, list[Behind]]:
    """How many stand behind a column, and some of them, who waited longest first."""
    if column in _LEGS:
        legs = _within(Leg.objects.filter(_LEGS[column]), "offered_ms", period, begin_ms, end_ms)
        legs = (legs.filter(queue__in=queues) if queues else legs.exclude(queue="")).order_by(
            "-talk_ms", "pk"
        )
        return legs.count(), [part_behind(leg) for leg in legs[first : first + most]]
    stays = _within(Stay.objects.filter(_STAYS[column]), "entered_ms", period, begin_ms, end_ms)
    stays = (stays.filter(queue__in=queues) if queues else stays).order_by("-late", "-wait_ms", "pk")
    return stays.count(), [
        Behind(s.contact, s.entered_ms, s.wait_ms, s.outcome, s.late, s.queue, s.agent)
        for s in stays[first : first + most]
    ]


def _within(rows: QuerySet, column: str, period: Period, begin_ms: int, end_ms: int) -> QuerySet:
    wanted = Q(pk__in=[])
    for begins, ends in period.stretches(begin_ms, end_ms):
        wanted |= Q(**{f"{column}__gte": begins, f"{column}__lt": ends})
    return rows.filter(site=settings.EXCHANGE_SITE).filter(wanted)
