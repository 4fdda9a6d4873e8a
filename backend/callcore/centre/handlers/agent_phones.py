"""Agents who speak by an outside telephone: dialled for each contact, or kept open all day."""

from __future__ import annotations

from callcore.centre.registry import Occasion, on, timer
from callcore.centre.site import Site
from callcore.errors import EventRefused
from callcore.events import facts
from callcore.routing import events as e
from callcore.routing.events import Status

#: Nobody answering is known after this time.
_RING_MS = 25_000


@on(Occasion.RANG)
def rang(site: Site, ring: e.Ring, now_ms: int) -> None:
    """A contact rings for an agent: ring their telephone, if their rules say so."""
    if site.setup.desk_of(ring.agent).line == "dialled":
        _ring(site, ring.agent, ring.contact, now_ms)


def signed_in(site: Site, agent: str, now_ms: int) -> None:
    """Open the line of an agent who keeps it open."""
    if site.setup.desk_of(agent).line == "open" and agent not in site.lines.open:
        _ring(site, agent, "", now_ms)


def closed(site: Site, agent: str, now_ms: int) -> None:
    """The agent's work is over, and their line with it."""
    site.lines.rings.pop(agent, None)
    if agent in site.lines.open:
        site.lines.open.discard(agent)
        _log_phone(site, agent, "closed", now_ms)


def require_open(site: Site, agent: str) -> None:
    """Allow those whose voice can be heard.

    Raises:
        EventRefused: the agent's line is to be kept open, and is not.
    """
    if site.setup.desk_of(agent).line != "open" or agent in site.lines.open:
        return
    known = site.setup.agents.get(agent)
    if known is None or not known.outside_number:
        words = "You work by an outside line, and no outside telephone is set for you."
        raise EventRefused("no-outside-telephone", words)
    words = "Your outside line is not open. Answer your telephone, or sign in again."
    raise EventRefused("line-not-open", words)


@timer("line")
def due(site: Site, _kind: str, identity: str, now_ms: int) -> None:
    """An outside telephone says what came of ringing; an old ringing says nothing any more."""
    agent, _, number = identity.partition(" ")
    ring = site.lines.rings.get(agent)
    if ring is None or str(ring[0]) != number:
        return
    del site.lines.rings[agent]
    _, contact, result = ring
    _log_phone(site, agent, result, now_ms)
    known = site.router.agents.get(agent)
    if not contact:
        if result == "answered" and known is not None and known.status is not Status.OUT:
            site.lines.open.add(agent)
        site.dirty.add(f"desk.{agent}")
    elif known is not None and known.status is Status.RINGING and known.contact == contact:
        site.route(e.Answer(agent) if result == "answered" else e.Decline(agent), now_ms)


def _ring(site: Site, agent: str, contact: str, now_ms: int) -> None:
    known = site.setup.agents.get(agent)
    if known is None or not known.outside_number:
        return
    prospect = site.devices.outside.ring(known.outside_number)
    result, after_ms = ("no_answer", _RING_MS) if prospect is None else prospect[:2]
    site.lines.count += 1
    site.lines.rings[agent] = (site.lines.count, contact, result)
    site.timers.set(now_ms + after_ms, "line", f"{agent} {site.lines.count}")
    _log_phone(site, agent, "rings", now_ms)


def _log_phone(site: Site, agent: str, result: str, now_ms: int) -> None:
    known = site.setup.agents.get(agent)
    number = known.outside_number if known else ""
    site.emit(facts.Line(number=number, result=result), now_ms, agent=agent)
