"""An agent as a supervisor opens them, and the contacts at which a supervisor is."""

from __future__ import annotations

from callcore.centre.contact import Contact
from callcore.centre.handlers.attendance import attends
from callcore.centre.handlers.supervision import attended
from callcore.centre.site import Site
from callcore.centre.supervision_topics import HeldContact, Party, PartyDoing, PersonTopic, SupervisorTopic
from callcore.centre.views.desks import known_values
from callcore.centre.views.names import agent_name, chat, steered
from callcore.events import facts
from callcore.routing.choosing import Agent
from callcore.routing.events import Status
from callcore.talk.attending import what_may


def person(site: Site, agent_id: str) -> PersonTopic | None:
    """What a supervisor sees of one agent beside the floor."""
    known = site.setup.agents.get(agent_id)
    if known is None:
        return None
    agent = site.router.agents.get(agent_id) or Agent(agent_id)
    held = (site.contacts.get(name) for name in (agent.contact, *(name for name, _ in agent.others)))
    return {
        "person": {
            "name": known.name,
            "team_id": known.team_id,
            "steered": steered(site, agent_id),
            "next": list(agent.next_status) if agent.next_status else None,
            "acts": acts(agent),
            "away_reasons": list(site.setup.away_reasons),
            "own": [queue for queue in agent.queues if queue not in agent.extra],
            "serves": list(agent.extra),
        },
        "contacts": {
            contact.id: _held(site, contact, "")
            for contact in held
            if contact is not None and contact.agent == agent_id
        },
        "chat": chat(site, agent_id),
    }


def acts(agent: Agent) -> dict[str, str]:
    """What a supervisor may have an agent do, each with when it counts."""
    if agent.status is Status.OUT:
        return {}
    busy = agent.status is Status.ON_CONTACT
    wraps = agent.status is Status.WRAPPING
    after = "Once this contact and its wrap-up are over." if busy else "At once."
    if wraps:
        after = "Once this wrap-up is over."
    if agent.status is Status.RINGING:
        after = "At once: what rings goes to the next agent."
    said = {"away": after, "sign_out": after}
    if wraps:
        said["available"] = "At once: this wrap-up ends without a code."
    elif agent.status is Status.AWAY or agent.next_status is not None:
        said["available"] = "They stay available after this contact." if busy else "At once."
    return said


def supervisor(site: Site, user: str) -> SupervisorTopic:
    """The contacts at which a supervisor is."""
    return {
        "contacts": {
            contact.id: {
                **_held(site, contact, user),
                "agent": contact.agent,
                "agent_name": agent_name(site, contact.agent),
                "how": contact.attended[user].how,
                "since_ms": contact.attended[user].since_ms,
            }
            for contact in attends(site, user)
        }
    }


def _held(site: Site, contact: Contact, user: str) -> HeldContact:
    answered = (e.at_ms for e in reversed(contact.log) if isinstance(e.fact, facts.Answered))
    answered_ms = next(answered, None)
    entered_ms = contact.entered_ms or contact.arrived_ms
    queue = site.setup.queues.get(contact.home)
    return {
        "caller": site.setup.national(contact.caller),
        "queue": queue.name if queue else "",
        "label": contact.label,
        "channel": "text" if contact.text else "voice",
        "arrived_ms": contact.arrived_ms,
        "answered_ms": answered_ms,
        "waited_ms": max(0, (answered_ms or entered_ms) - entered_ms),
        "up_front_ms": max(0, entered_ms - contact.arrived_ms),
        "values": known_values(site, contact),
        "parties": _parties(site, contact),
        "may": what_may(attended(site, contact, user)) if contact.agent else {},
    }


def _parties(site: Site, contact: Contact) -> list[Party]:
    talk, found = contact.talk, list[Party]()
    consult = site.contacts.get(talk.consult)
    speaking: PartyDoing = "writes" if contact.text else "speaks"
    heard: PartyDoing = "hears_music" if talk.held else speaking
    found.append({"who": "caller", "name": site.setup.national(contact.caller), "doing": heard})
    if contact.agent:
        alone = talk.held and consult is None
        doing: PartyDoing = "waits" if alone else speaking
        found.append({"who": "agent", "name": agent_name(site, contact.agent), "doing": doing})
    if consult is not None and consult.consultation is not None:
        there = consult.state.phase in ("with_person", "outside")
        to = consult.consultation.to
        name = agent_name(site, consult.agent) or site.setup.name_of(to) or to
        with_agent = talk.joined or talk.held
        said: PartyDoing = "rings" if not there else "speaks" if with_agent else "hears_music"
        found.append({"who": "colleague", "name": name, "doing": said})
    for one in contact.attended.values():
        how: PartyDoing = "speaks"
        if one.how in ("listens", "coaches"):
            how = "listens" if one.how == "listens" else "coaches"
        found.append({"who": "supervisor", "name": one.by, "doing": how})
    return found
