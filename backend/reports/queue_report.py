"""How a queue did, by days or shorter: rows, totals, the period before, and what it says."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any, NamedTuple
from zoneinfo import ZoneInfo

from callcore.measures.catalogue import PARTS, QUEUE_MEASURES, Measure
from callcore.measures.rows import COLUMNS, FORMULAS, Formula, Term, below_goal
from queues.services import settings as queue_settings
from reports.period import By, Period
from reports.queue_rows import Row, rows_of, stretch, total, total_of

#: The figure that goes by each queue's own formula.
LEVEL = "level"
_ROWS_ARE = {
    "15": "quarter-hours",
    "30": "half hours",
    "60": "hours",
    "day": "days",
    "week": "weeks",
    "month": "months",
}


class Known(NamedTuple):
    """What a queue that is reported on is set to now."""

    id: str
    name: str
    goal: float


def goal_of(queues: Sequence[str], named: Sequence[Known]) -> float | None:
    """The goal that a report is held against: that of the one queue it is of, or none."""
    return named[0].goal if len(queues) == 1 else None


def queues_named(identities: Sequence[str]) -> list[Known]:
    """The queues of some ids, or all; one that is gone has no name."""
    known = {q.id: Known(q.id, q.name, q.goal_percent / 100) for q in queue_settings()}
    if not identities:
        return sorted(known.values(), key=lambda q: q.name)
    return [known.get(name, Known(name, "a queue that is gone", 0.0)) for name in identities]


def report(queues: Sequence[str], period: Period, by: By, counted_to_ms: int) -> dict[str, Any]:
    """The report; see `QueueReportSerializer` for its shape."""
    rows = rows_of(queues, period, by)
    whole = total_of(rows, period.begin_ms, period.end_ms)
    before = total(queues, period.before())
    named = queues_named(queues)
    goal = goal_of(queues, named)
    return {
        "queues": [{"id": q.id, "name": q.name} for q in named] if queues else [],
        "begin_ms": period.begin_ms,
        "end_ms": period.end_ms,
        "counted_to_ms": counted_to_ms,
        "goal": goal,
        "limits": limits_of(whole),
        "rows": [_told(row, counted_to_ms, goal) for row in rows],
        "total": _told(whole, counted_to_ms, goal),
        "before": _told(before, counted_to_ms, goal),
        "sentence": _sentence(goal, rows, whole, by, period.zone),
    }


def limits_of(row: Row) -> list[dict[str, Any]]:
    """What counted as late, by which formulas, in a row: more than one where it was changed."""
    return [
        {
            "threshold_ms": limit.threshold_ms,
            "short_abandon_ms": limit.short_abandon_ms,
            "formula": limit.formula,
        }
        for limit in sorted(row.limits)
    ]


def figures_of(row: Row) -> dict[str, float | None]:
    """Every figure of a row, by key."""
    figures = {key: measure.value(row.parts) for key, measure in QUEUE_MEASURES.items()}
    return {**figures, LEVEL: row.level.share}


def _told(row: Row, counted_to_ms: int, goal: float | None) -> dict[str, Any]:
    return {
        "begin_ms": row.begin_ms,
        "end_ms": row.end_ms,
        "running": row.begin_ms <= counted_to_ms < row.end_ms,
        "figures": figures_of(row),
        "below_goal": below_goal(row.level.share, goal),
    }


def sum_behind(queues: Sequence[str], period: Period, begin_ms: int, end_ms: int, key: str) -> dict[str, Any]:
    """A figure of a row, with the parts that it is made of."""
    row = stretch(queues, period, begin_ms, end_ms)
    measure, words = measure_of(key, row)
    over, under = (measure.over, measure.under) if measure else ((), ())
    value = row.level.share if key == LEVEL else measure.value(row.parts) if measure else None
    level = key == LEVEL or key.startswith("level_")
    return {
        "key": key,
        "name": measure.name if measure else "Service level",
        "sentence": measure.sentence if measure else words,
        "formula": measure.formula if measure else words,
        "unit": measure.unit if measure else "share",
        "adds": measure.adds if measure else "parts",
        "value": value,
        "over": _terms(over, row),
        "under": _terms(under, row),
        "over_sum": row.parts.sum_of(over) if measure else row.level.part,
        "under_sum": (row.parts.sum_of(under) if measure else row.level.whole) if level or under else None,
        "limits": limits_of(row),
        "levels": [
            {"formula": formula, "words": FORMULAS[formula], "value": row.parts.service_level(formula)}
            for formula in FORMULAS
        ]
        if level
        else [],
        "parts": {name: getattr(row.parts, name) for name in COLUMNS},
    }


def measure_of(key: str, row: Row) -> tuple[Measure | None, str]:
    """The measure of a figure; none for a level by several formulas, and what is said of it."""
    if key != LEVEL:
        return QUEUE_MEASURES[key], ""
    formulas = {limit.formula for limit in row.limits}
    if len(formulas) > 1:
        words = "Each contact by the formula that counted when it came: those within, of all"
        return None, words
    formula: Formula = formulas.pop() if formulas else "A"
    return QUEUE_MEASURES[f"level_{formula}"], ""


def _terms(terms: Sequence[Term], row: Row) -> list[dict[str, Any]]:
    return [
        {"column": t.column, "name": PARTS[t.column], "sign": t.sign, "value": getattr(row.parts, t.column)}
        for t in terms
    ]


def _sentence(goal: float | None, rows: Sequence[Row], whole: Row, by: By, zone: str) -> str:
    """What the figures answer, where they answer something."""
    parts = whole.parts
    if not parts.offered:
        return ""
    answered = f"{_share(parts.answered / parts.offered)} of {parts.offered:,} were answered"
    if goal is None or whole.level.share is None:
        return f"{answered}, {parts.abandoned:,} abandoned."
    judged = [(row.level.share, row) for row in rows if row.level.share is not None]
    missed = [(share, row) for share, row in judged if below_goal(share, goal)]
    met = "missed" if below_goal(whole.level.share, goal) else "met"
    lead = f"Service level {_share(whole.level.share)}: the goal of {_share(goal)} was {met}"
    if not missed or len(judged) < 2:
        return f"{lead}; {answered}."
    worst = min(missed, key=lambda found: (found[0], -found[1].parts.offered))
    return (
        f"{lead}, and missed in {len(missed)} of {len(judged)} {_ROWS_ARE[by]}; lowest on "
        f"{_moment(worst[1].begin_ms, by, zone)}, {_share(worst[0])}."
    )


def _share(value: float) -> str:
    return f"{value * 100:.1f} %"


def _moment(at_ms: int, by: By, zone: str) -> str:
    local = datetime.fromtimestamp(at_ms / 1000, ZoneInfo(zone))
    return f"{local:%a} {local.day} {local:%b}" + (f", {local:%H:%M}" if by.isdigit() else "")
