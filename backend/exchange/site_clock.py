"""A site's clock: the wall's, or one that runs faster while a set-up is tried with stand-ins."""

from __future__ import annotations

import time
from typing import NamedTuple

SPEEDS = (1, 2, 5, 10, 30, 60)


_ahead_ns = 0


def wall_ms() -> int:
    """The wall clock, in milliseconds since the epoch.

    It never goes back: where the machine's clock is set back, this one goes on from where it was.
    """
    global _ahead_ns
    ticking = time.monotonic_ns()
    _ahead_ns = max(_ahead_ns, time.time_ns() - ticking)
    return (ticking + _ahead_ns) // 1_000_000


class SiteClock(NamedTuple):
    """From `from_ms` of the wall's it runs at `speed`, showing `since_ms` then; 0: the wall's."""

    speed: int = 1
    from_ms: int = 0
    since_ms: int = 0

    def at(self, wall: int) -> int:
        """What it shows at a moment of the wall's."""
        if not self.from_ms:
            return wall
        return self.since_ms + (wall - self.from_ms) * self.speed

    def now_ms(self) -> int:
        """What it shows now."""
        return self.at(wall_ms())

    def at_speed(self, speed: int, wall: int) -> SiteClock:
        """The same clock, running at another speed from now on."""
        return SiteClock(speed, wall, self.at(wall))
