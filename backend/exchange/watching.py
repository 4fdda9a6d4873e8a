"""Calls, people and desks that somebody watches: the exchange shows one only while it does."""

from __future__ import annotations

import time
from contextlib import suppress
from typing import Any

from django.db import DatabaseError

from exchange.commands import tell
from exchange.snapshots import snapshot

#: The topics that are shown only while they are watched begin with one of these.
WATCHED = ("call.", "person.", "desk.", "lines")
#: One is shown for so long (s) after somebody said that they watch it.
SHOWN_S = 45
#: How long the first picture of one is waited for.
_PATIENCE_S = 1.0
_POLL_S = 0.02


def watched(topic: str) -> None:
    """Let the exchange know that somebody watches a topic; of some it must."""
    if topic.startswith(WATCHED):
        with suppress(DatabaseError):
            tell("topic.watched", {"topic": topic})


def seen(topic: str) -> dict[str, Any] | None:
    """The last published snapshot of a topic; one that nobody has watched yet is waited for."""
    watched(topic)
    deadline = time.monotonic() + _PATIENCE_S
    kept = snapshot(topic)
    while kept is None and topic.startswith(WATCHED) and time.monotonic() < deadline:
        time.sleep(_POLL_S)
        kept = snapshot(topic)
    return kept
