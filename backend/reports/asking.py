"""What a report is asked with, read from the address."""

from __future__ import annotations

import re
from collections.abc import Mapping
from datetime import date, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from django.conf import settings
from drf_spectacular.utils import OpenApiParameter

from exchange.services import site_clock_ms
from reports import own_report
from reports.period import BYS, By, Impossible, Period, period
from web.problems import bad_request

#: Days by words, as pairs of days from today and of how many back they end.
_WORDS = ("today", "yesterday", "7days", "28days", "this_week", "last_week", "this_month", "last_month")
Asked = Mapping[str, str]
_IDENTITY = re.compile(r"[0-9a-f-]{36}")
_MOST_QUEUES = 200

PERIOD = ("period", "first", "last", "weekdays", "from", "until")
PERIOD_PARAMETERS = [
    OpenApiParameter(
        "period",
        str,
        enum=list(_WORDS),
        description="Days by words, in place of "
        "`first` and `last`; the last seven days where nothing is said.",
    ),
    OpenApiParameter(
        "first", {"type": "string", "format": "date"}, description="The first day, by the centre's clock."
    ),
    OpenApiParameter("last", {"type": "string", "format": "date"}, description="The last day."),
    OpenApiParameter("weekdays", str, description="Only these, Monday being 0: “0,1,4”."),
    OpenApiParameter("from", str, description="Only from this time of the day on: “08:00”."),
    OpenApiParameter("until", str, description="Only up to this time of the day: “18:00”."),
]
BY_PARAMETER = OpenApiParameter(
    "by", str, enum=list(BYS), description="How long a row is: minutes, or a word."
)


def asked_period(asked: Asked, by: By = "day", *, by_name: str = "by") -> Period:
    """The days that are asked for; `by_name` asks how they are cut."""
    zone = settings.CENTRE_TIME_ZONE
    first, last = _days(asked.get("period", ""), asked.get("first"), asked.get("last"))
    try:
        return period(
            first,
            last,
            zone,
            _weekdays(asked.get("weekdays", "")),
            _minutes("from", asked.get("from") or "00:00"),
            _minutes("until", asked.get("until") or "24:00"),
            by,
        )
    except Impossible as error:
        field = by_name if error.field == "by" else error.field
        raise bad_request(str(error), **{field: [str(error)]}) from None


def asked_by(asked: Asked) -> By:
    """How long a row is."""
    by = asked.get("by", "day")
    if by not in BYS:
        raise _wrong("by", f"Rows are one of {', '.join(BYS)} long.")
    return by


def asked_rows(asked: Asked) -> str:
    """What a row of one's own report is of."""
    rows = asked.get("rows", "queue")
    if rows not in own_report.ROWS:
        raise _wrong("rows", f"Rows are of one of {', '.join(own_report.ROWS)}.")
    return rows


def asked_columns(asked: Asked, rows: str) -> list[str]:
    """The figures of one's own report with such rows, by their keys."""
    keys = [key for key in asked.get("columns", "").split(",") if key] or [*own_report.usual(rows)]
    if len(keys) > own_report.MOST_COLUMNS or len(set(keys)) < len(keys):
        raise _wrong("columns", f"{own_report.MOST_COLUMNS} different figures at the most.")
    for key in keys:
        try:
            own_report.chosen_heads(rows, [key])
        except KeyError:
            words = f"There is no figure “{key[:40]}” of such rows (any more)."
            raise _wrong("columns", words) from None
    return keys


def asked_ids(asked: Asked, name: str) -> list[str]:
    """Ids of things, by commas; none for all."""
    found = [part for part in asked.get(name, "").split(",") if part]
    if len(found) > _MOST_QUEUES or not all(map(_IDENTITY.fullmatch, found)):
        raise _wrong(name, "These are no ids.")
    return found


def asked_moment(asked: Asked, name: str, within: Period) -> int:
    """A moment (ms) within a period; its beginning or end where nothing is said."""
    said = asked.get(name)
    if said is None:
        return within.begin_ms if name == "begin_ms" else within.end_ms
    if not said.isascii() or not said.isdigit() or len(said) > 15:
        raise _wrong(name, "A moment is a whole number of milliseconds.")
    if not within.begin_ms <= int(said) <= within.end_ms:
        raise _wrong(name, "This lies outside of the days that are asked for.")
    return int(said)


def asked_count(asked: Asked, name: str, usual: int, most: int) -> int:
    """A whole number from 0 on."""
    said = asked.get(name)
    if said is None:
        return usual
    if not said.isascii() or not said.isdigit() or len(said) > 9 or int(said) > most:
        raise _wrong(name, f"This is a whole number up to {most}.")
    return int(said)


def today() -> date:
    """By the centre's clock."""
    zone = ZoneInfo(settings.CENTRE_TIME_ZONE)
    return datetime.fromtimestamp(site_clock_ms() / 1000, zone).date()


def days_of(word: str, now: date) -> tuple[date, date]:
    """The first and the last day of a period in words.

    Raises:
        KeyError: there is none of this name.
    """
    day = timedelta(days=1)
    monday, first = now - now.weekday() * day, now.replace(day=1)
    last_month = (first - day).replace(day=1)
    return {
        "today": (now, now),
        "yesterday": (now - day, now - day),
        "7days": (now - 7 * day, now - day),
        "28days": (now - 28 * day, now - day),
        "this_week": (monday, now),
        "last_week": (monday - 7 * day, monday - day),
        "this_month": (first, now),
        "last_month": (last_month, first - day),
    }[word]


def _days(word: str, first: str | None, last: str | None) -> tuple[date, date]:
    if word:
        if word not in _WORDS:
            raise _wrong("period", f"A period is one of {', '.join(_WORDS)}.")
        return days_of(word, today())
    if not first and not last:
        return days_of("7days", today())
    begins = day_of("first", first or last)
    return begins, day_of("last", last or first)


def day_of(name: str, said: Any) -> date:
    """The day that a parameter names.

    Raises:
        Problem: it names none.
    """
    try:
        return date.fromisoformat(str(said))
    except ValueError:
        raise _wrong(name, "A day is written like 2026-11-30.") from None


def _weekdays(said: str) -> set[int]:
    parts = [part for part in said.split(",") if part]
    if not all(len(part) == 1 and part in "0123456" for part in parts):
        raise _wrong("weekdays", "Weekdays are 0 (Monday) to 6, by commas.")
    return {int(part) for part in parts}


def _minutes(name: str, said: str) -> int:
    if not re.fullmatch(r"([01]\d|2[0-4]):[0-5]\d", said) or said > "24:00":
        raise _wrong(name, "A time of the day is written like 08:30.")
    return int(said[:2]) * 60 + int(said[3:])


def _wrong(name: str, words: str) -> Exception:
    return bad_request(words, **{name: [words]})
