"""Exceptions of hours to and from iCalendar (RFC 5545)."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, date, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import icalendar
import recurring_ical_events

from callcore.errors import DefinitionError
from callcore.hours.plan import DAY, Exception_, Hours, Span, load

LARGEST = 1024 * 1024
MOST_EVENTS = 2000
AHEAD = timedelta(days=2 * 366)
#: Repeating more often than daily says nothing about opening hours, and never ends.
TOO_OFTEN = {"SECONDLY", "MINUTELY", "HOURLY"}


class NotACalendar(Exception):
    """The bytes are no calendar that can be taken in; the text says why."""


def read(data: bytes, zone: str, today: date) -> tuple[Exception_, ...]:
    """The exceptions that a calendar file stands for, in the order of their dates.

    Args:
        zone: the time zone of the hours; times are turned into it.
        today: repeating events are taken in from here to two years ahead.

    Raises:
        NotACalendar: in words for the person who chose the file.
    """
    if len(data) > LARGEST:
        raise NotACalendar("The file is larger than 1 MB.")
    try:
        calendar = icalendar.Calendar.from_ical(data)
        events = list(calendar.walk("VEVENT"))
        _refuse_endless(events)
        found = _collect(calendar, events, ZoneInfo(zone), today)
        rows = [
            {"name": name, "day": day, "yearly": yearly, "spans": _joined(spans)}
            for (day, yearly), (name, spans) in sorted(found.items())
        ]
        return load({"exceptions": rows}).exceptions
    except DefinitionError as error:
        raise NotACalendar(f"The calendar cannot be taken in: {error}.") from None
    except (ValueError, TypeError, KeyError, AttributeError, IndexError, OverflowError) as error:
        raise NotACalendar(
            f"This is not a calendar file (.ics) that can be read: {error}."
        ) from None


def write(hours: Hours, name: str) -> bytes:
    """A calendar file that `read` turns back into the same exceptions."""
    calendar = icalendar.Calendar()
    calendar.add("prodid", "-//Hazeridge//Opening hours//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", name)
    for exception in hours.exceptions:
        for number, span in enumerate(exception.spans or (None,)):
            calendar.add_component(_event(exception, span, number, hours.zone))
    return calendar.to_ical()


def _event(exception: Exception_, span: Span | None, number: int, zone: ZoneInfo) -> Any:
    event = icalendar.Event()
    yearly = "-yearly" if exception.yearly else ""
    event.add("uid", f"{exception.day}-{number}{yearly}@hazeridge")
    event.add("dtstamp", datetime(2000, 1, 1, tzinfo=UTC))
    event.add("summary", exception.name)
    if exception.yearly:
        event.add("rrule", {"freq": "yearly"})
    if span is None:
        event.add("categories", ["CLOSED"])
        event.add("dtstart", exception.day)
        event.add("dtend", exception.day + timedelta(days=1))
        return event
    midnight = datetime.combine(exception.day, time())
    event.add("categories", ["OPEN"])
    for key, minute in (("dtstart", span.start), ("dtend", span.end)):
        event.add(key, (midnight + timedelta(minutes=minute)).replace(tzinfo=zone))
    return event


def _refuse_endless(events: list[Any]) -> None:
    if len(events) > MOST_EVENTS:
        raise NotACalendar(f"The calendar has more than {MOST_EVENTS} events.")
    for event in events:
        if TOO_OFTEN & {str(f).upper() for f in _rule(event).get("FREQ", [])}:
            raise NotACalendar(f"“{_name(event)}” repeats more often than daily.")


def _rule(event: Any) -> Any:
    rule = event.get("RRULE")
    return rule if isinstance(rule, dict) else {}


def _name(event: Any) -> str:
    return str(event.get("SUMMARY") or "").strip()[:80] or "Without a name"


def _every_year(event: Any) -> bool:
    """Whether an event stands for its date every year, and nothing else."""
    rule = _rule(event)
    return [str(f).upper() for f in rule.get("FREQ", [])] == ["YEARLY"] and set(rule) == {"FREQ"}


Found = dict[tuple[date, bool], tuple[str, list[tuple[int, int]]]]


def _collect(calendar: Any, events: list[Any], zone: ZoneInfo, today: date) -> Found:
    found: Found = {}
    for event in events:
        if _every_year(event) and "EXDATE" not in event:
            _take(found, event, zone, yearly=True)
        elif not _rule(event) and "RDATE" not in event:
            _take(found, event, zone, yearly=False)
    for event in recurring_ical_events.of(calendar).between(today, today + AHEAD):
        original = next((e for e in events if e.get("UID") == event.get("UID")), event)
        repeats = _rule(original) or "RDATE" in original
        if repeats and not (_every_year(original) and "EXDATE" not in original):
            _take(found, event, zone, yearly=False)
    return found


def _take(found: Found, event: Any, zone: ZoneInfo, *, yearly: bool) -> None:
    for day, span in _days(event, zone):
        _, spans = found.setdefault((day, yearly), (_name(event), []))
        if span is not None:
            spans.append(span)


def _days(event: Any, zone: ZoneInfo) -> Iterator[tuple[date, tuple[int, int] | None]]:
    """The dates of an event, each with its open minutes; None for a whole day."""
    start = event.decoded("DTSTART")
    end = event.decoded("DTEND") if "DTEND" in event else None
    if not isinstance(start, datetime):
        last = end if isinstance(end, date) and end > start else start + timedelta(days=1)
        for offset in range(min((last - start).days, 366)):
            yield start + timedelta(days=offset), None
        return
    local = start.astimezone(zone) if start.tzinfo else start.replace(tzinfo=zone)
    if not isinstance(end, datetime):
        end = local + (event.decoded("DURATION") if "DURATION" in event else timedelta(hours=1))
    finish = end.astimezone(zone) if end.tzinfo else end.replace(tzinfo=zone)
    begins = local.hour * 60 + local.minute
    days = (finish.date() - local.date()).days
    ends = days * DAY + finish.hour * 60 + finish.minute
    yield local.date(), (begins, ends)


def _joined(spans: list[tuple[int, int]]) -> list[dict[str, int]]:
    """Spans in order, those that touch or overlap made one."""
    result: list[list[int]] = []
    for start, end in sorted(spans):
        if result and start <= result[-1][1]:
            result[-1][1] = max(result[-1][1], end)
        else:
            result.append([start, end])
    return [{"start": start, "end": end} for start, end in result]
