"""A call, as its caller's telephone shows it."""

from __future__ import annotations

from typing import cast

from callcore.centre.contact import Contact
from callcore.centre.contact_topics import Call, CallTopic, LogLine
from callcore.centre.hold_music import music_take
from callcore.centre.site import Site
from callcore.centre.views.names import agent_name, lines
from callcore.events import Kind, facts


def _listens(site: Site, contact: Contact) -> bool:
    """Whether words are understood where a contact is."""
    machine = contact.flow.machine.asking(site.environment(contact.id))
    return machine.grammar(contact.state) is not None


#: Phases in which a caller hears something of the flow's own, or is heard.
_HEARING = ("playing", "listening", "recording")


def _ended_ms(contact: Contact) -> int | None:
    ends = (event.at_ms for event in contact.log if isinstance(event.fact, facts.Ended))
    return next(ends, None)


def call(site: Site, contact_id: str) -> CallTopic | None:
    """Where a call is, what it hears, and what happened to it."""
    contact = site.find(contact_id)
    if contact is None:
        return None
    return {
        "call": _call(site, contact),
        "log": {
            str(i): cast(LogLine, {**line, "agent_name": agent_name(site, line["agent"])})
            for i, line in enumerate(lines(site, contact))
            if line["kind"] != Kind.AGENT
        },
    }


def _call(site: Site, contact: Contact) -> Call:
    order = [w.id for w in site.router.waiting(contact.queue)]
    queue = site.setup.queues.get(contact.queue)
    state = contact.state
    here = state.inner or state
    queues = state.phase == "queued" and here.phase not in _HEARING
    music = here.role == "music" or queues
    has_it = next((one.by for one in contact.attended.values() if one.how == "has"), "")
    return {
        "number": contact.number,
        "caller": contact.caller,
        "flow": contact.flow.flow_id,
        "flow_name": contact.flow.flow_name,
        "version": contact.flow.number,
        "arrived_ms": contact.arrived_ms,
        "ended_ms": _ended_ms(contact),
        "queue": queue.name if queue else "",
        "agent": agent_name(site, contact.agent) or has_it,
        "channel": "text" if contact.text else "voice",
        "phase": state.phase,
        "step": state.step,
        "listens_until_ms": (
            here.due_ms if here.phase in ("listening", "ringing", "recording", "asking") else None
        ),
        "music": music or contact.talk.held,
        "music_take": music_take(site, contact) if music or contact.talk.held else None,
        "listens": _listens(site, contact),
        "keys": here.phase in _HEARING and here.role != "music",
        "position": order.index(contact.id) + 1 if contact.id in order else None,
        "playing": None if music else contact.playing,
        "ending": state.ending,
    }
