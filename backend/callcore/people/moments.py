"""Callers who come when others came: at the moments of one recorded day, day after day."""

from __future__ import annotations

import random
from collections import deque
from collections.abc import Sequence
from datetime import datetime, timedelta, tzinfo

#: No day has more moments than are kept of one.
MOST_MOMENTS = 20_000
#: A day on which a clock is put back has so many hours.
LONGEST_DAY_MS = 25 * 3_600_000


class Moments:
    """The moments of a recorded day, by the centre's clock, on every day from a moment on.

    Args:
        after_midnight_ms: when callers came, in their order.
        load: how often each of them comes (2.5: twice, and every other one a third time).
    """

    def __init__(
        self, after_midnight_ms: Sequence[int], rng: random.Random, zone: tzinfo, load: float, from_ms: int
    ) -> None:
        self._offsets, self._rng, self._zone, self._load = after_midnight_ms, rng, zone, load
        self._from_ms = from_ms
        local = datetime.fromtimestamp(from_ms / 1000, zone)
        self._midnight = local.replace(hour=0, minute=0, second=0, microsecond=0)
        self._due: deque[int] = deque()

    def before(self, until_ms: int) -> int | None:
        """The next moment; None where nobody comes before another, from which on it is asked again."""
        while not self._due and self._midnight.timestamp() * 1000 < until_ms:
            self._next_day()
        return self._due.popleft() if self._due and self._due[0] < until_ms else None

    def _next_day(self) -> None:
        tomorrow = self._midnight + timedelta(days=1)
        begins_ms, ends_ms = (round(day.timestamp() * 1000) for day in (self._midnight, tomorrow))
        for offset in self._offsets:
            at_ms = begins_ms + offset
            if self._from_ms < at_ms < ends_ms:
                self._due.extend([at_ms] * self._times())
        self._midnight = tomorrow

    def _times(self) -> int:
        whole = int(self._load)
        return whole + (self._rng.random() < self._load - whole)


def by_quarters(after_midnight_ms: Sequence[int], quarter_ms: int, quarters: int) -> list[int]:
    """How many come in each quarter-hour of a day; what is later than any counts with the last."""
    counts = [0] * quarters
    for offset in after_midnight_ms:
        counts[min(quarters - 1, offset // quarter_ms)] += 1
    return counts
