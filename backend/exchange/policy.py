"""Whose a telephone is, and which callbacks a supervisor may cancel."""

from __future__ import annotations

from typing import Any

from accounts.things import Act, Values, refusal
from exchange.models import Callback, Contact
from queues.services import queue_with


def contact(user: Any, act: Act, thing: Contact | None, values: Values) -> str:
    """Whoever placed a call, or wrote a text, holds its telephone; nobody else presses its keys."""
    if act != "use" or (thing is not None and thing.placed_by_id == user.pk):
        return ""
    return "You did not place this call: its telephone is in other hands."


def callback(user: Any, act: Act, thing: Callback | None, values: Values) -> str:
    """A callback is its queue's."""
    queue = queue_with(thing.queue) if thing is not None else None
    return refusal(user, "change", queue) if queue is not None else ""
