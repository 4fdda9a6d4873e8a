"""Which time a report is about: days of the centre's clock, cut into rows, less what is filtered
out. Days have 23, 24 or 25 hours; intervals of up to an hour are cut by absolute time."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from datetime import date, datetime, time, timedelta
from functools import lru_cache
from typing import Literal, NamedTuple
from zoneinfo import ZoneInfo

from callcore.measures.rows import INTERVAL_MS

By = Literal["15", "30", "60", "day", "week", "month"]
BYS: tuple[By, ...] = ("15", "30", "60", "day", "week", "month")
#: Longer than anybody looks at once.
MOST_DAYS = 400
#: So many rows fit a page and a chart.
MOST_ROWS = 3_000
_EARLIEST, _LATEST = date(2000, 1, 1), date(2200, 1, 1)


class Impossible(ValueError):
    """A period that cannot be; `field` is what is wrong."""

    def __init__(self, field: str, words: str) -> None:
        super().__init__(words)
        self.field = field


class Period(NamedTuple):
    """Days from `first` to `last`, both counted, by a zone's clock.

    Args:
        weekdays: only these, Monday being 0; empty for all. from_min, until_min: minutes of the
            day; only intervals that begin within them.
    """

    first: date
    last: date
    zone: str
    weekdays: frozenset[int] = frozenset()
    from_min: int = 0
    until_min: int = 24 * 60

    @property
    def begin_ms(self) -> int:
        """Its first moment (ms since the epoch)."""
        return midnight_ms(self.first, self.zone)

    @property
    def end_ms(self) -> int:
        """The first moment after it."""
        return midnight_ms(self.last + timedelta(days=1), self.zone)

    @property
    def whole(self) -> bool:
        """Whether nothing of its days is filtered out."""
        return not self.weekdays and (self.from_min, self.until_min) == (0, 24 * 60)

    def counts(self, at_ms: int) -> bool:
        """Whether the interval that begins at a moment counts."""
        if self.whole:
            return True
        local = datetime.fromtimestamp(at_ms / 1000, ZoneInfo(self.zone))
        minute = local.hour * 60 + local.minute
        on_day = not self.weekdays or local.weekday() in self.weekdays
        return on_day and self.from_min <= minute < self.until_min

    def stretches(self, begin_ms: int, end_ms: int) -> list[tuple[int, int]]:
        """What of a part of it counts, as stretches of absolute time."""
        if self.whole:
            return [(begin_ms, end_ms)]
        found: list[tuple[int, int]] = []
        for at_ms in range(begin_ms - begin_ms % INTERVAL_MS, end_ms, INTERVAL_MS):
            if not self.counts(at_ms):
                continue
            if found and found[-1][1] == at_ms:
                found[-1] = (found[-1][0], at_ms + INTERVAL_MS)
            else:
                found.append((at_ms, at_ms + INTERVAL_MS))
        return found

    def before(self) -> Period:
        """The period of the same length before it, beginning on the same weekday where it can."""
        days = (self.last - self.first).days + 1
        back = days if days % 7 == 0 else -(-days // 7) * 7
        return self._replace(first=self.first - timedelta(days=back), last=self.last - timedelta(days=back))

    def buckets(self, by: By) -> Iterator[tuple[int, int]]:
        """Its rows, each from a moment to the next (ms)."""
        if by in ("15", "30", "60"):
            yield from self._short_buckets(int(by) * 60_000)
            return
        step, first = _STEPS[by], self.first
        while first <= self.last:
            after = step(first)
            ends = midnight_ms(min(after, self.last + timedelta(days=1)), self.zone)
            begins = midnight_ms(first, self.zone)
            if self.stretches(begins, ends):
                yield begins, ends
            first = after

    def _short_buckets(self, length_ms: int) -> Iterator[tuple[int, int]]:
        for at_ms in range(self.begin_ms, self.end_ms, length_ms):
            if self.counts(at_ms):
                yield at_ms, min(at_ms + length_ms, self.end_ms)


def _next_week(day: date) -> date:
    return day + timedelta(days=7 - day.weekday())


def _next_month(day: date) -> date:
    return (day.replace(day=1) + timedelta(days=32)).replace(day=1)


_STEPS: dict[str, Callable[[date], date]] = {
    "day": lambda day: day + timedelta(days=1),
    "week": _next_week,
    "month": _next_month,
}


@lru_cache(maxsize=4096)
def midnight_ms(day: date, zone: str) -> int:
    """The first moment of a day by a zone's clock (ms)."""
    return round(datetime.combine(day, time(), ZoneInfo(zone)).timestamp() * 1000)


def period(
    first: date,
    last: date,
    zone: str,
    weekdays: Iterable[int] = (),
    from_min: int = 0,
    until_min: int = 24 * 60,
    by: By = "day",
) -> Period:
    """A period that can be reported on, by rows of a length.

    Raises:
        Impossible: it cannot; in words.
    """
    if last < first:
        raise Impossible("last", "The last day lies before the first.")
    if not _EARLIEST <= first <= last <= _LATEST:
        raise Impossible("first", "Days from 2000 to 2200 can be asked for.")
    if (last - first).days >= MOST_DAYS:
        raise Impossible("last", f"At most {MOST_DAYS} days can be looked at in one go.")
    if not 0 <= from_min < until_min <= 24 * 60:
        raise Impossible("until", "The end of the hours of the day lies after their beginning.")
    found = Period(first, last, zone, frozenset(weekdays), from_min, until_min)
    days = (last - first).days + 1
    if by in ("15", "30", "60") and days * 24 * 60 // int(by) > MOST_ROWS:
        raise Impossible("by", "These are too many rows: take longer rows, or fewer days.")
    return found
