"""Every report as one table: what is handed out as a file is what the page shows."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, NamedTuple

from callcore.measures.catalogue import QUEUE_MEASURES
from callcore.measures.sums import SUMS, Subject
from exchange.services import site_clock_ms
from reports import (
    agents_report,
    codes_report,
    flow_report,
    hours_report,
    own_report,
    queue_report,
    usage_report,
)
from reports.asking import Asked, asked_by, asked_columns, asked_ids, asked_period, asked_rows
from reports.models import counted_to_ms
from reports.own_rows import Within
from reports.sheets import Column, Table

KINDS = ("queues", "codes", "agents", "flows", "hours", "usage", "own")
_DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
_ROWS_ARE = {
    "15": "quarter-hours",
    "30": "half hours",
    "60": "hours",
    "day": "days",
    "week": "weeks",
    "month": "months",
}


class Reader(NamedTuple):
    """Who reads a report: the agents whose days they may look at."""

    agents: list[str]


def table_of(kind: str, asked: Asked, reader: Reader) -> Table:
    """A report as a table.

    Raises:
        Problem: what is asked cannot be.
    """
    return _TABLES[kind](asked, reader)


def _summed(subject: Subject) -> tuple[list[Column], Callable[[Mapping[str, Any]], list[Any]]]:
    """The columns of every figure of a subject, and how to read them off a row."""
    figures = SUMS[subject].values()
    heads = [Column(one.name, one.unit, one.words(subject)) for one in figures]
    return heads, lambda row: [row[one.key] for one in figures]


def _queues(asked: Asked, _reader: Reader) -> Table:
    by = asked_by(asked)
    told = queue_report.report(asked_ids(asked, "queues"), asked_period(asked, by), by, counted_to_ms())
    formulas = ", ".join(sorted({limit["formula"] for limit in told["limits"]}))
    columns = [
        Column("From", "moment"),
        Column("Until", "moment"),
        Column("Service level", "share", f"By the formula that the queue has chosen: {formulas}"),
        *(Column(m.name, m.unit, f"{m.sentence} = {m.formula}") for m in QUEUE_MEASURES.values()),
    ]
    rows = [
        (
            row["begin_ms"],
            row["end_ms"],
            row["figures"][queue_report.LEVEL],
            *(row["figures"][key] for key in QUEUE_MEASURES),
        )
        for row in (*told["rows"], told["total"])
    ]
    names = ", ".join(queue["name"] for queue in told["queues"]) or "All queues"
    return Table(f"{names} by {_ROWS_ARE[by]}", columns, rows, total=True)


def _codes(asked: Asked, _reader: Reader) -> Table:
    told = codes_report.report(asked_ids(asked, "queues"), asked_period(asked))
    heads, cells = _summed("codes")
    rows = [(row["name"], *cells(row)) for row in (*told["codes"], told["total"])]
    return Table("Wrap-up codes", [Column("Code", "text"), *heads], rows, total=True)


def _agents(asked: Asked, reader: Reader) -> Table:
    told = agents_report.report(reader.agents, asked_period(asked), site_clock_ms())
    heads, cells = _summed("agents")
    columns = [Column("Agent", "text"), Column("Team", "text"), *heads]
    everybody = (*told["rows"], {**told["total"], "name": "All of them"})
    rows = [(row["name"], row["team"], *cells(row)) for row in everybody]
    return Table("Agents", columns, rows, total=True)


def _flows(asked: Asked, _reader: Reader) -> Table:
    flows = asked_ids(asked, "flow")
    told = flow_report.report(flows[0] if flows else "", asked_period(asked))
    columns = [
        Column("Stop", "text"),
        Column("What it does", "text"),
        Column("Left by", "text"),
        Column("Callers", "count"),
        Column("Share", "share", "Of those who came to the stop"),
        Column("Average time at the stop", "ms"),
    ]
    rows = [
        (
            stop["name"],
            stop["sentence"],
            way.get("label") or way.get("ending"),
            way["count"],
            way["share"],
            stop["average_ms"],
        )
        for stop in told["stops"]
        for way in (*stop["arms"], *stop["ends"])
    ]
    return Table(told["name"], columns, rows)


def _hours(asked: Asked, _reader: Reader) -> Table:
    told = hours_report.report(asked_ids(asked, "queues"), asked_period(asked, "60"))
    columns = [
        Column("Weekday", "text"),
        Column("Hour", "count"),
        Column("Offered", "count"),
        Column("Abandoned", "count"),
        Column("Service level", "share"),
    ]
    rows = [
        (_DAYS[cell["weekday"]], cell["hour"], cell["offered"], cell["abandoned"], cell["level"])
        for cell in told["cells"]
    ]
    return Table("When it is busy", columns, rows)


def _usage(asked: Asked, _reader: Reader) -> Table:
    told = usage_report.report(asked_period(asked))
    heads, cells = _summed("numbers")
    columns = [Column("Number", "text"), Column("Label", "text"), *heads]
    used = (*told["numbers"], told["numbers_total"])
    rows = [(row["address"], row["label"], *cells(row)) for row in used]
    return Table("Numbers", columns, rows, total=True)


def own(asked: Asked, reader: Reader) -> dict[str, Any]:
    """A report of one's own, as it is asked for."""
    rows = asked_rows(asked)
    period = asked_period(asked, own_report.cut(rows), by_name="rows")
    within = Within(asked_ids(asked, "queues"), reader.agents, period, site_clock_ms())
    return own_report.report(rows, asked_columns(asked, rows), within)


def _own(asked: Asked, reader: Reader) -> Table:
    told = own(asked, reader)
    columns = [Column("Row", "text"), *(Column(c["name"], c["unit"], c["words"]) for c in told["columns"])]
    keys = [column["key"] for column in told["columns"]]
    rows = [(row["label"], *(row["figures"][key] for key in keys)) for row in (*told["rows"], told["total"])]
    return Table("Put together", columns, rows, total=True)


_TABLES: dict[str, Callable[[Asked, Reader], Table]] = {
    "queues": _queues,
    "codes": _codes,
    "agents": _agents,
    "flows": _flows,
    "hours": _hours,
    "usage": _usage,
    "own": _own,
}
