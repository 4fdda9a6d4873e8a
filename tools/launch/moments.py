"""Running as if it were another moment: Python's clocks are moved in every process of the tests."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import NamedTuple

from launch.build import BACKEND
from launch.say import Failed


class Moment(NamedTuple):
    """A moment, and the zone of the machine; without one it is now, and here."""

    at: datetime | None = None
    zone: str = ""

    @property
    def words(self) -> str:
        """What is added to the name of what runs then."""
        where = f" in {self.zone}" if self.zone else ""
        return f", at {self.at:%Y-%m-%d %H:%M} UTC{where}" if self.at else ""

    def environment(self) -> dict[str, str]:
        """The environment of processes that begin at the moment, and of all that they start."""
        found = {"TZ": self.zone} if self.zone else {}
        if self.at is None:
            return found
        ahead_s = round((self.at - datetime.now(UTC)).total_seconds())
        return found | {
            "HAZERIDGE_TEST_AHEAD_MS": str(ahead_s * 1000),
            "PYTHONPATH": str(BACKEND / "testkit" / "moment"),
        }


NOW = Moment()
#: A Sunday, the night in which clocks go forward, a leap day, and the last minutes of a year.
ODD = (
    Moment(datetime(2026, 12, 6, 11, 0, tzinfo=UTC)),
    Moment(datetime(2027, 3, 28, 0, 57, tzinfo=UTC)),
    Moment(datetime(2028, 2, 29, 12, 0, tzinfo=UTC), "Pacific/Auckland"),
    Moment(datetime(2026, 12, 31, 23, 57, tzinfo=UTC), "America/St_Johns"),
)


def read(text: str) -> Moment:
    """A moment as it was typed.

    Raises:
        Failed: it is none.
    """
    try:
        at = datetime.fromisoformat(text)
    except ValueError:
        raise Failed(f"“{text}” is no moment; type it as 2028-02-29 or 2028-02-29T23:50.") from None
    return Moment(at.astimezone(UTC) if at.tzinfo else at.replace(tzinfo=UTC))
