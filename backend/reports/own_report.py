"""A report of one's own: chosen figures of queues, agents, codes or numbers, side by side."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from callcore import wording
from reports.own_rows import SUBJECTS, USUAL, Head, Line, Within, cut, heads, rows_for

__all__ = ["MOST_COLUMNS", "ROWS", "Within", "chosen_heads", "cut", "report", "usual"]

ROWS = tuple(SUBJECTS)
MOST_COLUMNS = 20


def usual(rows: str) -> tuple[str, ...]:
    """The figures of such rows where none are chosen."""
    return USUAL[SUBJECTS[rows]]


def chosen_heads(rows: str, columns: Sequence[str]) -> list[Head]:
    """The figures with some keys.

    Raises:
        KeyError: such rows have no figure with such a key (any more).
    """
    known = heads(SUBJECTS[rows])
    return [known[key] for key in columns]


def report(rows: str, columns: Sequence[str], within: Within) -> dict[str, Any]:
    """The report; see `OwnReportSerializer` for its shape."""
    chosen = chosen_heads(rows, columns)
    lines, total = rows_for(rows, within)
    return {
        "begin_ms": within.period.begin_ms,
        "end_ms": within.period.end_ms,
        "columns": [head._asdict() for head in chosen],
        "rows": [_told(line, columns) for line in lines],
        "total": _told(total, columns),
        "sentence": _sentence(lines, chosen[0], rows) if total.counted else "",
    }


def _told(line: Line, columns: Sequence[str]) -> dict[str, Any]:
    return {"label": line.label, "figures": {key: line.figures[key] for key in columns}}


def _sentence(lines: Sequence[Line], head: Head, rows: str) -> str:
    """The most and the least of the first figure; nothing where no two rows have one."""
    known = [
        (value, line.label)
        for line in lines
        if line.counted and (value := line.figures[head.key]) is not None
    ]
    if len(known) < 2:
        return ""
    most, least = max(known, key=lambda one: one[0]), min(known, key=lambda one: one[0])
    if most[0] == least[0]:
        return ""
    return f"{head.name}: most {_of(*most, head, rows)}, least {_of(*least, head, rows)}."


def _of(value: float, label: str, head: Head, rows: str) -> str:
    said = {"share": wording.share(value), "ms": wording.length(value)}
    where = {"weekday": "on"}.get(rows, "of" if rows in _NAMED else "at")
    return f"{where} {label} ({said.get(head.unit, f'{value:,.0f}')})"


#: Rows that have a name; the others are times.
_NAMED = ("queue", "agent", "team", "code", "number")
