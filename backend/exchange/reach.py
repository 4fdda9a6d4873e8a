"""What of the floor a supervisor sees: every queue, and the agents of their own teams."""

from __future__ import annotations

from typing import Any

#: The section of a live topic that is about people, by topic.
_OF_PEOPLE = {"floor": "agents", "strip": "alarms"}


def within(teams: frozenset[str] | None, envelope: dict[str, Any]) -> dict[str, Any]:
    """A snapshot or a change of a live topic without the agents, and emergencies, of other teams.

    Args:
        teams: ids of the teams that the reader reaches; None for all.
    """
    of_people = _OF_PEOPLE.get(envelope.get("topic", ""))
    if teams is None or of_people is None:
        return envelope
    reached = dict(envelope)
    for part in ("data", "set"):
        view = envelope.get(part)
        if view and of_people in view:
            own = {pk: a for pk, a in view[of_people].items() if a["team_id"] in teams}
            reached[part] = {**view, of_people: own}
    return reached
