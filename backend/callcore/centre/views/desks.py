"""A desk: the agent's state, the contacts there, and what can be done with them."""

from __future__ import annotations

from typing import Any
from urllib.parse import quote

from callcore.centre.contact import Contact
from callcore.centre.contact_topics import Desk, DeskCode, DeskContact, TalkNow, Unreached, Written
from callcore.centre.facts import CodeFacts
from callcore.centre.handlers import alarms, call_control, callbacks
from callcore.centre.handlers.agent_session import away_reasons, codes_of, must_code, sign_out_reasons
from callcore.centre.site import Site
from callcore.centre.views.names import agent_name, attended_by, chat, lines, steered
from callcore.events import Kind, facts
from callcore.flow.blocks import plainly
from callcore.routing.events import Status
from callcore.routing.router import Agent


def desk(site: Site, agent_id: str) -> Desk | None:
    """What an agent sees at work."""
    known = site.setup.agents.get(agent_id)
    if known is None:
        return None
    agent = site.router.agents.get(agent_id) or Agent(agent_id)
    rules = site.setup.desk_of(agent_id)
    return {
        "agent": {
            "name": known.name,
            "extension": known.extension,
            "status": agent.status,
            "reason": agent.reason,
            "since_ms": agent.since_ms,
            "due_ms": agent.due_ms,
            "next": list(agent.next_status) if agent.next_status else None,
            "away_reasons": list(away_reasons(site, agent_id)),
            "must_code": must_code(site, agent),
            "target_wrap_s": rules.target_wrap_ms // 1000,
            "reminder_s": rules.reminder_ms // 1000,
            "keypad_s": rules.keypad_ms // 1000,
            "screen_s": rules.screen_ms // 1000,
            "line": rules.line,
            "line_open": agent_id in site.lines.open,
            "contact": agent.contact,
            "to_wrap": len(agent.to_wrap),
            "unreached": _unreached(site, agent_id),
            "steered": steered(site, agent_id),
            "queue_ids": list(agent.queues),
            "sign_out_reasons": list(sign_out_reasons(site, agent_id)),
            "queues": sorted(site.setup.queues[q].name for q in agent.queues if q in site.setup.queues),
        },
        "contacts": {
            name: _desk_contact(site, agent, name)
            for name in (agent.contact, *(other for other, _ in agent.others))
            if name in site.contacts or name in site.over
        },
        "codes": {code.id: _code(code) for code in codes_of(site, agent)},
        "notices": {
            n.id: {"text": n.text, "since_ms": n.since_ms, "until_ms": n.until_ms}
            for n in site.setup.notices
            if n.until_ms > site.now_ms and (not n.teams or known.team_id in n.teams)
        },
        "chat": chat(site, agent_id),
    }


def _code(code: CodeFacts) -> DeskCode:
    return {
        "id": code.id,
        "name": code.name,
        "digits": code.digits,
        "group": code.group,
        "long_label": code.long_label,
    }


def _unreached(site: Site, agent_id: str) -> Unreached | None:
    """The callback that an agent tried last in vain."""
    event = site.unreached.get(agent_id)
    contact = site.find(event.contact) if event else None
    if event is None or contact is None or not isinstance(event.fact, facts.NotReached):
        return None
    tried = contact.callback
    return {
        "at_ms": event.at_ms,
        "number": site.setup.national(contact.caller),
        "result": event.fact.result,
        "next_ms": event.fact.next_ms,
        "attempt": tried.tried if tried else 0,
        "attempts": tried.attempts if tried else 0,
    }


def _desk_contact(site: Site, agent: Agent, contact_id: str) -> DeskContact:
    contact = site.contacts.get(contact_id) or site.over[contact_id]
    about = site.contacts.get(contact.consultation.of, contact) if contact.consultation else contact
    queue = site.setup.queues.get(about.home_of(agent))
    number = site.setup.numbers.get(contact.number)
    mine, rings = contact.agent == agent.id, agent.status is Status.RINGING
    reply_ms = site.setup.rule_of(agent.id).reply_ms
    return {
        "id": contact.id,
        "asked_by": agent_name(site, contact.consultation.agent) if contact.consultation else "",
        "purpose": contact.consultation.purpose if contact.consultation else "",
        "talk": _talk(site, contact, about) if mine else None,
        "can": call_control.can(site, contact) if mine and not rings else [],
        "values": known_values(site, about),
        "link": _link(queue.link, about, queue.name) if queue and queue.link else "",
        "reply_due_ms": (contact.unanswered_ms + reply_ms if reply_ms and contact.unanswered_ms else None),
        "unanswered": bool(contact.unanswered_ms),
        "caller": site.setup.national(contact.caller),
        "number": site.setup.national(contact.number) if contact.number else "",
        "label": number.label if number else "",
        "noted": about.label,
        "callback": callbacks.told(site, contact),
        "alarm": alarms.as_at_desk(site, contact.id),
        "channel": "text" if contact.text else "voice",
        "thread": thread(contact) if contact.text else [],
        "queue": queue.name if queue else "",
        "note": queue.note if queue else "",
        "arrived_ms": contact.arrived_ms,
        "entered_ms": contact.entered_ms,
        "path": [
            {"title": line["title"], "sentence": line["sentence"], "words": line["words"]}
            for line in lines(site, about)
            if line["kind"] == Kind.MOVED and line["title"]
        ],
    }


#: What the references in values lead to: for people by name, or not at all.
_REFERENCES = frozenset({"agent", "queue", "group", "mailbox", "flow", "sound", "hours", "number", "table"})
#: Values that every contact has, and the desk shows elsewhere.
_KNOWN_VALUES = ("caller", "dialled", "message")


def known_values(site: Site, contact: Contact) -> dict[str, Any]:
    """What a contact has brought with it, besides what every contact has; things by their names."""
    named = {
        name: _as_read(site, value)
        for name, value in plainly(contact.state.values).items()
        if name not in _KNOWN_VALUES
    }
    return {name: value for name, value in named.items() if value not in ("", None)}


def _as_read(site: Site, value: Any) -> Any:
    """A value for people: what a reference leads to by its name, if that is known here."""
    kind, is_reference, _ = value.partition(":") if isinstance(value, str) else ("", "", "")
    if not is_reference or kind not in _REFERENCES:
        return value
    return site.setup.name_of(value)


def _talk(site: Site, contact: Contact, about: Contact) -> TalkNow:
    """How a contact stands: hold, recording (a colleague's question is in that of the caller), and
    whoever is asked."""
    consult = site.contacts.get(contact.talk.consult)
    return {
        "held": contact.talk.held,
        "recording": about.talk.recording,
        "notice": about.talk.notice,
        "joined": contact.talk.joined,
        "attended": attended_by(contact, told=True),
        "purpose": contact.talk.purpose,
        "consult": consult.flow.flow_name.partition(": ")[2] if consult else "",
        "consult_talks": consult is not None and consult.state.phase in ("with_person", "outside"),
    }


def _link(template: str, contact: Contact, queue: str) -> str:
    """The queue's link with what is known of a contact filled in."""
    filled = {"{caller}": contact.caller, "{number}": contact.number, "{queue}": queue}
    for name, value in filled.items():
        template = template.replace(name, quote(value, safe=""))
    return template


def thread(contact: Contact) -> list[Written]:
    """What was written in a text contact, newest last: by the caller, an agent, or the flow."""
    return [
        _written(event.at_ms, event.fact)
        for event in contact.log
        if isinstance(event.fact, facts.Heard | facts.Texted)
    ][-200:]


def _written(at_ms: int, fact: facts.Heard | facts.Texted) -> Written:
    if isinstance(fact, facts.Heard):
        return {"at_ms": at_ms, "by": "flow", "words": fact.text}
    return {"at_ms": at_ms, "by": fact.by, "words": fact.words}
