"""The floor and the strip: the centre at a glance."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from callcore.centre.contact import NO_TALK, Contact
from callcore.centre.handlers import alarms, alerts
from callcore.centre.site import Site
from callcore.centre.topics import (
    Counts,
    Doing,
    ExpectedWait,
    Figures,
    Floor,
    FloorAgent,
    FloorQueue,
    Group,
    Lines,
    Strip,
    Wait,
)
from callcore.centre.views.names import agent_name, attended_by
from callcore.centre.views.needs import needs
from callcore.measures.figures import LATELY_MS
from callcore.measures.rows import Formula, QueueRow, below_goal, total
from callcore.routing.events import Status
from callcore.routing.router import Agent, Waiting
from callcore.talk.conversation import Talk


def _figures(row: QueueRow, formula: Formula) -> Figures:
    return {
        "offered": row.offered,
        "answered": row.answered,
        "abandoned": row.abandoned,
        "left_otherwise": row.left_otherwise,
        "under_way": row.under_way,
        "short_abandons": row.short_abandons,
        "answered_late": row.answered_late,
        "abandoned_late": row.abandoned_late,
        "average_wait_ms": row.average_wait_ms,
        "longest_answered_ms": row.longest_answered_ms,
        "longest_abandoned_ms": row.longest_abandoned_ms,
        "service_level": row.service_level(formula),
    }


def floor(site: Site) -> Floor:
    """Who waits, and what everybody does."""
    able = _able(site)
    served: dict[str, list[str]] = {}
    for queue, agents in able.items():
        for agent in agents:
            served.setdefault(agent.id, []).append(queue)
    queues = {q: _queue(site, q, able[q]) for q in site.setup.queues}
    signed_in = [
        a for a in site.router.agents.values() if a.status is not Status.OUT and a.id in site.setup.agents
    ]
    centre = _together(queues.values(), signed_in, site.figures.centre_total())
    return {
        "queues": queues,
        "groups": _groups(site, queues, able),
        "sites": _sites(site, signed_in),
        "agents": {a.id: _agent(site, a, served.get(a.id, [])) for a in signed_in},
        "spans": site.spans.shown(),
        "centre": {**centre, "known": len(site.setup.agents)},
    }


def _together(queues: Iterable[FloorQueue], agents: Iterable[Agent], row: QueueRow) -> Group:
    """Queues as one."""
    lines = [(len(queue["waiting"]), queue["first_entered_ms"]) for queue in queues]
    return {
        **_counts(agents),
        "waiting": sum(waiting for waiting, _ in lines),
        "first_entered_ms": _first(first for _, first in lines),
        "figures": _figures(row, "A"),
    }


def _groups(site: Site, queues: dict[str, FloorQueue], able: dict[str, Sequence[Agent]]) -> dict[str, Group]:
    """The queues of each group together: an agent who serves several of them counts once."""
    members: dict[str, list[str]] = {}
    for queue in site.setup.queues.values():
        if queue.group:
            members.setdefault(queue.group, []).append(queue.id)
    return {
        name: _together(
            (queues[queue] for queue in ids),
            {agent.id: agent for queue in ids for agent in able[queue]}.values(),
            total([site.figures.queue_total(queue) for queue in ids]),
        )
        for name, ids in members.items()
    }


def _sites(site: Site, signed_in: list[Agent]) -> dict[str, Counts]:
    """The agents of each place where agents work."""
    found: dict[str, list[Agent]] = {}
    for agent in signed_in:
        place = site.setup.agents[agent.id].site
        if place:
            found.setdefault(place, []).append(agent)
    return {place: _counts(agents) for place, agents in found.items()}


def _able(site: Site) -> dict[str, Sequence[Agent]]:
    """The agents signed in who can take a queue's contacts: its members, and where it asks for
    skills or widens, those who have the skills and those whom it lets in at last."""
    return {queue: site.router.signed_in_for(queue) for queue in site.setup.queues}


def lines(site: Site) -> Lines:
    """Who waits, without who they are: for agents."""
    return {
        "queues": {
            queue.id: {
                "name": queue.name,
                "threshold_s": queue.threshold_s,
                "waiting": [_wait(site, w) for w in site.router.waiting(queue.id) if not w.callback],
            }
            for queue in site.setup.queues.values()
        }
    }


def _wait(site: Site, waiting: Waiting) -> Wait:
    limits = site.setup.limits_of(waiting.queue)
    return {"entered_ms": waiting.entered_ms, "late_from_ms": limits.late_from_ms(waiting.entered_ms)}


def _first(moments: Iterable[int | None]) -> int | None:
    return min((m for m in moments if m is not None), default=None)


def _counts(agents: Iterable[Agent]) -> Counts:
    present = [str(a.status) for a in agents if a.status is not Status.OUT]
    return {
        "signed_in": len(present),
        "available": present.count("available"),
        "ringing": present.count("ringing"),
        "on_contact": present.count("on_contact"),
        "wrapping": present.count("wrapping"),
        "away": present.count("away"),
    }


def _queue(site: Site, queue_id: str, agents: Sequence[Agent]) -> FloorQueue:
    known = site.setup.queues[queue_id]
    waiting = site.router.waiting(queue_id)
    today = _figures(site.figures.queue_total(queue_id), known.formula)
    counts = _counts(agents)
    return {
        "name": known.name,
        "group": known.group,
        "colour": known.colour,
        "threshold_s": known.threshold_s,
        "goal_percent": known.goal_percent,
        "formula": known.formula,
        "channels": list(known.channels),
        "waiting": [
            {
                "contact": w.id,
                **_wait(site, w),
                "caller": site.setup.national(site.contacts[w.id].caller),
                "ringing": agent_name(site, w.agent),
                "priority": round(site.router.priority(w, site.now_ms)),
                "channel": "text" if w.text else "voice",
            }
            for w in waiting
            if not w.callback
        ],
        "callbacks": sum(w.callback for w in waiting),
        "first_entered_ms": _first(w.entered_ms for w in waiting if not w.callback),
        "expected": _expected(site, queue_id, len(waiting)),
        **counts,
        "figures": today,
        "below_goal": below_goal(today["service_level"], known.goal_percent / 100),
        "level_now": site.figures.lately(queue_id, site.now_ms - LATELY_MS).service_level(known.formula),
    }


def _expected(site: Site, queue_id: str, ahead: int) -> ExpectedWait | None:
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
                "scored": score.scored,
                "within": score.within,
                "error_s": score.mean_error_s,
                "bias_s": score.mean_bias_s,
            }
            for name, score in line.scores.items()
        },
    }


def _agent(site: Site, agent: Agent, queues: list[str]) -> FloorAgent:
    known = site.setup.agents[agent.id]
    contact = site.find(agent.contact)
    queue = site.setup.queues.get(contact.home_of(agent) if contact else agent.queue)
    talk = contact.talk if contact is not None and contact.agent == agent.id else NO_TALK
    return {
        "name": known.name,
        "team": known.team,
        "site": known.site,
        "extension": known.extension,
        "staff_number": known.staff_number,
        "status": agent.status,
        "reason": agent.reason,
        "since_ms": agent.since_ms,
        "due_ms": agent.due_ms,
        "caller": site.setup.national(contact.caller) if contact and agent.contact else "",
        "queue": queue.name if queue else "",
        "doing": "" if agent.status is not Status.ON_CONTACT else _doing(talk, contact),
        "texts": 1 + len(agent.others) if agent.others else 0,
        "emergency": any(alarm.agent == agent.id for alarm in site.alarms.values()),
        "team_id": known.team_id,
        "queues": queues,
        "extra": list(agent.extra),
        "attended": attended_by(contact) if contact and contact.agent == agent.id else [],
        "needs": [
            {"why": need.why, "from_ms": need.from_ms, "limit": need.limit} for need in needs(site, agent)
        ],
    }


def _doing(talk: Talk, contact: Contact | None) -> Doing:
    """What an agent on a contact does at the moment."""
    if contact is not None and contact.consultation is not None:
        return "asked"
    if talk.joined:
        return "conference"
    if talk.consult and talk.held:
        return "consulting"
    return "holding" if talk.held else "talking"


def strip(site: Site, now_ms: int) -> Strip:
    """The caller's journey in figures, and what everybody should know."""
    agents = [a for a in site.router.agents.values() if a.status is not Status.OUT]
    lines = [w for q in site.setup.queues for w in site.router.waiting(q)]
    waiting = [w for w in lines if not w.callback]
    in_flows = [c for c in site.contacts.values() if c.state.phase not in ("queued", "with_person")]
    fold = site.figures
    return {
        "figures": {
            "arrived": fold.arrived,
            "in_flows": len(in_flows),
            "waiting": len(waiting),
            "first_entered_ms": _first(w.entered_ms for w in waiting),
            **_counts(agents),
            "invalid": len(site.setup.invalid) + len(site.setup.invalid_in_force),
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
        "alerts": alerts.standing(site),
        "invalid": {
            row.id: {"id": row.id, "page": row.page, "name": row.name, "message": row.message}
            for row in (*site.setup.invalid, *site.setup.invalid_in_force)
        },
        "activity": site.activity.lines(now_ms),
    }
