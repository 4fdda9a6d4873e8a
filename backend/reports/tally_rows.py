"""Reading tallies over a period."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from typing import NamedTuple

from django.conf import settings
from django.db.models import Max, Q, Sum

from callcore.measures.tallies import Counted
from reports.models import TallyInterval
from reports.period import Period


class Told(NamedTuple):
    """What was counted of a thing by a detail; times in ms."""

    thing: str
    detail: str
    count: int  # type: ignore[assignment]  # a tuple's own method is not used
    ms: int
    longest_ms: int


def within(column: str, stretches: Sequence[tuple[int, int]]) -> Q:
    """That a moment (ms) lies in one of some stretches."""
    wanted = Q(pk__in=[])
    for begins, ends in stretches:
        wanted |= Q(**{f"{column}__gte": begins, f"{column}__lt": ends})
    return wanted


def tallies(what: Counted, period: Period, things: Collection[str] = ()) -> Iterator[Told]:
    """Everything of a kind in a period; of some things only, where any are named."""
    stretches = period.stretches(period.begin_ms, period.end_ms)
    rows = TallyInterval.objects.filter(site=settings.EXCHANGE_SITE, what=str(what))
    rows = rows.filter(thing__in=things) if things else rows
    found = rows.filter(within("at_ms", stretches)).values_list("thing", "detail")
    for row in found.annotate(Sum("count"), Sum("ms"), Max("longest_ms")).order_by():
        yield Told(*row)
