"""Whether things are used: of numbers, flows, queues, mailboxes, codes and agents, for 28 days."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from datetime import timedelta
from typing import Any, NamedTuple

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db.models import BigIntegerField, Count, F, Func, IntegerField, QuerySet, Sum, Value

from callcore.measures.tallies import Counted
from reports.asking import today
from reports.models import Leg, QueueInterval, TallyInterval
from reports.period import Period, midnight_ms
from reports.queue_rows import rows_of, total_of

DAYS = 28


class Use(NamedTuple):
    """How often a thing (a reference) was used on each of the last days, the newest last, and of
    queues how well."""

    thing: str
    days: list[int]
    level: float | None = None
    wait_average_ms: float | None = None

    def told(self) -> dict[str, Any]:
        """As the API gives it."""
        return {**self._asdict(), "count": sum(self.days)}


def everything() -> list[Use]:
    """All things that were used at all, up to yesterday."""
    last = today() - timedelta(days=1)
    zone = settings.CENTRE_TIME_ZONE
    period = Period(last - timedelta(days=DAYS - 1), last, zone)
    begins = [midnight_ms(period.first + timedelta(days=n), zone) for n in range(DAYS)]
    return [*_tallied(period, begins), *_legs(period, begins), *_queues(period)]


def _tallied(period: Period, begins: Sequence[int]) -> Iterator[Use]:
    rows = TallyInterval.objects.filter(
        site=settings.EXCHANGE_SITE, at_ms__gte=period.begin_ms, at_ms__lt=period.end_ms
    )
    arrived = rows.filter(what=str(Counted.NUMBER), detail="arrived")
    yield from _by_day("number", _counted(arrived, begins, "thing", Sum("count")))
    yield from _by_day(
        "mailbox", _counted(rows.filter(what=str(Counted.MAILBOX)), begins, "thing", Sum("count"))
    )
    begun = rows.filter(what=str(Counted.ARM), detail=" start")
    yield from _by_day("flow", _counted(begun, begins, "thing", Sum("count")))


def _legs(period: Period, begins: Sequence[int]) -> Iterator[Use]:
    rows = Leg.objects.filter(
        site=settings.EXCHANGE_SITE, answered_ms__gte=period.begin_ms, answered_ms__lt=period.end_ms
    ).exclude(how="consult")
    for what in ("agent", "code"):
        of_thing = rows.exclude(**{what: ""}).annotate(at_ms=F("answered_ms"))
        yield from _by_day(what, _counted(of_thing, begins, what, Count("pk")))


def _queues(period: Period) -> Iterator[Use]:
    known = QueueInterval.objects.filter(
        site=settings.EXCHANGE_SITE, at_ms__gte=period.begin_ms, at_ms__lt=period.end_ms
    )
    for queue in known.values_list("queue", flat=True).distinct().order_by():
        rows = rows_of([queue], period, "day")
        whole = total_of(rows, period.begin_ms, period.end_ms)
        days = [row.parts.offered for row in rows]
        yield Use(f"queue:{queue}", days, whole.level.share, whole.parts.average_wait_ms)


def _counted(
    rows: QuerySet[Any], begins: Sequence[int], thing: str, sums: Any
) -> QuerySet[Any, tuple[str, int, int]]:
    """Things by day: the number of the day counts from 1."""
    days = Value(list(begins), output_field=ArrayField(BigIntegerField()))
    day = Func(F("at_ms"), days, function="width_bucket", output_field=IntegerField())
    found = rows.annotate(day=day).values_list(thing, "day").annotate(sums)
    return found.order_by()


def _by_day(kind: str, rows: QuerySet[Any, tuple[str, int, int]]) -> Iterator[Use]:
    found: defaultdict[str, list[int]] = defaultdict(lambda: [0] * DAYS)
    for thing, day, count in rows:
        found[thing][day - 1] += count
    for thing, days in found.items():
        yield Use(f"{kind}:{thing}", days)
