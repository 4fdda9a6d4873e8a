"""Whom an agent can send a contact to, or ask."""

from __future__ import annotations

from typing import Any

from agents.services import agents
from exchange.snapshots import snapshot
from queues.services import choices

#: Who can answer soonest comes first.
_ORDER = ("available", "ringing", "on_contact", "wrapping", "away", "")


def targets(me: str) -> list[dict[str, Any]]:
    """Queues, then colleagues by how soon they could answer; `me` is left out."""
    floor = (snapshot("floor") or {}).get("data", {})
    states = {pk: shown["status"] for pk, shown in floor.get("agents", {}).items()}
    queues = [
        {"to": f"queue:{pk}", "name": name, "extension": extension, "kind": "queue",
         "about": "", "status": ""}
        for pk, name, extension in choices()
    ]  # fmt: skip
    people = [
        {"to": f"agent:{a.id}", "name": a.name, "extension": a.extension, "kind": "agent",
         "about": a.team, "status": states.get(a.id, "")}
        for a in agents().values()
        if a.id != me
    ]  # fmt: skip
    return queues + sorted(people, key=lambda row: (_ORDER.index(row["status"]), row["name"]))
