"""What time it is in the centre: the wall's clock, unless its site's runs faster for trying."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime

from django.utils import timezone

_reader: Callable[[], int] | None = None


def goes_by(reader: Callable[[], int]) -> None:
    """Let whoever keeps the site's clock say what it shows, in ms since the epoch."""
    global _reader
    _reader = reader


def site_now() -> datetime:
    """The moment by which notices, diversions and whatever else concerns callers and agents go."""
    if _reader is None:
        return timezone.now()
    return datetime.fromtimestamp(_reader() / 1000, UTC)
