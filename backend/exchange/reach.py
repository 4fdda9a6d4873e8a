"""What of the floor a supervisor sees: every queue, and the agents of their own teams."""

from __future__ import annotations

from typing import Any


def within(teams: frozenset[str] | None, envelope: dict[str, Any]) -> dict[str, Any]:
    """A snapshot or a change of a live topic without the agents of other teams.

    Args:
        teams: ids of the teams that the reader reaches; None for all.
    """
    if teams is None or envelope.get("topic") != "floor":
        return envelope
    reached = dict(envelope)
    for part in ("data", "set"):
        view = envelope.get(part)
        if view and "agents" in view:
            agents = {pk: a for pk, a in view["agents"].items() if a["team_id"] in teams}
            reached[part] = {**view, "agents": agents}
    return reached
