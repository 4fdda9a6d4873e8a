"""Telling live lines that a session is over, or that somebody's rights have changed."""

from __future__ import annotations

import hashlib
import logging

from asgiref.sync import async_to_sync
from channels.layers import get_channel_layer

log = logging.getLogger(__name__)

#: All lines there are.
EVERYBODY = "lines"


def group_of_session(key: str) -> str:
    """The group of all lines of one session; its key is not told."""
    return f"lines.{hashlib.sha256(key.encode()).hexdigest()[:40]}"


def session_ended(key: str) -> None:
    """End the lines of a session at once."""
    _send(group_of_session(key), "session.ended")


def rights_changed() -> None:
    """Let every line ask anew what its person may see."""
    _send(EVERYBODY, "rights.changed")


def _send(group: str, kind: str) -> None:
    try:
        async_to_sync(get_channel_layer().group_send)(group, {"type": kind})
    except Exception:  # noqa: BLE001  without Redis the lines look for themselves before long
        log.warning("live lines were not told (%s)", kind)
