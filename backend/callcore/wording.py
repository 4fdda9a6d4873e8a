"""Times and figures as people read them, the same wherever words are made of them."""

from __future__ import annotations

from datetime import datetime
from zoneinfo import ZoneInfo


def length(ms: float) -> str:
    """How long something took: `0:47`, `4:12` or `1:04:12`; rounded to the second."""
    minutes, seconds = divmod(round(ms / 1000), 60)
    hours, minutes = divmod(minutes, 60)
    return f"{hours}:{minutes:02}:{seconds:02}" if hours else f"{minutes}:{seconds:02}"


def share(part: float) -> str:
    """A share from 0 to 1: `81.3 %`."""
    return f"{part * 100:.1f} %"


def day(at_ms: int, zone: str, *, year: bool = False) -> str:
    """A day by a zone's clock: `Tue 14 Jul`, or with its year."""
    return _local(at_ms, zone).strftime("%a %-d %b %Y" if year else "%a %-d %b")


def moment(at_ms: int, zone: str) -> str:
    """A moment by a zone's clock: `Tue 14 Jul, 09:52`."""
    return _local(at_ms, zone).strftime("%a %-d %b, %H:%M")


def _local(at_ms: int, zone: str) -> datetime:
    return datetime.fromtimestamp(at_ms / 1000, ZoneInfo(zone))
