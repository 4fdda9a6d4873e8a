"""When callers come: arrivals an hour by quarter-hour and weekday."""

from __future__ import annotations

import csv
import io
import math
import random
from collections.abc import Sequence
from datetime import datetime, tzinfo
from typing import NamedTuple

QUARTER_MS = 15 * 60 * 1000
QUARTERS = 96
DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
#: More callers an hour than any centre of this kind has.
MOST_AN_HOUR = 20_000.0


class Profile(NamedTuple):
    """Arrivals an hour: for each day from Monday its 96 quarter-hours, by the centre's clock."""

    days: Sequence[Sequence[float]]

    def rate(self, at_ms: int, zone: tzinfo) -> float:
        """Arrivals an hour at a moment."""
        local = datetime.fromtimestamp(at_ms / 1000, zone)
        return self.days[local.weekday()][local.hour * 4 + local.minute // 15]

    def of_day(self, weekday: int) -> float:
        """Arrivals of a whole day, Monday being 0."""
        return sum(self.days[weekday]) / 4

    def as_csv(self) -> str:
        """The profile as a table: a row a quarter-hour, a column a day."""
        out = io.StringIO()
        rows = csv.writer(out)
        rows.writerow(("From", *DAYS))
        for quarter in range(QUARTERS):
            moment = f"{quarter // 4:02}:{quarter % 4 * 15:02}"
            rows.writerow((moment, *(f"{day[quarter]:g}" for day in self.days)))
        return out.getvalue()


class Arrivals:
    """The moments at which callers come, as a Poisson stream over a profile.

    Within a quarter-hour the gaps are exponential; at its end the next one begins anew, which
    changes nothing, since they have no memory. Offsets of all zones are whole quarter-hours.
    """

    def __init__(self, profile: Profile, rng: random.Random, zone: tzinfo, load: float, from_ms: int) -> None:
        self._profile, self._rng, self._zone, self._load = profile, rng, zone, load
        self._now = float(from_ms)

    def before(self, until_ms: int) -> int | None:
        """The next moment; None where nobody comes before another, from which on it is asked again.
        However seldom callers come, no search is longer than that."""
        while self._now < until_ms:
            ends = (math.floor(self._now / QUARTER_MS) + 1) * QUARTER_MS
            rate = self._profile.rate(math.floor(self._now), self._zone) * self._load / 3_600_000
            gap = -math.log(1.0 - self._rng.random()) / rate if rate > 0 else math.inf
            if self._now + gap < ends:
                self._now += gap
                return round(self._now)
            self._now = ends
        return None


def by_hours(workday: Sequence[float], saturday: float, sunday: float) -> Profile:
    """A profile from the 24 hours of a working day, and what of it a Saturday and a Sunday have."""
    day = [rate for rate in workday for _ in range(4)]
    shares = (1.0,) * 5 + (saturday, sunday)
    return Profile(tuple(tuple(rate * share for rate in day) for share in shares))


def always(an_hour: float) -> Profile:
    """The same at any time."""
    return Profile(((an_hour,) * QUARTERS,) * 7)


def from_csv(text: str) -> Profile:
    """The profile that a table of 96 rows says; see `Profile.as_csv`.

    Raises:
        ValueError: what is wrong, in words, by line.
    """
    try:
        rows = list(csv.reader(io.StringIO(text)))[1:]
    except csv.Error as error:
        raise ValueError(f"This is no table: {error}.") from None
    if len(rows) != QUARTERS:
        raise ValueError(f"96 rows are needed, one a quarter-hour; there are {len(rows)}.")
    days: list[list[float]] = [[] for _ in DAYS]
    for number, row in enumerate(rows, 2):
        if len(row) != len(DAYS) + 1:
            raise ValueError(f"Line {number}: a time and seven figures are needed.")
        for name, day, cell in zip(DAYS, days, row[1:], strict=True):
            day.append(_rate(number, name, cell))
    return Profile(tuple(map(tuple, days)))


def _rate(number: int, day: str, cell: str) -> float:
    try:
        rate = float(cell)
    except ValueError:
        rate = math.nan
    if not 0 <= rate <= MOST_AN_HOUR:
        words = f"Line {number}, {day}: “{cell[:40]}” is no number of callers an hour (0 to 20,000)."
        raise ValueError(words)
    return rate
