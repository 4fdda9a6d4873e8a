"""Who of the agents needs a look first, and why."""

from __future__ import annotations

from callcore.centre.handlers.agent_session import DESK_CLOSED
from callcore.centre.site import Site
from callcore.events import facts
from callcore.measures.looks import Need, Why
from callcore.routing.choosing import Agent
from callcore.routing.events import Status


def needs(site: Site, agent: Agent) -> list[Need]:
    """Why an agent needs a look, now or from a moment on if nothing changes until then."""
    limits = site.setup.agents[agent.id].limits
    found = _asks(site, agent)
    if agent.status is Status.AWAY and agent.reason == DESK_CLOSED:
        found.append(Need("desk_closed", agent.since_ms, 0))
    limited: dict[Status, tuple[Why, int]] = {
        Status.ON_CONTACT: ("long_talk", limits.talk_s),
        Status.WRAPPING: ("long_wrap", limits.wrap_s),
        Status.AWAY: ("long_away", limits.away_s),
    }
    why, limit_s = limited.get(agent.status, ("long_talk", 0))
    if limit_s:
        found.append(Need(why, agent.since_ms + limit_s * 1000, limit_s))
    missed, since_ms = site.floor.last_rings.missed(agent.id)
    if limits.missed and missed >= limits.missed:
        found.append(Need("missed", since_ms, missed))
    return found


def _asks(site: Site, agent: Agent) -> list[Need]:
    """A call for help that nobody has answered, and a line that no supervisor has."""
    found: list[Need] = []
    contact = site.contacts.get(agent.contact)
    helps = contact is not None and contact.talk.purpose == "help"
    consult = site.contacts.get(contact.talk.consult) if contact is not None and helps else None
    if consult is not None and consult.state.phase not in ("with_person", "outside"):
        found.append(Need("help", consult.arrived_ms, 0))
    said = site.floor.chats.get(agent.id)
    if said and isinstance(said[-1].fact, facts.Said) and not said[-1].fact.user:
        found.append(Need("wrote", said[-1].at_ms, 0))
    return found
