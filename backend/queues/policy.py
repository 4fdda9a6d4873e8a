"""Which queues are whose: a supervisor's own, and those that their teams serve."""

from __future__ import annotations

from typing import Any

from django.db.models import Q

from accounts.things import Act, Values
from agents.policy import not_all_of_teams
from agents.services import reached, teams_with
from queues.models import AlertRule, Queue


def supervises(user: Any, thing: Queue) -> bool:
    """Whether a queue is a person's to run: their own, or one that their teams serve."""
    teams = reached(user)
    if teams is None or thing.supervisors.filter(pk=user.pk).exists():
        return True
    of_teams = thing.teams.filter(pk__in=teams).exists()
    return of_teams or thing.members.filter(team__in=teams).exists()


def supervised(user: Any) -> list[str] | None:
    """The ids of the queues that are a person's to run; None for all."""
    teams = reached(user)
    if teams is None:
        return None
    own = Q(supervisors=user) | Q(teams__in=teams) | Q(members__team__in=teams)
    return [str(pk) for pk in Queue.objects.filter(own).values_list("pk", flat=True).distinct()]


def alert(user: Any, act: Act, thing: AlertRule | None, values: Values) -> str:
    """A rule is its queue's; those of all queues are the administrators'. It tells whom the person
    reaches, and whom it told before."""
    queues = {values["queue"]} if "queue" in values else set()
    queues |= {thing.queue} if thing is not None else set()
    if reached(user) is not None and (None in queues or (thing is None and not queues)):
        return "Alerts about all queues are an administrator’s: choose a queue that you supervise."
    told = set(thing.teams.all()) if thing is not None else set()
    new = [team for team in values.get("teams", ()) if team not in told]
    words = (queue(user, "change", one, {}) for one in queues if one is not None)
    return next((word for word in words if word), "") or not_all_of_teams(user, [], new)


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
