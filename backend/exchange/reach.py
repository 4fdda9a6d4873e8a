"""What of the floor a supervisor sees: every queue, and the agents of their own teams."""

from __future__ import annotations

from typing import Any

#: The sections of a live topic that are about people, by topic.
_OF_PEOPLE = {"floor": ("agents", "spans"), "strip": ("alarms",)}


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
        if view:
            own = {section: _own(view[section], teams) for section in of_people if section in view}
            reached[part] = {**view, **own}
    return reached


def _own(items: dict[str, Any], teams: frozenset[str]) -> dict[str, Any]:
    return {name: item for name, item in items.items() if item["team_id"] in teams}
