"""Days and times of a fork: weekdays, clock spans and dates, in a time zone."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import UTC, date, datetime, timedelta
from typing import Annotated, NamedTuple
from zoneinfo import ZoneInfo

from pydantic import Field, model_validator

from callcore.flow.parts import Part

DAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
DAY_MINUTES = 24 * 60
_EVERY_DAY = tuple(range(7))


class _Piece(NamedTuple):
    """A period, or the part of it that lies in one day."""

    days: frozenset[int]
    start: int
    end: int
    first: date | None
    last: date | None

    def holds(self, day: date, minute: int) -> bool:
        return (
            day.weekday() in self.days
            and self.start <= minute < self.end
            and (self.first is None or self.first <= day)
            and (self.last is None or day <= self.last)
        )

    def meets(self, other: _Piece) -> bool:
        """Whether some moment is in both."""
        first = max((d for d in (self.first, other.first) if d), default=None)
        last = min((d for d in (self.last, other.last) if d), default=None)
        days = self.days & other.days
        if first is not None and last is not None:
            # Within less than a week some weekdays do not come.
            days &= {(first + timedelta(days=n)).weekday() for n in range(min(7, (last - first).days + 1))}
        return bool(days) and self.start < other.end and other.start < self.end


def _day_after(day: date | None) -> date | None:
    return day + timedelta(days=1) if day and day < date.max else day


class Period(Part):
    """Weekdays (0 is Monday) from `start` to before `end` (minutes of the day), perhaps in dates.

    One that ends before it starts goes on over midnight; its days and dates are those on which it
    begins. `first` and `last` are included; either may be open.
    """

    days: tuple[Annotated[int, Field(ge=0, le=6)], ...] = _EVERY_DAY
    start: Annotated[int, Field(ge=0, lt=DAY_MINUTES)] = 0
    end: Annotated[int, Field(gt=0, le=DAY_MINUTES)] = DAY_MINUTES
    first: date | None = None
    last: date | None = None

    @model_validator(mode="after")
    def _lasts(self) -> Period:
        if self.end == self.start:
            raise ValueError("a period ends at another minute than it starts")
        if self.first and self.last and self.last < self.first:
            raise ValueError("the last date is before the first")
        return self

    @property
    def over_midnight(self) -> bool:
        """Whether it ends on the day after."""
        return self.end < self.start

    def pieces(self) -> Iterator[_Piece]:
        """The period day by day."""
        days = frozenset(self.days)
        if not self.over_midnight:
            yield _Piece(days, self.start, self.end, self.first, self.last)
            return
        yield _Piece(days, self.start, DAY_MINUTES, self.first, self.last)
        next_days = frozenset((day + 1) % 7 for day in days)
        yield _Piece(next_days, 0, self.end, _day_after(self.first), _day_after(self.last))

    def holds(self, local: datetime) -> bool:
        """Whether a local moment is in the period."""
        minute = local.hour * 60 + local.minute
        return any(piece.holds(local.date(), minute) for piece in self.pieces())


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
    if period.over_midnight:
        said += " the next day"
    if period.first:
        said += f", from {period.first}"
    if period.last:
        said += f", to {period.last}"
    return said


def overlap(one: Iterable[Period], other: Iterable[Period]) -> bool:
    """Whether some moment is in both."""
    others = [piece for period in other for piece in period.pieces()]
    return any(piece.meets(two) for period in one for piece in period.pieces() for two in others)
