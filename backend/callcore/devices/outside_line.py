"""The outside line: what happens when a number out there is rung."""

from __future__ import annotations

from collections import deque
from typing import NamedTuple, Protocol


class Prospect(NamedTuple):
    """What a rung number will do: `answered`, `busy` or `failed` after a time, or never anything.

    `talk_ms`: how long whoever answers stays, if the caller does not hang up first.
    """

    result: str
    after_ms: int
    talk_ms: int = 0


class OutsideLine(Protocol):
    """Rings numbers outside of the centre."""

    def ring(self, number: str) -> Prospect | None:
        """What will come of ringing; None where nobody ever answers."""

    def press(self, number: str, key: str) -> None:
        """Let whoever answered at a number hear a key."""


class SimulatedLine:
    """Decides by the number's last figure: 7 is busy, 8 never answers, 9 does not exist.

    Everybody else answers after four seconds and talks for half a minute. Keys are heard, and
    change nothing.
    """

    def __init__(self) -> None:
        #: The keys heard last, each with the number that heard it.
        self.heard: deque[tuple[str, str]] = deque(maxlen=100)

    def press(self, number: str, key: str) -> None:
        self.heard.append((number, key))

    def ring(self, number: str) -> Prospect | None:
        last = number[-1:]
        if last == "8":
            return None
        if last == "7":
            return Prospect("busy", 1_000)
        if last == "9":
            return Prospect("failed", 500)
        return Prospect("answered", 4_000, 30_000)
