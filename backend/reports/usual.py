"""What is usual at a moment: the same weekday of the last four weeks, up to the same time of day.

Means of the days on which anybody called; a service level and an average wait are made of all
parts together, never of the days' own shares.
"""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Any, NamedTuple
from zoneinfo import ZoneInfo

from django.conf import settings
from django.db.models import Sum

from callcore.measures.rows import INTERVAL_MS
from callcore.measures.tallies import Counted
from reports.models import Leg, QueueInterval, TallyInterval
from reports.period import Period, period
from reports.queue_rows import Row, rows_of

WEEKS = 4
_HOUR_MS = 3_600_000
_COUNTS = ("offered", "answered", "abandoned", "answered_late")


class Then(NamedTuple):
    """This moment on an earlier day: the day, and the moment itself (ms)."""

    day: Period
    at_ms: int


def then(now_ms: int, zone: str) -> list[Then]:
    """The same weekday and time of day in the weeks before, where anybody called on that day."""
    local = datetime.fromtimestamp(now_ms / 1000, ZoneInfo(zone))
    found = []
    for week in range(1, WEEKS + 1):
        # By the wall's clock, also where it was put on or back in between.
        at = datetime.combine(local.date() - timedelta(weeks=week), local.time(), local.tzinfo)
        one = Then(period(at.date(), at.date(), zone), round(at.timestamp() * 1000))
        if _arrived(one.day.begin_ms, one.day.end_ms):
            found.append(one)
    return found


def _counted(what: Counted, begin_ms: int, end_ms: int) -> Any:
    site = settings.EXCHANGE_SITE
    return TallyInterval.objects.filter(site=site, what=str(what), at_ms__gte=begin_ms, at_ms__lt=end_ms)


def _sum(rows: Any, column: str = "count") -> int:
    return int(rows.aggregate(all=Sum(column))["all"] or 0)


def _arrived(begin_ms: int, end_ms: int) -> int:
    return _sum(_counted(Counted.NUMBER, begin_ms, end_ms).filter(detail="arrived"))


def of_centre(now_ms: int, zone: str) -> dict[str, Any]:
    """How many contacts had arrived by now, and what happened at each stage in the hour before."""
    days = then(now_ms, zone)
    hours = [_stages(one.at_ms // INTERVAL_MS * INTERVAL_MS) for one in days]
    return {
        "days": len(days),
        "arrived": _mean([_arrived(one.day.begin_ms, one.at_ms) for one in days]),
        "stages": {stage: _mean([hour[stage] for hour in hours]) for stage in STAGES} if days else {},
    }


#: The stages of a caller's journey of which something is counted.
STAGES = ("arrive", "guide", "wait", "talk", "wrap", "learn")


def _stages(until_ms: int) -> dict[str, int]:
    begin_ms, site = until_ms - _HOUR_MS, settings.EXCHANGE_SITE
    numbers = _counted(Counted.NUMBER, begin_ms, until_ms)
    queues = QueueInterval.objects.filter(site=site, at_ms__gte=begin_ms, at_ms__lt=until_ms)
    legs = Leg.objects.filter(site=site, answered_ms__gte=begin_ms, answered_ms__lt=until_ms)
    return {
        "arrive": _sum(numbers.filter(detail="arrived")),
        "guide": _sum(_counted(Counted.ARM, begin_ms, until_ms)),
        "wait": _sum(queues, "offered"),
        "talk": legs.count(),
        "wrap": legs.exclude(code="").count(),
        "learn": _sum(numbers.exclude(detail="arrived")),
    }


def of_queues(queues: Sequence[str], now_ms: int, zone: str) -> dict[str, Any]:
    """A queue's figures by this time of day, and how many were offered in each hour."""
    days = then(now_ms, zone)
    by_now, counts, hours = Row(0, 0), dict.fromkeys(_COUNTS, 0.0), [0.0] * 24
    for one in days:
        for row in rows_of(queues, one.day, "15"):
            local = datetime.fromtimestamp(row.begin_ms / 1000, ZoneInfo(zone))
            hours[local.hour] += row.parts.offered / len(days)
            # Of the interval that runs now, as much as has passed of it.
            passed = min(1.0, (one.at_ms - row.begin_ms) / INTERVAL_MS)
            if passed > 0:
                by_now.take_in(row)
                for name in _COUNTS:
                    counts[name] += passed * getattr(row.parts, name) / len(days)
    return {
        "days": len(days),
        "until_ms": now_ms,
        "figures": {**counts, "level": by_now.level.share, "wait_average_ms": by_now.parts.average_wait_ms}
        if days
        else None,
        "hours": hours,
    }


def _mean(counts: Sequence[int]) -> float | None:
    return sum(counts) / len(counts) if counts else None
