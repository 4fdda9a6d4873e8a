"""Whom an agent can send a contact to, or ask."""

from __future__ import annotations

from typing import Any

from agents import groups as ring_groups
from agents.services import agents
from callcore.centre.facts import AgentFacts
from exchange.snapshots import snapshot
from queues.services import choices

#: Who can answer soonest comes first.
_ORDER = ("available", "ringing", "on_contact", "wrapping", "away", "")


def targets(me: Any, teams: frozenset[str] | None) -> list[dict[str, Any]]:
    """Queues and ring groups, then colleagues by how soon they could answer.

    What colleagues do at the moment is shown of one's own team, and to a supervisor of theirs.

    Args:
        me: who asks, if they are an agent; they are left out themself.
        teams: the teams that whoever asks reaches; None for all.
    """
    if me is not None and me.user is not None and me.user.role == "agent":
        teams = frozenset({str(me.team_id)} if me.team_id else ())
    mine = str(me.pk) if me is not None else ""
    floor = (snapshot("floor") or {}).get("data", {})
    states = floor.get("agents", {})
    queues = [
        {
            "to": f"queue:{pk}",
            "name": name,
            "extension": extension,
            "kind": "queue",
            "about": "",
            "status": "",
            "since_ms": None,
        }
        for pk, name, extension in choices()
    ]
    groups = [
        {
            "to": f"group:{pk}",
            "name": name,
            "extension": extension,
            "kind": "group",
            "about": "ring group",
            "status": "",
            "since_ms": None,
        }
        for pk, name, extension in ring_groups.choices()
    ]

    def doing(agent: AgentFacts) -> dict[str, Any]:
        shown = states.get(agent.id) if teams is None or agent.team_id in teams else None
        return {"status": shown["status"] if shown else "", "since_ms": shown["since_ms"] if shown else None}

    people = [
        {
            "to": f"agent:{a.id}",
            "name": a.name,
            "extension": a.extension,
            "kind": "agent",
            "about": a.team,
            **doing(a),
        }
        for a in agents().values()
        if a.id != mine
    ]
    people.sort(key=lambda row: (_ORDER.index(row["status"]), row["name"]))
    return queues + groups + people
