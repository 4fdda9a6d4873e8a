"""Open or closed at any moment, why, and when that next changes.

What counts is the wall clock of the hours' time zone: a moment is inside a span
when its local time is. In the night when clocks go back, a local time that comes
twice counts twice; in the night when they go forward, a time that does not come
counts never.
"""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, date, datetime, timedelta
from typing import NamedTuple

from callcore.hours.plan import DAY, WEEKDAYS, Exception_, Hours, Span, clock

#: How far ahead a change is looked for; beyond it there is none to speak of.
HORIZON_DAYS = 400


class Answer(NamedTuple):
    """Open or closed. `why` tells it step by step, the last step first decided it.

    `until` is when that next changes (UTC), None where it does not within the horizon.
    """

    open: bool
    why: tuple[str, ...]
    until: datetime | None


class Day(NamedTuple):
    """One date: its spans, what they come from (`plan`, `special`, `closed`), and a name."""

    day: date
    spans: tuple[Span, ...]
    kind: str
    name: str
    open_minutes: int
    clocks_change: bool


def exception_on(hours: Hours, day: date) -> Exception_ | None:
    """The exception that counts on a date: a dated one before a yearly one."""
    falling = [e for e in hours.exceptions if e.falls_on(day)]
    return min(falling, key=lambda e: e.yearly, default=None)


def spans_on(hours: Hours, day: date) -> tuple[Span, ...]:
    """The spans that begin on a date."""
    exception = exception_on(hours, day)
    return exception.spans if exception is not None else hours.week[day.weekday()]


def _span_at(hours: Hours, local: datetime) -> tuple[date, Span] | None:
    minute = local.hour * 60 + local.minute
    today = local.date()
    for day, shift in ((today, 0), (today - timedelta(days=1), DAY)):
        for span in spans_on(hours, day):
            if span.start <= minute + shift < span.end:
                return day, span
    return None


def _closed_by_hand(hours: Hours, moment: datetime) -> bool:
    closure = hours.closure
    return closure is not None and (closure.until is None or moment < closure.until)


def is_open(hours: Hours, moment: datetime) -> bool:
    """Whether it is open at an aware moment."""
    if _closed_by_hand(hours, moment):
        return False
    return _span_at(hours, moment.astimezone(hours.zone)) is not None


def answer(hours: Hours, moment: datetime) -> Answer:
    """Open or closed at an aware moment, why, and until when."""
    opened = is_open(hours, moment)
    return Answer(opened, _why(hours, moment), _until(hours, moment, opened))


def decided(hours: Hours, moment: datetime) -> tuple[bool, str]:
    """Open or closed at an aware moment, and what decided it; without looking ahead."""
    return is_open(hours, moment), _why(hours, moment)[-1]


def _why(hours: Hours, moment: datetime) -> tuple[str, ...]:
    local = moment.astimezone(hours.zone)
    weekly = hours.week[local.weekday()]
    steps = [f"Weekly plan: {WEEKDAYS[local.weekday()]} {_listed(weekly)}"]
    exception = exception_on(hours, local.date())
    if exception is not None:
        steps.append(f"replaced by {exception.name}, {_listed(exception.spans)}")
    found = _span_at(hours, local)
    if found is not None:
        day, span = found
        late = " of the day before" if day != local.date() else ""
        steps.append(f"{local:%a %H:%M} is inside {span}{late}")
    else:
        steps.append(f"{local:%a %H:%M} is outside")
    if _closed_by_hand(hours, moment):
        closure = hours.closure
        assert closure is not None
        end = f" until {closure.until.astimezone(hours.zone):%a %-d %b %H:%M}" if closure.until else ""
        reason = f": {closure.reason}" if closure.reason else ""
        steps.append(f"closed by hand{end}{reason}")
    return tuple(steps)


def _listed(spans: tuple[Span, ...]) -> str:
    return ", ".join(str(span) for span in spans) or "closed all day"


def _until(hours: Hours, moment: datetime, opened: bool) -> datetime | None:
    for change in _candidates(hours, moment):
        if is_open(hours, change) != opened:
            return change
    return None


def _candidates(hours: Hours, moment: datetime) -> Iterator[datetime]:
    """Every moment at which the answer could change, in order, after `moment`."""
    closure = hours.closure
    end = closure.until.astimezone(UTC) if closure and closure.until else None
    if _closed_by_hand(hours, moment):
        if end is None:
            return
        moment = end
        yield end
    first = moment.astimezone(hours.zone).date() - timedelta(days=1)
    done = moment.astimezone(UTC)
    for offset in range(HORIZON_DAYS):
        for change in sorted(_changes_of(hours, first + timedelta(days=offset))):
            if change > done:
                done = change
                yield change


def _changes_of(hours: Hours, day: date) -> set[datetime]:
    """The edges of a date's spans, and the moment at which its clocks change."""
    midnight = datetime(day.year, day.month, day.day, tzinfo=hours.zone)
    found: set[datetime] = set()
    for span in spans_on(hours, day):
        for minute in (span.start, span.end):
            naive = datetime(day.year, day.month, day.day) + timedelta(minutes=minute)  # noqa: DTZ001
            for fold in (0, 1):
                found.add(naive.replace(tzinfo=hours.zone, fold=fold).astimezone(UTC))
    shift = clocks_change_at(hours, midnight)
    return found | {shift} if shift else found


def clocks_change_at(hours: Hours, midnight: datetime) -> datetime | None:
    """When the clocks change in the 24 hours from a local midnight, to the minute (UTC)."""
    low, high = midnight.astimezone(UTC), midnight.astimezone(UTC) + timedelta(days=1)
    before = low.astimezone(hours.zone).utcoffset()
    if high.astimezone(hours.zone).utcoffset() == before:
        return None
    while high - low > timedelta(minutes=1):
        middle = low + (high - low) / 2
        middle = middle.replace(second=0, microsecond=0)
        if middle.astimezone(hours.zone).utcoffset() == before:
            low = middle
        else:
            high = middle
    return high


def next_changes(hours: Hours, moment: datetime, count: int) -> list[tuple[datetime, bool]]:
    """The next changes after a moment: when (UTC), and whether it is open from then on."""
    changes: list[tuple[datetime, bool]] = []
    opened = is_open(hours, moment)
    while len(changes) < count:
        change = _until(hours, moment, opened)
        if change is None:
            break
        opened, moment = not opened, change
        changes.append((change, opened))
    return changes


def outlook(hours: Hours, first: date, days: int) -> list[Day]:
    """Date by date, what is open and where it comes from."""
    result = []
    for offset in range(days):
        day = first + timedelta(days=offset)
        exception, spans = exception_on(hours, day), spans_on(hours, day)
        kind = "plan" if exception is None else "special" if spans else "closed"
        midnight = datetime(day.year, day.month, day.day, tzinfo=hours.zone)
        result.append(
            Day(
                day,
                spans,
                kind,
                exception.name if exception else "",
                sum(span.end - span.start for span in spans),
                clocks_change_at(hours, midnight) is not None,
            )
        )
    return result


def ever_open(hours: Hours) -> bool:
    """Whether there is any span at all."""
    return any(hours.week) or any(exception.spans for exception in hours.exceptions)


def in_words(answered: Answer, hours: Hours, moment: datetime) -> str:
    """`Open, closes 18:00` or `Closed, opens Sun 2 Aug at 10:00`."""
    state, verb = ("Open", "closes") if answered.open else ("Closed", "opens")
    if answered.until is None:
        return f"{state}, and stays so"
    then = answered.until.astimezone(hours.zone)
    today = moment.astimezone(hours.zone).date()
    at = clock(then.hour * 60 + then.minute)
    return f"{state}, {verb} {at}" if then.date() == today else f"{state}, {verb} {then:%a %-d %b} at {at}"
