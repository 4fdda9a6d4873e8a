"""Calls that somebody watches: the exchange shows a call only while it does."""

from __future__ import annotations

import time
from contextlib import suppress
from typing import Any

from django.db import DatabaseError

from exchange.commands import tell
from exchange.snapshots import snapshot

#: The topic of a call begins with this.
CALL = "call."
#: A call is shown for so long (s) after somebody said that they watch it.
SHOWN_S = 45
#: How long the first picture of a call is waited for.
_PATIENCE_S = 1.0
_POLL_S = 0.02


def watched(topic: str) -> None:
    """Let the exchange know that somebody watches a topic; of calls it must."""
    if topic.startswith(CALL):
        with suppress(DatabaseError):
            tell("call.watched", {"contact": topic.removeprefix(CALL)})


def seen(topic: str) -> dict[str, Any] | None:
    """The last published snapshot of a topic; a call that nobody has watched yet is waited for."""
    watched(topic)
    deadline = time.monotonic() + _PATIENCE_S
    kept = snapshot(topic)
    while kept is None and topic.startswith(CALL) and time.monotonic() < deadline:
        time.sleep(_POLL_S)
        kept = snapshot(topic)
    return kept
