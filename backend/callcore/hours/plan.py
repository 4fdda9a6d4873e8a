"""What opening hours are.

Times of day are whole minutes after local midnight. A span may run over
midnight: its end is then up to 2880, and it belongs to the day it begins on.
"""

from __future__ import annotations

from datetime import date, datetime
from itertools import pairwise, product
from typing import Annotated, Any
from zoneinfo import ZoneInfo, available_timezones

from pydantic import (
    AfterValidator,
    BaseModel,
    ConfigDict,
    Field,
    StringConstraints,
    ValidationError,
    model_validator,
)

from callcore.errors import DefinitionError, Problem

DAY = 24 * 60
#: Dates outside of these years are typing errors.
FIRST_YEAR, LAST_YEAR = 1970, 2200
WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


def known_zone(name: str) -> str:
    """The name of a time zone, where there is one; ValueError otherwise."""
    if name not in available_timezones():
        raise ValueError(f"there is no time zone {name!r}")
    return name


def _in_range(when: date | None) -> date | None:
    if when is not None and not FIRST_YEAR <= when.year <= LAST_YEAR:
        raise ValueError(f"the year must be from {FIRST_YEAR} to {LAST_YEAR}")
    return when


def clock(minute: int) -> str:
    """A minute of the day as `18:00`; past midnight it begins again."""
    if minute == 24 * 60:
        return "24:00"
    return f"{minute // 60 % 24:02}:{minute % 60:02}"


class Part(BaseModel):
    """Base of all parts: frozen, and strict about unknown fields."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class Span(Part):
    """Open from `start` to just before `end`."""

    start: Annotated[int, Field(ge=0, lt=DAY)]
    end: Annotated[int, Field(gt=0, le=2 * DAY)]

    @model_validator(mode="after")
    def _forward(self) -> Span:
        if not self.start < self.end <= self.start + DAY:
            raise ValueError("it must end after it begins, within 24 hours")
        return self

    def __str__(self) -> str:
        return f"{clock(self.start)}–{clock(self.end)}"


def _apart(spans: tuple[Span, ...]) -> tuple[Span, ...]:
    ordered = tuple(sorted(spans, key=lambda span: span.start))
    for before, after in pairwise(ordered):
        if after.start < before.end:
            raise ValueError(f"{before} and {after} overlap")
    return ordered


Spans = Annotated[tuple[Span, ...], Field(max_length=12), AfterValidator(_apart)]


LONGEST_NAME = 80


class Exception_(Part):  # noqa: N801  what the trade calls it is also Python's word
    """Other hours on one date, or on that date every year; no spans: closed all day."""

    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=LONGEST_NAME)]
    day: Annotated[date, AfterValidator(_in_range)]
    yearly: bool = False
    spans: Spans = ()

    def falls_on(self, other: date) -> bool:
        """Whether it counts on a date; 29 February falls on leap years only."""
        if self.yearly:
            return (self.day.month, self.day.day) == (other.month, other.day)
        return self.day == other


class Closure(Part):
    """Closed by hand, at once; `until` None means until it is lifted."""

    reason: Annotated[str, StringConstraints(strip_whitespace=True, max_length=120)] = ""
    until: Annotated[datetime | None, AfterValidator(_in_range)] = None

    @model_validator(mode="after")
    def _aware(self) -> Closure:
        if self.until is not None and self.until.tzinfo is None:
            raise ValueError("the end needs a time zone")
        return self


class Hours(Part):
    """A weekly plan (Monday first) in a time zone, with what overrides it."""

    time_zone: Annotated[str, AfterValidator(known_zone)] = "Europe/London"
    week: Annotated[tuple[Spans, ...], Field(min_length=7, max_length=7)] = ((),) * 7
    exceptions: Annotated[tuple[Exception_, ...], Field(max_length=500)] = ()
    closure: Closure | None = None

    @model_validator(mode="after")
    def _sound(self) -> Hours:
        for day, spans in enumerate(self.week):
            tomorrow = (day + 1) % 7
            for late, early in product(spans, self.week[tomorrow]):
                if early.start < late.end - DAY:
                    names = WEEKDAYS[day], WEEKDAYS[tomorrow]
                    raise ValueError(f"{names[0]} {late} runs into {names[1]} {early}")
        seen: set[tuple[date, bool]] = set()
        for exception in self.exceptions:
            on = exception.day.replace(year=2000) if exception.yearly else exception.day
            key = (on, exception.yearly)
            if key in seen:
                raise ValueError(f"two exceptions fall on {exception.day:%-d %B}")
            seen.add(key)
        return self

    @property
    def zone(self) -> ZoneInfo:
        """The time zone."""
        return ZoneInfo(self.time_zone)


def load(data: Any) -> Hours:
    """Read hours from plain data.

    Raises:
        DefinitionError: with the place and the reason of everything that is wrong.
    """
    try:
        return Hours.model_validate(data)
    except ValidationError as error:
        raise DefinitionError([_in_words(detail) for detail in error.errors()]) from None


def dump(hours: Hours) -> dict[str, Any]:
    """The plain data that `load` reads back to equal hours."""
    return hours.model_dump(mode="json")


def _in_words(detail: Any) -> Problem:
    path = tuple(detail["loc"])
    reason = str(detail.get("ctx", {}).get("error", detail["msg"]))
    place = ""
    if len(path) >= 2 and path[0] == "week" and isinstance(path[1], int):
        place = f"{WEEKDAYS[path[1] % 7]}: "
    elif len(path) >= 2 and path[0] == "exceptions" and isinstance(path[1], int):
        place = f"Exception {path[1] + 1}: "
    return Problem(path, f"{place}{reason[:1].lower()}{reason[1:]}" if place else reason)
