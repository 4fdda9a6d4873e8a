"""Which queues are whose: a supervisor's own, and those that their teams serve."""

from __future__ import annotations

from typing import Any

from accounts.things import Act, Values
from agents.policy import not_all_of_teams
from agents.services import reached, teams_with
from queues.models import Queue


def supervises(user: Any, thing: Queue) -> bool:
    """Whether a queue is a person's to run: their own, or one that their teams serve."""
    teams = reached(user)
    if teams is None or thing.supervisors.filter(pk=user.pk).exists():
        return True
    of_teams = thing.teams.filter(pk__in=teams).exists()
    return of_teams or thing.members.filter(team__in=teams).exists()


def queue(user: Any, act: Act, thing: Queue | None, values: Values) -> str:
    """Whoever runs a queue may change it, and bring in people whom they reach."""
    if thing is not None and not supervises(user, thing):
        return f"You supervise no team of “{thing.name}”, and not the queue itself."
    now = set(thing.members.all()) if thing is not None else set()
    teams_now = {str(team.pk) for team in thing.teams.all()} if thing is not None else set()
    widened = {str(t) for row in (thing.widening if thing else ()) for t in row.get("teams", ())}
    wanted = {str(getattr(team, "pk", team)) for team in values.get("teams", ())} - teams_now
    wanted |= {str(t) for row in values.get("widening", ()) for t in row["teams"]} - widened
    new = [agent for agent in values.get("members", ()) if agent not in now]
    return not_all_of_teams(user, new, teams_with(wanted))
