"""The one stream of events: the exchange writes it, every figure is folded from it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NamedTuple

from callcore.events.codec import KINDS, Kind, Unreadable, decode, encode
from callcore.events.facts import Fact

__all__ = ["Fact", "Happening", "Kind", "Unreadable", "decode", "encode", "read"]


class Happening(NamedTuple):
    """One event of the stream, in its order: when (ms since the epoch), and what happened to which
    contact, or by which agent."""

    at_ms: int
    contact: str
    agent: str
    fact: Fact

    @property
    def kind(self) -> Kind:
        """Its kind, as the journal names it."""
        return KINDS[type(self.fact)]


def read(at_ms: int, kind: str, contact: str, agent: str, body: Mapping[str, Any]) -> Happening:
    """An event as the journal keeps it. See `decode`."""
    return Happening(at_ms, contact, agent, decode(kind, body))
