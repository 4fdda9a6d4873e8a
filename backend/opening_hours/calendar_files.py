"""Exceptions of hours to and from iCalendar (RFC 5545)."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, date, datetime, time, timedelta
from typing import Any, NamedTuple
from zoneinfo import ZoneInfo

import icalendar
import recurring_ical_events

from callcore.errors import DefinitionError
from callcore.hours.plan import DAY, Exception_, Hours, Span, load

LARGEST = 1024 * 1024
MOST_EVENTS = 2000
AHEAD = timedelta(days=2 * 366)
#: An event that lasts longer says nothing about opening hours.
LONGEST = timedelta(days=366)
#: So many events that are left out are named.
MOST_SAID = 10
#: Repeating more often than daily says nothing about opening hours, and never ends.
TOO_OFTEN = {"SECONDLY", "MINUTELY", "HOURLY"}


class NotACalendar(Exception):
    """The bytes are no calendar that can be taken in; the text says why."""


class Taken(NamedTuple):
    """What a calendar file brings; `left_out` says of which events nothing is taken, and why."""

    exceptions: tuple[Exception_, ...]
    left_out: tuple[str, ...] = ()


def read(data: bytes, zone: str, today: date) -> Taken:
    """The exceptions that a calendar file stands for, in the order of their dates.

    Args:
        zone: the time zone of the hours; times are turned into it.
        today: repeating events are taken in from here to two years ahead.

    Cancelled events are none. What cannot be known (the length of an event, a time zone) is not
    guessed: the event is left out, and said.

    Raises:
        NotACalendar: in words for the person who chose the file.
    """
    if len(data) > LARGEST:
        raise NotACalendar("The file is larger than 1 MB.")
    try:
        calendar = icalendar.Calendar.from_ical(data)
        left_out = _leave_out(calendar)
        events = list(calendar.walk("VEVENT"))
        _refuse_endless(events)
        found = _collect(calendar, events, ZoneInfo(zone), today)
        rows = [
            {"name": name, "day": day, "yearly": yearly, "spans": _joined(spans)}
            for (day, yearly), (name, spans) in sorted(found.items())
        ]
        return Taken(load({"exceptions": rows}).exceptions, left_out)
    except DefinitionError as error:
        raise NotACalendar(f"The calendar cannot be taken in: {error}.") from None
    except (ValueError, TypeError, KeyError, AttributeError, IndexError, OverflowError) as error:
        raise NotACalendar(f"This is not a calendar file (.ics) that can be read: {error}.") from None


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


def _leave_out(calendar: Any) -> tuple[str, ...]:
    """Take out of a calendar what says nothing about hours, and say what is missed."""
    left_out = []
    for event in list(calendar.walk("VEVENT")):
        words = _unknown(event)
        if words:
            left_out.append(f"“{_name(event)}” {words}.")
            calendar.subcomponents.remove(event)
    more = len(left_out) - MOST_SAID
    said = left_out[:MOST_SAID]
    return (*said, f"{more} more events are left out.") if more > 0 else tuple(said)


def _unknown(event: Any) -> str:
    """What cannot be known of an event."""
    if "DTSTART" not in event:
        return "says no date"
    for name in ("DTSTART", "DTEND"):
        zone = event[name].params.get("TZID") if name in event else None
        moment = event.decoded(name) if zone else None
        if isinstance(moment, datetime) and moment.tzinfo is None:
            return f"is in a time zone that is not known here, {str(zone)[:60]}"
    start, end = _bounds(event)
    if end <= start:
        return "has no length"
    return "lasts longer than a year" if end - start > LONGEST else ""


def _bounds(event: Any) -> tuple[Any, Any]:
    """Start and end, both dates or both moments (RFC 5545, 3.6.1): without an end, a date is one
    day and a moment has no length."""
    start = event.decoded("DTSTART")
    whole = not isinstance(start, datetime)
    if "DTEND" in event:
        end = event.decoded("DTEND")
        if isinstance(end, datetime) and whole:
            end = end.date()
        elif not isinstance(end, datetime) and not whole:
            end = datetime.combine(end, time(), start.tzinfo)
        if not whole and (end.tzinfo is None) is not (start.tzinfo is None):
            # A floating time beside a fixed one is meant in the same zone.
            end = end.replace(tzinfo=start.tzinfo) if end.tzinfo is None else end
            start = start.replace(tzinfo=end.tzinfo)
        return start, end
    if "DURATION" in event:
        return start, start + event.decoded("DURATION")
    return start, start + timedelta(days=1) if whole else start


def _refuse_endless(events: list[Any]) -> None:
    if len(events) > MOST_EVENTS:
        raise NotACalendar(f"The calendar has more than {MOST_EVENTS} events.")
    for number, event in enumerate(events):
        # Events are told apart by their UID: each without one is its own.
        event.setdefault("UID", f"without-{number}")
        often = {str(f).upper() for rule in _rules(event) for f in rule.get("FREQ", [])}
        if TOO_OFTEN & often:
            raise NotACalendar(f"“{_name(event)}” repeats more often than daily.")


def _rules(event: Any) -> list[Any]:
    rules = event.get("RRULE")
    return rules if isinstance(rules, list) else [rules] if rules else []


def _name(event: Any) -> str:
    return str(event.get("SUMMARY") or "").strip()[:80] or "Without a name"


def _repeats(event: Any) -> bool:
    return bool(_rules(event)) or "RDATE" in event


def _cancelled(event: Any) -> bool:
    return str(event.get("STATUS", "")).upper() == "CANCELLED"


def _every_year(event: Any) -> bool:
    """Whether an event stands for its date every year, and nothing else."""
    rules = _rules(event)
    if len(rules) != 1 or "RDATE" in event or "EXDATE" in event:
        return False
    start = event.decoded("DTSTART")
    own = {"BYMONTH": [start.month], "BYMONTHDAY": [start.day], "INTERVAL": [1]}
    (rule,) = rules
    if [str(f).upper() for f in rule.get("FREQ", [])] != ["YEARLY"]:
        return False
    others = set(rule) - {"FREQ", "WKST"}
    # On the 29th of February the month must be named with the day: a day alone is every month's.
    named = "BYMONTHDAY" not in others or "BYMONTH" in others
    # Anything else (an end, a count, the first Monday) is not every year on its date.
    return (
        named
        and others <= own.keys()
        and all([int(value) for value in rule[key]] == own[key] for key in others)
    )


Found = dict[tuple[date, bool], tuple[str, list[tuple[int, int]]]]


def _collect(calendar: Any, events: list[Any], zone: ZoneInfo, today: date) -> Found:
    found: Found = {}
    # What stands beside its series for one of its dates.
    moved = {event.get("UID") for event in events if "RECURRENCE-ID" in event}
    series: set[Any] = set()
    for event in events:
        if "RECURRENCE-ID" in event or (_cancelled(event) and not _repeats(event)):
            continue
        if not _repeats(event):
            _take(found, event, zone, yearly=False)
        elif _every_year(event) and event.get("UID") not in moved and not _cancelled(event):
            _take(found, event, zone, yearly=True)
        else:
            series.add(event.get("UID"))
    for event in recurring_ical_events.of(calendar).between(today, today + AHEAD):
        if event.get("UID") in series and not _cancelled(event):
            _take(found, event, zone, yearly=False)
    return found


def _take(found: Found, event: Any, zone: ZoneInfo, *, yearly: bool) -> None:
    for day, span in _days(event, zone):
        _, spans = found.setdefault((day, yearly), (_name(event), []))
        if span is not None:
            spans.append(span)


def _days(event: Any, zone: ZoneInfo) -> Iterator[tuple[date, tuple[int, int] | None]]:
    """The dates of an event, each with its open minutes; None for a whole day.

    Over midnight it is its first date's, as hours are; longer than a day it is cut at midnights.
    """
    start, end = _bounds(event)
    if not isinstance(start, datetime):
        for offset in range((end - start).days):
            yield start + timedelta(days=offset), None
        return
    local, finish = _local(start, zone), _local(end, zone)
    begins = local.hour * 60 + local.minute
    ends = (finish.date() - local.date()).days * DAY + finish.hour * 60 + finish.minute
    if ends - begins <= DAY:
        if ends > begins:
            yield local.date(), (begins, ends)
        return
    for day, at in enumerate(range(0, ends, DAY)):
        yield local.date() + timedelta(days=day), (max(begins - at, 0), min(ends - at, DAY))


def _local(moment: datetime, zone: ZoneInfo) -> datetime:
    return moment.astimezone(zone) if moment.tzinfo else moment.replace(tzinfo=zone)


def _joined(spans: list[tuple[int, int]]) -> list[dict[str, int]]:
    """Spans in order, those that touch or overlap made one."""
    result: list[list[int]] = []
    for start, end in sorted(spans):
        if result and start <= result[-1][1]:
            result[-1][1] = max(result[-1][1], end)
        else:
            result.append([start, end])
    return [{"start": start, "end": end} for start, end in result]
