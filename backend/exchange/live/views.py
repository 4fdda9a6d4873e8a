"""What each live topic shows, as sections of items: `{section: {id: item}}`.

All moments are milliseconds since the epoch; ages are for the reader to count.
"""

from __future__ import annotations

from typing import Any

from callcore.events import Kind
from callcore.measures.rows import QueueRow
from callcore.routing.events import Status
from callcore.routing.router import Agent
from exchange.live import callbacks
from exchange.live.contact import Live
from exchange.live.engine import Engine
from numbers_app.plan import national

Item = dict[str, Any]
View = dict[str, dict[str, Any]]

_AGENT_COUNTS = ("available", "ringing", "on_contact", "wrapping", "away")


def view(engine: Engine, topic: str, now_ms: int) -> View | None:
    """The present content of a topic; None where there is no such thing."""
    kind, _, identity = topic.partition(".")
    match kind:
        case "floor":
            return _floor(engine)
        case "strip":
            return _strip(engine, now_ms)
        case "call":
            return _call(engine, identity)
        case "desk":
            return _desk(engine, identity)
        case "flow":
            return _flow(engine, identity)
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


def _floor(engine: Engine) -> View:
    by_queue: dict[str, list[Agent]] = {}
    for agent in engine.router.agents.values():
        for queue in agent.queues:
            by_queue.setdefault(queue, []).append(agent)
    queues = {q: _queue(engine, q, by_queue.get(q, [])) for q in engine.config.queues}
    signed_in = [a for a in engine.router.agents.values() if a.status is not Status.OUT]
    return {
        "queues": queues,
        "agents": {a.id: _agent(engine, a) for a in signed_in if a.id in engine.config.agents},
        "centre": {
            **_counts(signed_in),
            "known": len(engine.config.agents),
            "waiting": sum(len(q["waiting"]) for q in queues.values()),
            "first_entered_ms": _first(q["first_entered_ms"] for q in queues.values()),
            "figures": _figures(engine.fold.centre_total(), "A"),
        },
    }


def _first(moments: Any) -> int | None:
    return min((m for m in moments if m is not None), default=None)


def _counts(agents: list[Agent]) -> Item:
    present = [str(a.status) for a in agents if a.status is not Status.OUT]
    return {"signed_in": len(present), **{name: present.count(name) for name in _AGENT_COUNTS}}


def _queue(engine: Engine, queue_id: str, agents: list[Agent]) -> Item:
    known = engine.config.queues[queue_id]
    waiting = engine.router.waiting(queue_id)
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
                "caller": engine.contacts[w.id].caller,
                "ringing": _name(engine, w.agent),
            }
            for w in waiting
            if not w.callback
        ],
        "callbacks": sum(w.callback for w in waiting),
        "first_entered_ms": _first(w.entered_ms for w in waiting if not w.callback),
        "expected": _expected(engine, queue_id, len(waiting), counts["signed_in"]),
        **counts,
        "figures": _figures(engine.fold.queue_total(queue_id), known.formula),
    }


def _expected(engine: Engine, queue_id: str, ahead: int, staff: int) -> Item | None:
    """The wait of a caller who came now, and how well waits were estimated so far."""
    line = engine.waits.lines.get(queue_id)
    if line is None:
        return None
    expected = engine.waits.expected(queue_id, ahead, 0.0, staff, engine.now_ms)
    return {
        "seconds": expected.seconds if expected else None,
        "told": bool(expected and expected.may_be_told),
        "best": line.best(),
        "scores": {
            name: {
                "scored": score.scored, "within": score.within,
                "error_s": score.mean_error_s,
                "bias_s": score.bias_s / score.scored if score.scored else None,
            }
            for name, score in line.scores.items()
        },
    }  # fmt: skip


def _name(engine: Engine, agent_id: str) -> str:
    known = engine.config.agents.get(agent_id)
    return known.name if known else ""


def _agent(engine: Engine, agent: Agent) -> Item:
    known = engine.config.agents[agent.id]
    contact = engine.contacts.get(agent.contact) or engine.over.get(agent.contact)
    queue = engine.config.queues.get(agent.queue)
    return {
        "name": known.name,
        "team": known.team,
        "extension": known.extension,
        "status": str(agent.status),
        "reason": agent.reason,
        "since_ms": agent.since_ms,
        "due_ms": agent.due_ms,
        "caller": national(contact.caller) if contact and agent.contact else "",
        "queue": queue.name if queue else "",
        "hour": engine.hours.get(agent.id, []),
    }


def _strip(engine: Engine, now_ms: int) -> View:
    agents = [a for a in engine.router.agents.values() if a.status is not Status.OUT]
    lines = [w for q in engine.config.queues for w in engine.router.waiting(q)]
    waiting = [w for w in lines if not w.callback]
    in_flows = [
        c for c in engine.contacts.values() if c.state.phase not in ("queued", "with_person")
    ]
    fold = engine.fold
    return {
        "figures": {
            "arrived": fold.arrived,
            "in_flows": len(in_flows),
            "waiting": len(waiting),
            "first_entered_ms": _first(w.entered_ms for w in waiting),
            **_counts(agents),
            "unsound": len(engine.config.unsound),
            "diversions": len(engine.config.diversions_in_force(now_ms)),
            "callbacks": sum(c.back is not None for c in engine.contacts.values()),
            "messages": sum(m.new for m in engine.config.mailboxes.values()),
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
            for d in engine.config.diversions_in_force(now_ms)
        },
        "unsound": {row.flow: row._asdict() for row in engine.config.unsound},
        "ridge": engine.ridge.lines(now_ms),
    }


def _phase(contact: Live, position: int | None) -> Item:
    state = contact.state
    here = state.inner or state
    music = here.role == "music" or (state.phase == "queued" and here.phase not in _HEARING)
    return {
        "phase": state.phase,
        "step": state.step,
        "listens_until_ms": (
            here.due_ms if here.phase in ("listening", "ringing", "recording", "asking") else None
        ),
        "music": music,
        "keys": here.phase in _HEARING and here.role != "music",
        "position": position,
        "playing": None if music else contact.playing,
        "ending": state.ending,
    }


#: Phases in which a caller hears something of the flow's own, or is heard.
_HEARING = ("playing", "listening", "recording")


def _ended_ms(contact: Live) -> int | None:
    ends = (line["at_ms"] for line in contact.log if line["kind"] == Kind.ENDED)
    return next(ends, None)


def _call(engine: Engine, contact_id: str) -> View | None:
    contact = engine.contacts.get(contact_id) or engine.over.get(contact_id)
    if contact is None:
        return None
    order = [w.id for w in engine.router.waiting(contact.queue)]
    position = order.index(contact_id) + 1 if contact_id in order else None
    queue = engine.config.queues.get(contact.queue)
    return {
        "call": {
            "number": contact.number,
            "caller": contact.caller,
            "flow": contact.script.flow_id,
            "flow_name": contact.script.flow_name,
            "version": contact.script.number,
            "arrived_ms": contact.arrived_ms,
            "ended_ms": _ended_ms(contact),
            "queue": queue.name if queue else "",
            "agent": _name(engine, contact.agent),
            "channel": "text" if contact.text else "voice",
            **_phase(contact, position),
        },
        "log": {
            str(i): {**line, "agent_name": _name(engine, line["agent"])}
            for i, line in enumerate(contact.log)
            if line["kind"] != Kind.AGENT
        },
    }


def _desk(engine: Engine, agent_id: str) -> View | None:
    known = engine.config.agents.get(agent_id)
    if known is None:
        return None
    agent = engine.router.agents.get(agent_id) or Agent(agent_id)
    return {
        "agent": {
            "name": known.name,
            "extension": known.extension,
            "status": str(agent.status),
            "reason": agent.reason,
            "since_ms": agent.since_ms,
            "due_ms": agent.due_ms,
            "next": list(agent.next_status) if agent.next_status else None,
            "away_reasons": engine.config.away_reasons,
            "wrap_up": engine.config.rule_of(agent_id).wrap_up,
            "target_wrap_s": engine.config.target_wrap_s.get(agent_id, 0),
            "queues": sorted(
                engine.config.queues[q].name for q in agent.queues if q in engine.config.queues
            ),
        },
        "contact": _desk_contact(engine, agent),
        "codes": {c.id: c._asdict() for c in engine.config.codes_of(agent.queue)},
    }


def _desk_contact(engine: Engine, agent: Agent) -> Item:
    contact = engine.contacts.get(agent.contact) or engine.over.get(agent.contact)
    queue = engine.config.queues.get(agent.queue)
    if contact is None:
        return {}
    number = engine.config.numbers.get(contact.number)
    return {
        "id": contact.id,
        "caller": national(contact.caller),
        "number": national(contact.number) if contact.number else "",
        "label": number.label if number else "",
        "noted": contact.label,
        "callback": callbacks.told(contact),
        "channel": "text" if contact.text else "voice",
        "thread": thread(contact) if contact.text else [],
        "queue": queue.name if queue else "",
        "note": queue.note if queue else "",
        "arrived_ms": contact.arrived_ms,
        "entered_ms": contact.entered_ms,
        "path": [
            {"title": line["title"], "sentence": line["sentence"], "words": line["words"]}
            for line in contact.log
            if line["kind"] == Kind.MOVED and line["title"]
        ],
    }


def thread(contact: Live) -> list[Item]:
    """What was written in a text contact, newest last: by the caller, an agent, or the flow."""
    return [
        {"at_ms": line["at_ms"], "by": line.get("by", "flow"), "words": line["words"]}
        for line in contact.log
        if line["kind"] in (Kind.HEARD, Kind.TEXTED)
    ][-200:]


def _flow(engine: Engine, flow_id: str) -> View:
    here: dict[str, int] = {}
    for contact in engine.contacts.values():
        plan = engine.plans.get(contact.state.plan)
        if plan is not None and plan.flow_id == flow_id and contact.state.inner is not None:
            here[contact.state.inner.step] = here.get(contact.state.inner.step, 0) + 1
        if contact.script.flow_id == flow_id:
            stop = contact.state.step.partition(".")[0]
            here[stop] = here.get(stop, 0) + 1
    arms = engine.fold.arms.get(flow_id, {})
    return {
        "here": here,
        "arms": {f"{step} {exit_name}": count for (step, exit_name), count in arms.items()},
        "endings": dict(engine.fold.endings.get(flow_id, {})),
    }
