"""What each live topic shows, as sections of items: `{section: {id: item}}`.

All moments are milliseconds since the epoch; ages are for the reader to count.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any
from urllib.parse import quote

from callcore.centre.contact import NO_TALK, Contact
from callcore.centre.handlers import alarms, call_control, callbacks
from callcore.centre.handlers.agent_session import away_reasons, codes_of, must_code
from callcore.centre.hold_music import music_take
from callcore.centre.setup import RunnableFlow
from callcore.centre.site import Site
from callcore.centre.telling import Line, Story
from callcore.events import Kind, facts
from callcore.flow.definition import load
from callcore.measures.fold import WAIT_BIN_MS
from callcore.measures.rows import QueueRow
from callcore.routing.events import Status
from callcore.routing.router import Agent
from callcore.talk.conversation import Talk

Item = dict[str, Any]
View = dict[str, dict[str, Any]]

_AGENT_COUNTS = ("available", "ringing", "on_contact", "wrapping", "away")


def view(site: Site, topic: str, now_ms: int) -> View | None:
    """The present content of a topic; None where there is no such thing."""
    kind, _, identity = topic.partition(".")
    match kind:
        case "floor":
            return _floor(site)
        case "strip":
            return _strip(site, now_ms)
        case "call":
            return _call(site, identity)
        case "desk":
            return _desk(site, identity)
        case "flow":
            return _flow(site, identity)
        case "queue":
            return _waits_of(site, identity)
    return None


def _figures(row: QueueRow, formula: Any) -> Item:
    return {
        "offered": row.offered, "answered": row.answered, "abandoned": row.abandoned,
        "left_otherwise": row.left_otherwise, "under_way": row.under_way,
        "short_abandons": row.short_abandons, "answered_late": row.answered_late,
        "abandoned_late": row.abandoned_late, "average_wait_ms": row.average_wait_ms,
        "longest_answered_ms": row.longest_answered_ms,
        "longest_abandoned_ms": row.longest_abandoned_ms,
        "service_level": row.service_level(formula),
    }  # fmt: skip


def _floor(site: Site) -> View:
    by_queue: dict[str, list[Agent]] = {}
    for agent in site.router.agents.values():
        for queue in agent.queues:
            by_queue.setdefault(queue, []).append(agent)
    queues = {q: _queue(site, q, by_queue.get(q, [])) for q in site.setup.queues}
    signed_in = [a for a in site.router.agents.values() if a.status is not Status.OUT]
    return {
        "queues": queues,
        "agents": {a.id: _agent(site, a) for a in signed_in if a.id in site.setup.agents},
        "centre": {
            **_counts(signed_in),
            "known": len(site.setup.agents),
            "waiting": sum(len(q["waiting"]) for q in queues.values()),
            "first_entered_ms": _first(q["first_entered_ms"] for q in queues.values()),
            "figures": _figures(site.fold.centre_total(), "A"),
        },
    }


def _first(moments: Any) -> int | None:
    return min((m for m in moments if m is not None), default=None)


def _counts(agents: list[Agent]) -> Item:
    present = [str(a.status) for a in agents if a.status is not Status.OUT]
    return {"signed_in": len(present), **{name: present.count(name) for name in _AGENT_COUNTS}}


def _queue(site: Site, queue_id: str, agents: list[Agent]) -> Item:
    known = site.setup.queues[queue_id]
    waiting = site.router.waiting(queue_id)
    counts = _counts(agents)
    return {
        "name": known.name,
        "colour": known.colour,
        "threshold_s": known.threshold_s,
        "goal_percent": known.goal_percent,
        "formula": known.formula,
        "waiting": [
            {
                "contact": w.id,
                "entered_ms": w.entered_ms,
                "caller": site.contacts[w.id].caller,
                "ringing": _name(site, w.agent),
            }
            for w in waiting
            if not w.callback
        ],
        "callbacks": sum(w.callback for w in waiting),
        "first_entered_ms": _first(w.entered_ms for w in waiting if not w.callback),
        "expected": _expected(site, queue_id, len(waiting)),
        **counts,
        "figures": _figures(site.fold.queue_total(queue_id), known.formula),
    }


def _expected(site: Site, queue_id: str, ahead: int) -> Item | None:
    """The wait of a caller who came now, and how well waits were estimated so far."""
    line = site.waits.lines.get(queue_id)
    if line is None:
        return None
    able = site.router.at_work_for(queue_id)
    expected = site.waits.expected(queue_id, ahead, 0.0, able, site.now_ms)
    return {
        "seconds": expected.seconds if expected else None,
        "told": bool(expected and expected.may_be_told),
        "best": line.best(),
        "scores": {
            name: {
                "scored": score.scored, "within": score.within,
                "error_s": score.mean_error_s,
                "bias_s": score.mean_bias_s,
            }
            for name, score in line.scores.items()
        },
    }  # fmt: skip


def _name(site: Site, agent_id: str) -> str:
    known = site.setup.agents.get(agent_id)
    return known.name if known else ""


def _agent(site: Site, agent: Agent) -> Item:
    known = site.setup.agents[agent.id]
    contact = site.find(agent.contact)
    queue = site.setup.queues.get(contact.home_of(agent) if contact else agent.queue)
    talk = contact.talk if contact is not None and contact.agent == agent.id else NO_TALK
    return {
        "name": known.name,
        "team": known.team,
        "extension": known.extension,
        "staff_number": known.staff_number,
        "status": str(agent.status),
        "reason": agent.reason,
        "since_ms": agent.since_ms,
        "due_ms": agent.due_ms,
        "caller": site.setup.national(contact.caller) if contact and agent.contact else "",
        "queue": queue.name if queue else "",
        "doing": "" if agent.status is not Status.ON_CONTACT else _doing(talk, contact),
        "texts": 1 + len(agent.others) if agent.others else 0,
        "emergency": any(alarm.agent == agent.id for alarm in site.alarms.values()),
        "team_id": known.team_id,
        "hour": site.hours.get(agent.id, []),
    }


def _doing(talk: Talk, contact: Contact | None) -> str:
    """What an agent on a contact does at the moment."""
    if contact is not None and contact.consultation is not None:
        return "asked"
    if talk.joined:
        return "conference"
    if talk.side and talk.held:
        return "consulting"
    return "holding" if talk.held else "talking"


def _strip(site: Site, now_ms: int) -> View:
    agents = [a for a in site.router.agents.values() if a.status is not Status.OUT]
    lines = [w for q in site.setup.queues for w in site.router.waiting(q)]
    waiting = [w for w in lines if not w.callback]
    in_flows = [c for c in site.contacts.values() if c.state.phase not in ("queued", "with_person")]
    fold = site.fold
    return {
        "figures": {
            "arrived": fold.arrived,
            "in_flows": len(in_flows),
            "waiting": len(waiting),
            "first_entered_ms": _first(w.entered_ms for w in waiting),
            **_counts(agents),
            "invalid": len(site.setup.invalid) + len(site.setup.unsound),
            "diversions": len(site.setup.diversions_in_force(now_ms)),
            "callbacks": sum(c.callback is not None for c in site.contacts.values()),
            "messages": sum(site.unheard.values()),
            "legs": fold.legs,
            "coded": fold.coded,
            "service_level": fold.centre_total().service_level("A"),
        },
        "diversions": {
            d.rule.id: {
                "reason": d.rule.reason,
                "numbers": list(d.numbers),
                "to": d.to,
                "since_ms": round(d.rule.begins.timestamp() * 1000),
                "until_ms": round(d.rule.until.timestamp() * 1000) if d.rule.until else None,
            }
            for d in site.setup.diversions_in_force(now_ms)
        },
        "alarms": alarms.standing(site),
        "invalid": {row.id: row._asdict() for row in (*site.setup.invalid, *site.setup.unsound)},
        "ridge": site.ridge.lines(now_ms),
    }


def _phase(site: Site, contact: Contact, position: int | None) -> Item:
    state = contact.state
    here = state.inner or state
    music = here.role == "music" or (state.phase == "queued" and here.phase not in _HEARING)
    return {
        "phase": state.phase,
        "step": state.step,
        "listens_until_ms": (
            here.due_ms if here.phase in ("listening", "ringing", "recording", "asking") else None
        ),
        "music": music or contact.talk.held,
        "music_take": music_take(site, contact) if music or contact.talk.held else None,
        "listens": _listens(site, contact),
        "keys": here.phase in _HEARING and here.role != "music",
        "position": position,
        "playing": None if music else contact.playing,
        "ending": state.ending,
    }


def _listens(site: Site, contact: Contact) -> bool:
    """Whether words are understood where a contact is."""
    machine = contact.flow.machine.asking(site.environment(contact.id))
    return machine.grammar(contact.state) is not None


#: Phases in which a caller hears something of the flow's own, or is heard.
_HEARING = ("playing", "listening", "recording")


def _ended_ms(contact: Contact) -> int | None:
    ends = (event.at_ms for event in contact.log if isinstance(event.fact, facts.Ended))
    return next(ends, None)


def _lines(site: Site, contact: Contact) -> list[Line]:
    """What happened to a contact, in words."""

    def flow_of(fact: facts.Arrived | facts.WentOn) -> RunnableFlow | None:
        here = contact.flow
        if (here.version_id, here.flow_name) == (fact.version_id, fact.flow_name):
            return here
        if fact.version_id is None:
            return site.setup.ad_hoc(load(fact.definition), fact.flow_name)
        found = site.setup.flows.get(fact.flow)
        return found if found is not None and found.version_id == fact.version_id else None

    return Story(site.setup, flow_of, site.plans.get).lines(contact.story)


def _call(site: Site, contact_id: str) -> View | None:
    contact = site.find(contact_id)
    if contact is None:
        return None
    order = [w.id for w in site.router.waiting(contact.queue)]
    position = order.index(contact_id) + 1 if contact_id in order else None
    queue = site.setup.queues.get(contact.queue)
    return {
        "call": {
            "number": contact.number,
            "caller": contact.caller,
            "flow": contact.flow.flow_id,
            "flow_name": contact.flow.flow_name,
            "version": contact.flow.number,
            "arrived_ms": contact.arrived_ms,
            "ended_ms": _ended_ms(contact),
            "queue": queue.name if queue else "",
            "agent": _name(site, contact.agent),
            "channel": "text" if contact.text else "voice",
            **_phase(site, contact, position),
        },
        "log": {
            str(i): {**line, "agent_name": _name(site, line["agent"])}
            for i, line in enumerate(_lines(site, contact))
            if line["kind"] != Kind.AGENT
        },
    }


def _desk(site: Site, agent_id: str) -> View | None:
    known = site.setup.agents.get(agent_id)
    if known is None:
        return None
    agent = site.router.agents.get(agent_id) or Agent(agent_id)
    desk = site.setup.desk_of(agent_id)
    return {
        "agent": {
            "name": known.name,
            "extension": known.extension,
            "status": str(agent.status),
            "reason": agent.reason,
            "since_ms": agent.since_ms,
            "due_ms": agent.due_ms,
            "next": list(agent.next_status) if agent.next_status else None,
            "away_reasons": away_reasons(site, agent_id),
            "must_code": must_code(site, agent),
            "target_wrap_s": desk.target_wrap_ms // 1000,
            "reminder_s": desk.reminder_ms // 1000,
            "keypad_s": desk.keypad_ms // 1000,
            "screen_s": desk.screen_ms // 1000,
            "line": desk.line,
            "line_open": agent_id in site.lines.open,
            "contact": agent.contact,
            "to_wrap": len(agent.to_wrap),
            "unreached": _unreached(site, agent_id),
            "queues": sorted(
                site.setup.queues[q].name for q in agent.queues if q in site.setup.queues
            ),
        },
        "contacts": {
            name: _desk_contact(site, agent, name)
            for name in (agent.contact, *(other for other, _ in agent.others))
            if name in site.contacts or name in site.over
        },
        "codes": {c.id: c._asdict() for c in codes_of(site, agent)},
        "notices": {
            n.id: {"text": n.text, "until_ms": n.until_ms}
            for n in site.setup.notices
            if n.until_ms > site.now_ms and (not n.teams or known.team_id in n.teams)
        },
    }


def _unreached(site: Site, agent_id: str) -> Item | None:
    """The callback that an agent tried last in vain."""
    event = site.unreached.get(agent_id)
    contact = event and (site.find(event.contact))
    if event is None or not contact or not isinstance(event.fact, facts.NotReached):
        return None
    return {
        "at_ms": event.at_ms, "number": site.setup.national(contact.caller),
        "result": event.fact.result,
        "next_ms": event.fact.next_ms, **(callbacks.told(site, contact) or {}),
    }  # fmt: skip


def _desk_contact(site: Site, agent: Agent, contact_id: str) -> Item:
    contact = site.contacts.get(contact_id) or site.over[contact_id]
    about = site.contacts.get(contact.consultation.of, contact) if contact.consultation else contact
    queue = site.setup.queues.get(about.home_of(agent))
    number = site.setup.numbers.get(contact.number)
    mine, rings = contact.agent == agent.id, agent.status is Status.RINGING
    reply_ms = site.setup.rule_of(agent.id).reply_ms
    return {
        "id": contact.id,
        "asked_by": _name(site, contact.consultation.agent) if contact.consultation else "",
        "purpose": contact.consultation.purpose if contact.consultation else "",
        "talk": _talk(site, contact, about) if mine else None,
        "can": call_control.can(site, contact) if mine and not rings else [],
        "values": {
            name: value for name, value in about.state.values.items()
            if value not in ("", None) and name not in _KNOWN_VALUES
        },
        "link": _link(queue.link, about, queue.name) if queue and queue.link else "",
        "reply_due_ms": (
            contact.unanswered_ms + reply_ms if reply_ms and contact.unanswered_ms else None
        ),
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
            for line in _lines(site, about)
            if line["kind"] == Kind.MOVED and line["title"]
        ],
    }  # fmt: skip


#: Values that every contact has, and the desk shows elsewhere.
_KNOWN_VALUES = ("caller", "dialled", "message")


def _talk(site: Site, contact: Contact, about: Contact) -> Item:
    """How a contact stands: hold, recording (a colleague's question is in that of the caller), and
    whoever is asked."""
    side = site.contacts.get(contact.talk.side)
    return {
        "held": contact.talk.held,
        "recording": about.talk.recording,
        "notice": about.talk.notice,
        "joined": contact.talk.joined,
        "purpose": contact.talk.purpose,
        "side": side.flow.flow_name.partition(": ")[2] if side else "",
        "side_talks": side is not None and side.state.phase in ("with_person", "outside"),
    }


def _link(template: str, contact: Contact, queue: str) -> str:
    """The queue's link with what is known of a contact filled in."""
    filled = {"{caller}": contact.caller, "{number}": contact.number, "{queue}": queue}
    for name, value in filled.items():
        template = template.replace(name, quote(value, safe=""))
    return template


def thread(contact: Contact) -> list[Item]:
    """What was written in a text contact, newest last: by the caller, an agent, or the flow."""
    return [
        {"at_ms": event.at_ms, "by": "flow", "words": event.fact.text}
        if isinstance(event.fact, facts.Heard)
        else {"at_ms": event.at_ms, "by": event.fact.by, "words": event.fact.words}
        for event in contact.log
        if isinstance(event.fact, facts.Heard | facts.Texted)
    ][-200:]


def _flow(site: Site, flow_id: str) -> View:
    here: dict[str, int] = {}
    for contact in site.contacts.values():
        plan = site.plans.get(contact.state.plan)
        if plan is not None and plan.flow_id == flow_id and contact.state.inner is not None:
            here[contact.state.inner.step] = here.get(contact.state.inner.step, 0) + 1
        if contact.flow.flow_id == flow_id:
            stop = contact.state.step.partition(".")[0]
            here[stop] = here.get(stop, 0) + 1
    arms: Mapping[tuple[str, str], int] = site.fold.arms.get(flow_id, {})
    return {
        "here": here,
        "arms": {f"{step} {exit_name}": count for (step, exit_name), count in arms.items()},
        "endings": dict(site.fold.endings.get(flow_id, {})),
    }


def _waits_of(site: Site, queue_id: str) -> View | None:
    """Today's waits in a queue, counted by how long they were."""
    if queue_id not in site.setup.queues:
        return None
    found = site.fold.waits.get(queue_id)
    row = site.fold.queue_total(queue_id)
    return {
        "waits": {
            "threshold_s": site.setup.queues[queue_id].threshold_s,
            "answered_in_time": row.answered - row.answered_late,
            "answered_late": row.answered_late,
            "abandoned_in_time": row.abandoned - row.abandoned_late,
            "abandoned_late": row.abandoned_late,
            "bin_ms": WAIT_BIN_MS,
            "answered": dict(found.answered) if found else {},
            "abandoned": dict(found.abandoned) if found else {},
        }
    }
