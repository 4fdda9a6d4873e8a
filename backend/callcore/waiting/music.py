"""Which hold music a caller hears: whoever says most closely for this place says it."""

from __future__ import annotations

from typing import NamedTuple


class Places(NamedTuple):
    """Who may say what is played (sounds, as references; empty or None: says nothing).

    `stop`: a *Hold music* stop, or the *Queue* stop at which the caller waits. `flow`: the waiting
    plan, or the flow that they are in. `queue`: the queue itself. `centre`: the centre.
    """

    stop: str | None = None
    flow: str | None = None
    queue: str | None = None
    centre: str | None = None


def heard(places: Places) -> str:
    """The sound that is played; empty for the music that comes with Hazeridge."""
    return next((sound for sound in places if sound), "")
