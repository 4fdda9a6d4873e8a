"""Days and times of a fork: weekdays, clock spans and dates, in a time zone."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import UTC, date, datetime
from typing import Annotated
from zoneinfo import ZoneInfo

from pydantic import Field, model_validator

from callcore.flow.parts import Part

DAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
DAY_MINUTES = 24 * 60
_EVERY_DAY = tuple(range(7))


class Period(Part):
    """Weekdays (0 is Monday) from `start` to before `end` (minutes of the day), perhaps in dates.

    `first` and `last` are included; either may be open.
    """

    days: tuple[Annotated[int, Field(ge=0, le=6)], ...] = _EVERY_DAY
    start: Annotated[int, Field(ge=0, lt=DAY_MINUTES)] = 0
    end: Annotated[int, Field(gt=0, le=DAY_MINUTES)] = DAY_MINUTES
    first: date | None = None
    last: date | None = None

    @model_validator(mode="after")
    def _runs_forward(self) -> Period:
        if self.end <= self.start:
            raise ValueError("a period ends after it starts; use two periods over midnight")
        if self.first and self.last and self.last < self.first:
            raise ValueError("the last date is before the first")
        return self

    def holds(self, local: datetime) -> bool:
        """Whether a local moment is in the period."""
        minute = local.hour * 60 + local.minute
        today = local.date()
        return (
            local.weekday() in self.days
            and self.start <= minute < self.end
            and (self.first is None or self.first <= today)
            and (self.last is None or today <= self.last)
        )


def local_time(now_ms: int, zone: str) -> datetime:
    """A moment on the wall clock of a zone."""
    return datetime.fromtimestamp(now_ms / 1000, UTC).astimezone(ZoneInfo(zone))


def _clock(minute: int) -> str:
    return f"{minute // 60:02}:{minute % 60:02}"


def words(period: Period) -> str:
    """`Mon–Fri 08:00–18:00, from 2027-05-01`."""
    days = sorted(set(period.days))
    if len(days) == 7:
        said = "every day"
    elif len(days) > 2 and days == list(range(days[0], days[-1] + 1)):
        said = f"{DAYS[days[0]]}–{DAYS[days[-1]]}"
    else:
        said = ", ".join(DAYS[day] for day in days) or "no day"
    if (period.start, period.end) != (0, DAY_MINUTES):
        said += f" {_clock(period.start)}–{_clock(period.end)}"
    if period.first:
        said += f", from {period.first}"
    if period.last:
        said += f", to {period.last}"
    return said


def overlap(one: Iterable[Period], other: Iterable[Period]) -> bool:
    """Whether some moment is in both."""
    return any(_meet(a, b) for a in one for b in other)


def _meet(a: Period, b: Period) -> bool:
    if not set(a.days) & set(b.days) or a.end <= b.start or b.end <= a.start:
        return False
    first = max((d for d in (a.first, b.first) if d), default=None)
    last = min((d for d in (a.last, b.last) if d), default=None)
    return first is None or last is None or first <= last
