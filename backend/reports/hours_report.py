"""When it is busy and when the goal is missed: by hour and weekday; and how long those waited who
gave up."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from django.conf import settings
from django.db.models import Count, F

from callcore.measures.rows import below_goal
from reports.models import Stay
from reports.period import Period
from reports.queue_report import goal_of, queues_named
from reports.queue_rows import Row, rows_of
from reports.tally_rows import within

_DAYS = ("Mondays", "Tuesdays", "Wednesdays", "Thursdays", "Fridays", "Saturdays", "Sundays")
#: Waits are counted in stretches of this length, up to the last, which holds all longer ones.
BIN_MS, BINS = 15_000, 40
#: An hour is judged from so many contacts on.
_JUDGED_FROM = 10


def report(queues: Sequence[str], period: Period) -> dict[str, Any]:
    """The report; see `HoursReportSerializer` for its shape."""
    local = ZoneInfo(period.zone)
    cells: dict[tuple[int, int], Row] = {}
    for row in rows_of(queues, period, "60"):
        at = datetime.fromtimestamp(row.begin_ms / 1000, local)
        cells.setdefault((at.weekday(), at.hour), Row(0, 0)).take_in(row)
    days = days_by_weekday(period)
    goal = goal_of(queues, queues_named(queues))
    told = [_cell(day, hour, row, days[day], goal) for (day, hour), row in sorted(cells.items())]
    return {
        "begin_ms": period.begin_ms,
        "end_ms": period.end_ms,
        "goal": goal,
        "cells": told,
        "bin_ms": BIN_MS,
        **_waits(queues, period),
        "sentence": _sentence(told, goal),
    }


def days_by_weekday(period: Period) -> list[int]:
    """How many days of each weekday a period has."""
    counts = [0] * 7
    for begins, _ in period.buckets("day"):
        noon = begins / 1000 + 43_200
        counts[datetime.fromtimestamp(noon, ZoneInfo(period.zone)).weekday()] += 1
    return counts


def _cell(day: int, hour: int, row: Row, days: int, goal: float | None) -> dict[str, Any]:
    return {
        "weekday": day,
        "hour": hour,
        "offered": row.parts.offered,
        "a_day": row.parts.offered / days if days else 0.0,
        "level": row.level.share,
        "below_goal": below_goal(row.level.share, goal),
        "abandoned": row.parts.abandoned,
    }


def _waits(queues: Sequence[str], period: Period) -> dict[str, list[int]]:
    """How many waited how long, of those who were answered and of those who gave up."""
    stretches = period.stretches(period.begin_ms, period.end_ms)
    rows = Stay.objects.filter(site=settings.EXCHANGE_SITE, outcome__in=("answered", "abandoned")).filter(
        within("entered_ms", stretches)
    )
    rows = rows.filter(queue__in=queues) if queues else rows
    counts = {"answered": [0] * BINS, "abandoned": [0] * BINS}
    binned = rows.annotate(bin=F("wait_ms") / BIN_MS).values_list("outcome", "bin").order_by()
    for outcome, number, count in binned.annotate(Count("pk")):
        counts[outcome][min(BINS - 1, number)] += count
    return counts


def _sentence(cells: Sequence[dict[str, Any]], goal: float | None) -> str:
    judged = [c for c in cells if c["offered"] >= _JUDGED_FROM and c["level"] is not None]
    if not judged:
        return ""
    busiest = max(cells, key=lambda c: c["a_day"])
    lead = f"Busiest on {_when(busiest)}: {busiest['a_day']:.0f} an hour"
    worst = min(judged, key=lambda c: c["level"])
    if goal is not None and not worst["below_goal"]:
        return f"{lead}. The goal is met in every hour."
    return f"{lead}. Callers wait longest on {_when(worst)}: {worst['level'] * 100:.0f} % in time."


def _when(cell: dict[str, Any]) -> str:
    return f"{_DAYS[cell['weekday']]} from {cell['hour']}:00"
