"""Every report as one table: what is handed out as a file is what the page shows."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from callcore.measures.catalogue import QUEUE_MEASURES
from exchange.services import site_clock_ms
from reports import (
    agents_report,
    codes_report,
    flow_report,
    hours_report,
    queue_report,
    usage_report,
)
from reports.asking import Asked, asked_by, asked_ids, asked_period
from reports.models import counted_to_ms
from reports.sheets import Column, Table

KINDS = ("queues", "codes", "agents", "flows", "hours", "usage")
_DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
_ROWS_ARE = {"15": "quarter-hours", "30": "half hours", "60": "hours", "day": "days",
             "week": "weeks", "month": "months"}  # fmt: skip


class Reader(NamedTuple):
    """Who reads a report: the agents whose days they may look at."""

    agents: list[str]


def table_of(kind: str, asked: Asked, reader: Reader) -> Table:
    """A report as a table.

    Raises:
        Problem: what is asked cannot be.
    """
    return _TABLES[kind](asked, reader)


def _queues(asked: Asked, _reader: Reader) -> Table:
    by = asked_by(asked)
    told = queue_report.report(
        asked_ids(asked, "queues"), asked_period(asked, by), by, counted_to_ms()
    )
    formulas = ", ".join(sorted({limit["formula"] for limit in told["limits"]}))
    columns = [
        Column("From", "moment"), Column("Until", "moment"),
        Column("Service level", "share", f"By the formula that the queue has chosen: {formulas}"),
        *(Column(m.name, m.unit, f"{m.sentence} = {m.formula}") for m in QUEUE_MEASURES.values()),
    ]  # fmt: skip
    rows = [
        (row["begin_ms"], row["end_ms"], row["figures"][queue_report.LEVEL],
         *(row["figures"][key] for key in QUEUE_MEASURES))
        for row in (*told["rows"], told["total"])
    ]  # fmt: skip
    names = ", ".join(queue["name"] for queue in told["queues"]) or "All queues"
    return Table(f"{names} by {_ROWS_ARE[by]}", columns, rows)


def _codes(asked: Asked, _reader: Reader) -> Table:
    told = codes_report.report(asked_ids(asked, "queues"), asked_period(asked))
    columns = [
        Column("Code", "text"), Column("Parts", "count", "Agents' parts that have it"),
        Column("Share", "share", "Of all parts"),
        Column("First parts", "count", "Of these, the first ones of their contacts"),
        Column("Passed on", "count", "Of these, sent on to somebody else"),
        Column("Average talk", "ms"), Column("Average hold", "ms"), Column("Average wrap-up", "ms"),
    ]  # fmt: skip
    names = ("name", "legs", "share", "first_legs", "handed_on", "talk_ms", "hold_ms", "wrap_ms")
    return Table("Wrap-up codes", columns, [tuple(row[n] for n in names) for row in told["codes"]])


def _agents(asked: Asked, reader: Reader) -> Table:
    told = agents_report.report(reader.agents, asked_period(asked), site_clock_ms())
    columns = [
        Column("Agent", "text"), Column("Team", "text"),
        Column("Signed in", "ms", "All states together"), Column("On contact", "ms"),
        Column("Wrapping up", "ms"), Column("Ringing", "ms"), Column("Available", "ms"),
        Column("Away", "ms"),
        Column("Occupancy", "share", "On contact and wrapping up, of these and available and "
               "ringing"),
        Column("Contacts", "count", "Parts of contacts that they had"),
        Column("Average handle time", "ms", "Talk, hold and wrap-up, over their parts"),
        Column("Talk", "ms"), Column("Hold", "ms"), Column("Wrap-up", "ms"),
        Column("Passed on", "count"), Column("Rings", "count"), Column("Rings missed", "count"),
        Column("Coded", "share", "Parts that have a code"),
    ]  # fmt: skip
    names = ("name", "team", "signed_in_ms", "on_contact_ms", "wrapping_ms", "ringing_ms",
             "available_ms", "away_ms", "occupancy", "legs", "handle_average_ms", "talk_ms",
             "hold_ms", "wrap_ms", "handed_on", "rang", "missed", "coded_share")  # fmt: skip
    rows = [tuple(row[name] for name in names) for row in (*told["rows"], told["total"])]
    return Table("Agents", columns, rows)


def _flows(asked: Asked, _reader: Reader) -> Table:
    flows = asked_ids(asked, "flow")
    told = flow_report.report(flows[0] if flows else "", asked_period(asked))
    columns = [
        Column("Stop", "text"), Column("What it does", "text"), Column("Left by", "text"),
        Column("Callers", "count"), Column("Share", "share", "Of those who came to the stop"),
        Column("Average time at the stop", "ms"),
    ]  # fmt: skip
    rows = [
        (stop["name"], stop["sentence"], way.get("label") or way.get("ending"), way["count"],
         way["share"], stop["average_ms"])
        for stop in told["stops"]
        for way in (*stop["arms"], *stop["ends"])
    ]  # fmt: skip
    return Table(told["name"], columns, rows)


def _hours(asked: Asked, _reader: Reader) -> Table:
    told = hours_report.report(asked_ids(asked, "queues"), asked_period(asked, "60"))
    columns = [
        Column("Weekday", "text"), Column("Hour", "count"), Column("Offered", "count"),
        Column("Abandoned", "count"), Column("Service level", "share"),
    ]  # fmt: skip
    rows = [(_DAYS[cell["weekday"]], cell["hour"], cell["offered"], cell["abandoned"],
             cell["level"]) for cell in told["cells"]]  # fmt: skip
    return Table("When it is busy", columns, rows)


def _usage(asked: Asked, _reader: Reader) -> Table:
    told = usage_report.report(asked_period(asked))
    columns = [
        Column("Number", "text"), Column("Label", "text"), Column("Contacts", "count"),
        Column("With a person", "count"), Column("Hung up", "count"), Column("Message", "count"),
        Column("Callback", "count"), Column("Sent elsewhere", "count"),
        Column("Ended by us", "count"), Column("Average length", "ms"),
    ]  # fmt: skip
    names = ("address", "label", "arrived", "person", "hung_up", "message", "callback", "elsewhere",
             "ended", "average_ms")  # fmt: skip
    return Table("Numbers", columns, [tuple(row[n] for n in names) for row in told["numbers"]])


_TABLES: dict[str, Callable[[Asked, Reader], Table]] = {
    "queues": _queues, "codes": _codes, "agents": _agents, "flows": _flows, "hours": _hours,
    "usage": _usage,
}  # fmt: skip
