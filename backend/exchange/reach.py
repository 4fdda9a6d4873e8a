"""What of the floor a supervisor sees: every queue, the agents of their own teams, and the alerts
of the queues that they supervise."""

from __future__ import annotations

from typing import Any, NamedTuple

from agents.services import reached
from queues.policy import supervised


class Reach(NamedTuple):
    """Ids of the teams and queues that somebody reaches; None for all."""

    teams: frozenset[str] | None
    queues: frozenset[str] | None


def reach_of(user: Any) -> Reach:
    """What a person reaches."""
    teams = reached(user)
    queues = None if teams is None else supervised(user)
    return Reach(teams, None if queues is None else frozenset(queues))


#: The sections of a live topic that are about people, by topic.
_OF_PEOPLE = {"floor": ("agents", "spans"), "strip": ("alarms",)}


def within(reach: Reach, envelope: dict[str, Any]) -> dict[str, Any]:
    """A snapshot or a change of a live topic without the agents, and emergencies, of other teams,
    and without the alerts of queues that are not theirs."""
    of_people = _OF_PEOPLE.get(envelope.get("topic", ""))
    if reach.teams is None or of_people is None:
        return envelope
    told = dict(envelope)
    for part in ("data", "set"):
        view = envelope.get(part)
        if view:
            told[part] = {**view, **_own(view, of_people, reach)}
    return told


def _told(alert: dict[str, Any], teams: frozenset[str], queues: frozenset[str]) -> bool:
    """Whether an alert is for a person: for the teams that it names, else for whose queue it is."""
    if alert["teams"]:
        return not teams.isdisjoint(alert["teams"])
    return not alert["queue"] or alert["queue"] in queues


def _own(view: dict[str, Any], of_people: tuple[str, ...], reach: Reach) -> dict[str, Any]:
    teams, queues = reach.teams or frozenset(), reach.queues or frozenset()
    own = {
        section: {name: item for name, item in view[section].items() if item["team_id"] in teams}
        for section in of_people
        if section in view
    }
    alerts = view.get("alerts")
    if alerts is not None:
        own["alerts"] = {name: item for name, item in alerts.items() if _told(item, teams, queues)}
    return own
