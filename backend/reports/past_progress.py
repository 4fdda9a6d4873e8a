"""How far a past is that is being written while people look at reports already."""

from __future__ import annotations

from django.core.cache import cache

_KEY = "past-being-written"
#: Whoever writes tells it more often; what has died is soon told of no more.
_LASTS_S = 180


def tell(done: int, of: int) -> None:
    """So many days are written, of so many."""
    cache.set(_KEY, (done, of), _LASTS_S)


def over() -> None:
    """Nothing is being written any more."""
    cache.delete(_KEY)


def told() -> tuple[int, int] | None:
    """Days written, and of how many; None where none are being written."""
    found: tuple[int, int] | None = cache.get(_KEY)
    return found
