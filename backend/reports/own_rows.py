"""What a report of one's own can be of: its rows, and the figures that they can have."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from datetime import datetime
from typing import Any, Literal, NamedTuple
from zoneinfo import ZoneInfo

from callcore import wording
from callcore.measures.catalogue import QUEUE_MEASURES, Unit
from callcore.measures.sums import SUMS
from reports import agents_report, codes_report, usage_report
from reports.period import BYS, By, Period
from reports.queue_report import LEVEL, figures_of, queues_named
from reports.queue_rows import Row, by_queue, rows_of, total_of

Subject = Literal["queues", "agents", "codes", "numbers"]
#: What a row is of: by it, whose figures it has. Stretches of time are cut of queues' figures.
SUBJECTS: dict[str, Subject] = {
    "queue": "queues",
    "weekday": "queues",
    "hour": "queues",
    **dict.fromkeys(BYS, "queues"),
    "agent": "agents",
    "team": "agents",
    "code": "codes",
    "number": "numbers",
}
#: What is shown where nothing is chosen.
USUAL: dict[Subject, tuple[str, ...]] = {
    "queues": ("offered", "answered", "abandoned", LEVEL, "wait_average"),
    "agents": ("legs", "signed_in_ms", "occupancy", "handle_average_ms", "missed"),
    "codes": ("legs", "share", "handed_on", "handle_average_ms"),
    "numbers": ("arrived", "person", "hung_up", "average_ms"),
}
_DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
Figures = Mapping[str, float | None]


class Head(NamedTuple):
    """A figure that can be chosen."""

    key: str
    name: str
    short: str
    unit: Unit
    words: str


class Within(NamedTuple):
    """What a report is asked with: some queues (none for all), the agents that its reader may look
    at, days, and the moment that it is asked at (ms)."""

    queues: Sequence[str]
    agents: Sequence[str]
    period: Period
    now_ms: int


class Line(NamedTuple):
    """A row: `counted` where there was anything at all."""

    label: str
    figures: Figures
    counted: bool


class Rows(NamedTuple):
    """The rows of a report, and all of them together."""

    lines: list[Line]
    total: Line


_LEVEL = Head(LEVEL, "Service level", "Level", "share", "By the formula that each queue has chosen")


def heads(subject: Subject) -> dict[str, Head]:
    """Every figure that rows of a subject can have, by its key."""
    if subject != "queues":
        figures = SUMS[subject].values()
        return {one.key: Head(*one[:4], one.words(subject)) for one in figures}
    own = {
        m.key: Head(m.key, m.name, m.short, m.unit, f"{m.sentence} = {m.formula}")
        for m in QUEUE_MEASURES.values()
    }
    return {LEVEL: _LEVEL, **own}


def cut(rows: str) -> By:
    """How a period is cut for such rows."""
    return rows if rows in BYS else "day"


def rows_for(rows: str, within: Within) -> Rows:
    """The rows of a report."""
    if rows in _QUEUE_ROWS or rows in BYS:
        return _of_queues(_QUEUE_ROWS.get(rows, _stretches(rows))(within), within.period)
    return _OTHERS[rows](within)


Labelled = list[tuple[str, Row]]


def _of_queues(labelled: Labelled, period: Period) -> Rows:
    whole = total_of((row for _, row in labelled), period.begin_ms, period.end_ms)
    return Rows([_line(label, row) for label, row in labelled], _line("All", whole))


def _line(label: str, row: Row) -> Line:
    return Line(label, figures_of(row), bool(row.parts.offered))


def _by_queue(within: Within) -> Labelled:
    counted = by_queue(within.queues, within.period)
    named = {known.id: known.name for known in queues_named(within.queues or [])}
    gone = {queue: "A queue that is gone" for queue in counted if queue not in named}
    everything = {**named, **gone}
    rows = [(name, counted.get(queue, Row(0, 0))) for queue, name in everything.items()]
    return sorted(rows, key=lambda one: one[0])


def _by(part: Callable[[datetime], int], names: Sequence[str]) -> Callable[[Within], Labelled]:
    def rows(within: Within) -> Labelled:
        local = ZoneInfo(within.period.zone)
        found: dict[int, Row] = {}
        for row in rows_of(within.queues, within.period, "60"):
            at = part(datetime.fromtimestamp(row.begin_ms / 1000, local))
            found.setdefault(at, Row(0, 0)).take_in(row)
        # Only those that are asked for: what is filtered out is no row of zeros.
        return [(names[at], found[at]) for at in sorted(found)]

    return rows


def _stretches(by: str) -> Callable[[Within], Labelled]:
    whole_days = by in ("day", "week", "month")

    def rows(within: Within) -> Labelled:
        found, zone = rows_of(within.queues, within.period, cut(by)), within.period.zone
        return [
            (
                wording.day(row.begin_ms, zone, year=True)
                if whole_days
                else wording.moment(row.begin_ms, zone),
                row,
            )
            for row in found
        ]

    return rows


_HOURS = [f"{hour:02}:00 – {hour + 1:02}:00" for hour in range(24)]
_QUEUE_ROWS: dict[str, Callable[[Within], Labelled]] = {
    "queue": _by_queue,
    "weekday": _by(datetime.weekday, _DAYS),
    "hour": _by(lambda at: at.hour, _HOURS),
}


def _of_agents(within: Within) -> Rows:
    told = agents_report.report(within.agents, within.period, within.now_ms)
    lines = [Line(row["name"], row, bool(row["signed_in_ms"])) for row in told["rows"]]
    return Rows(lines, Line("All", told["total"], bool(lines)))


def _of_teams(within: Within) -> Rows:
    told = agents_report.report(within.agents, within.period, within.now_ms)
    teams: defaultdict[str, list[dict[str, Any]]] = defaultdict(list)
    for row in told["rows"]:
        teams[row["team"] or "Without a team"].append(row)
    lines = [Line(team, agents_report.total_of(rows), True) for team, rows in sorted(teams.items())]
    return Rows(lines, Line("All", told["total"], bool(lines)))


def _of_codes(within: Within) -> Rows:
    told = codes_report.report(within.queues, within.period)
    return Rows(
        [Line(row["name"], row, True) for row in told["codes"]],
        Line("All", told["total"], bool(told["legs"])),
    )


def _of_numbers(within: Within) -> Rows:
    used = usage_report.numbers(within.period)
    lines = [Line(f"{row['label']} {row['number']}", row, bool(row["arrived"])) for row in used]
    total = usage_report.total_of(used)
    return Rows(lines, Line("All", total, bool(total["arrived"])))


_OTHERS: dict[str, Callable[[Within], Rows]] = {
    "agent": _of_agents,
    "team": _of_teams,
    "code": _of_codes,
    "number": _of_numbers,
}
