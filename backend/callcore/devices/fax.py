"""Fax machines among the callers: when their tone begins, if they are one."""

from __future__ import annotations

#: A simulated caller whose number ends so is a fax machine.
MACHINES = "99"
TONE_AFTER_MS = 1_000


def tone_after_ms(caller: str) -> int | None:
    """How long after it is listened for the tone is heard; None for people."""
    return TONE_AFTER_MS if caller.endswith(MACHINES) else None
