"""Agents who speak by an outside telephone: dialled for each contact, or kept open all day."""

from __future__ import annotations

from typing import TYPE_CHECKING

from callcore.errors import EventRefused
from callcore.events import Kind
from callcore.routing import events as e
from callcore.routing.events import Status

if TYPE_CHECKING:
    from exchange.live.engine import Engine

#: Nobody answering is known after this time.
_RING_MS = 25_000


class Lines:
    """The outside lines of one site's agents: which are open, and which ring."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self.open: set[str] = set()
        self._rings: dict[str, tuple[int, str, str]] = {}
        self._count = 0

    def rang(self, ring: e.Ring, now_ms: int) -> None:
        """A contact rings for an agent: ring their telephone, if their rules say so."""
        if self._engine.config.desk_of(ring.agent).line == "dialled":
            self._ring(ring.agent, ring.contact, now_ms)

    def signed_in(self, agent: str, now_ms: int) -> None:
        """Open the line of an agent who keeps it open."""
        if self._engine.config.desk_of(agent).line == "open" and agent not in self.open:
            self._ring(agent, "", now_ms)

    def closed(self, agent: str, now_ms: int) -> None:
        """The agent's work is over, and their line with it."""
        self._rings.pop(agent, None)
        if agent in self.open:
            self.open.discard(agent)
            self._told(agent, "closed", now_ms)

    def must_be_open(self, agent: str) -> None:
        """Let pass whose voice can be heard.

        Raises:
            EventRefused: the agent's line is to be kept open, and is not.
        """
        if self._engine.config.desk_of(agent).line != "open" or agent in self.open:
            return
        known = self._engine.config.agents.get(agent)
        if known is None or not known.outside_number:
            words = "You work by an outside line, and no outside telephone is set for you."
            raise EventRefused("no-outside-telephone", words)
        words = "Your outside line is not open. Answer your telephone, or sign in again."
        raise EventRefused("line-not-open", words)

    def due(self, identity: str, now_ms: int) -> None:
        """An outside telephone says what came of ringing; an old ringing says nothing any more."""
        agent, _, number = identity.partition(" ")
        ring = self._rings.get(agent)
        if ring is None or str(ring[0]) != number:
            return
        del self._rings[agent]
        _, contact, result = ring
        self._told(agent, result, now_ms)
        engine = self._engine
        known = engine.router.agents.get(agent)
        if not contact:
            if result == "answered" and known is not None and known.status is not Status.OUT:
                self.open.add(agent)
            engine.dirty.add(f"desk.{agent}")
        elif known is not None and known.status is Status.RINGING and known.contact == contact:
            event = e.Answer(agent) if result == "answered" else e.Decline(agent)
            engine.carry_out(engine.router.apply(event, now_ms), now_ms)

    def _ring(self, agent: str, contact: str, now_ms: int) -> None:
        known = self._engine.config.agents.get(agent)
        if known is None or not known.outside_number:
            return
        prospect = self._engine.outside.ring(known.outside_number)
        result, after_ms = ("no_answer", _RING_MS) if prospect is None else prospect[:2]
        self._count += 1
        self._rings[agent] = (self._count, contact, result)
        self._engine.timers.set(now_ms + after_ms, "line", f"{agent} {self._count}")
        self._told(agent, "rings", now_ms)

    def _told(self, agent: str, result: str, now_ms: int) -> None:
        number = self._engine.config.agents[agent].outside_number
        self._engine.emit(Kind.LINE, now_ms, agent=agent, number=number, result=result)
