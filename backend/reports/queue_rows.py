"""Rows of a queue, or of all, over a period: read from intervals, and put together."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple, cast

from django.conf import settings
from django.db.models import Max, QuerySet, Sum

from callcore.measures.rows import COLUMNS, LONGEST, Formula, Limits, QueueRow
from reports.models import QueueInterval
from reports.period import By, Period
from reports.tally_rows import within


def share_of(part: float, whole: float) -> float | None:
    """A part of a whole; None where there is nothing to divide by."""
    return part / whole if whole else None


class Level(NamedTuple):
    """A service level by the formula that counted when each contact was offered."""

    part: int = 0
    whole: int = 0

    @property
    def share(self) -> float | None:
        """From 0 to 1; None where there is nothing to divide by."""
        return share_of(self.part, self.whole)

    def plus(self, part: int, whole: int) -> Level:
        """With more of it."""
        return Level(self.part + part, self.whole + whole)


@dataclass(slots=True)
class Row:
    """A row of a report, from a moment to the next (ms). `limits`: all that counted in it."""

    begin_ms: int
    end_ms: int
    parts: QueueRow = field(default_factory=QueueRow)
    level: Level = field(default_factory=Level)
    limits: set[Limits] = field(default_factory=set)

    def add(self, parts: QueueRow, limits: Limits) -> None:
        """Take in a part of it."""
        self.parts.add(parts)
        self.level = self.level.plus(*parts.level_parts(limits.formula))
        if parts.offered:
            self.limits.add(limits)

    def take_in(self, other: Row) -> None:
        """Take in a whole other row."""
        self.parts.add(other.parts)
        self.level = self.level.plus(*other.level)
        self.limits |= other.limits


def rows_of(queues: Sequence[str], period: Period, by: By) -> list[Row]:
    """The rows of a period, one a bucket; all queues where none is named."""
    rows = [Row(begin, end) for begin, end in period.buckets(by)]
    begins = [row.begin_ms for row in rows]
    for at_ms, limits, parts in _intervals(queues, period.begin_ms, period.end_ms):
        number = bisect_right(begins, at_ms) - 1
        if number >= 0 and at_ms < rows[number].end_ms and period.counts(at_ms):
            rows[number].add(parts, limits)
    return rows


def total_of(rows: Iterable[Row], begin_ms: int, end_ms: int) -> Row:
    """All rows together: sums add, the longest is taken, shares are made of their parts."""
    whole = Row(begin_ms, end_ms)
    for row in rows:
        whole.take_in(row)
    return whole


def total(queues: Sequence[str], period: Period) -> Row:
    """A period in one row."""
    return total_of(rows_of(queues, period, "month"), period.begin_ms, period.end_ms)


def by_queue(queues: Sequence[str], period: Period) -> dict[str, Row]:
    """A period of each queue in one row."""
    found: dict[str, Row] = {}
    sums = {f"all_{n}": Max(n) if n in LONGEST else Sum(n) for n in COLUMNS}
    stretches = period.stretches(period.begin_ms, period.end_ms)
    rows = _of(queues).filter(within("at_ms", stretches)).order_by()
    by = ("queue", "threshold_ms", "short_abandon_ms", "formula")
    for queue, threshold_ms, short_ms, formula, *parts in rows.values_list(*by).annotate(**sums):
        row = found.setdefault(queue, Row(period.begin_ms, period.end_ms))
        row.add(QueueRow(*parts), Limits(threshold_ms, short_ms, cast(Formula, formula)))
    return found


def stretch(queues: Sequence[str], period: Period, begin_ms: int, end_ms: int) -> Row:
    """What of a part of a period counts, in one row."""
    whole = Row(begin_ms, end_ms)
    for at_ms, limits, parts in _intervals(queues, begin_ms, end_ms):
        if period.counts(at_ms):
            whole.add(parts, limits)
    return whole


def _intervals(queues: Sequence[str], begin_ms: int, end_ms: int) -> Iterable[tuple[int, Limits, QueueRow]]:
    by = ("at_ms", "threshold_ms", "short_abandon_ms", "formula")
    sums = {f"all_{n}": Max(n) if n in LONGEST else Sum(n) for n in COLUMNS}
    found = _of(queues).filter(at_ms__gte=begin_ms, at_ms__lt=end_ms)
    for row in found.values_list(*by).annotate(**sums).order_by("at_ms"):
        at_ms, threshold_ms, short_ms, formula = row[:4]
        limits = Limits(threshold_ms, short_ms, cast(Formula, formula))
        yield at_ms, limits, QueueRow(*row[4:])


def _of(queues: Sequence[str]) -> QuerySet[QueueInterval]:
    rows = QueueInterval.objects.filter(site=settings.EXCHANGE_SITE)
    return rows.filter(queue__in=queues) if queues else rows
