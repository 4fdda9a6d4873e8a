"""Which people, teams and notices are whose: a supervisor reaches those of their teams."""

from __future__ import annotations

from typing import Any

from accounts.things import Act, Values
from agents.models import Agent, HandlingRules, Notice, RingGroup, Team
from agents.services import reached


def not_of_team(user: Any, team_id: Any, who: str) -> str:
    """Why a person does not reach somebody of a team."""
    teams = reached(user)
    if teams is None or str(team_id or "") in teams:
        return ""
    return f"{who} is in no team that you supervise."


def not_all_of_teams(user: Any, agents: Any, teams: Any) -> str:
    """Why a person does not reach all of some agents and teams."""
    for agent in agents:
        words = not_of_team(user, agent.team_id, agent.name)
        if words:
            return words
    mine = reached(user)
    for team in teams:
        if mine is not None and str(team.pk) not in mine:
            return f"You do not supervise the team “{team.name}”."
    return ""


def agent(user: Any, act: Act, thing: Agent | None, values: Values) -> str:
    """An agent is, and stays, in a team that the person reaches."""
    name = values.get("name") or (thing.name if thing else "This person")
    if thing is not None:
        words = not_of_team(user, thing.team_id, name)
        if words:
            return words
    if thing is None or "team" in values:
        team = values.get("team")
        return not_of_team(user, getattr(team, "pk", team), name)
    return ""


def handling_rules(user: Any, act: Act, thing: HandlingRules | None, values: Values) -> str:
    """The layer of the centre, of a team, or of an agent."""
    team: Team | None = values.get("team") or getattr(thing, "team", None)
    of: Agent | None = values.get("agent") or getattr(thing, "agent", None)
    if of is not None:
        return not_of_team(user, of.team_id, of.name)
    if team is not None:
        return not_of_team(user, team.pk, team.name)
    return "" if reached(user) is None else "Only an administrator sets the centre's rules."


def ring_group(user: Any, act: Act, thing: RingGroup | None, values: Values) -> str:
    """A group's people are in teams that the person reaches, before and after."""
    members = {*values.get("members", ()), *(thing.members if thing is not None else ())}
    named: dict[str, list[str]] = {"agent": [], "team": []}
    for member in members:
        kind, _, identity = member.partition(":")
        named[kind].append(identity)
    people = Agent.objects.filter(pk__in=named["agent"])
    return not_all_of_teams(user, people, Team.objects.filter(pk__in=named["team"]))


def notice(user: Any, act: Act, thing: Notice | None, values: Values) -> str:
    """A supervisor tells their own teams; what others are told is not theirs to change."""
    mine = reached(user)
    if mine is None:
        return ""
    standing = list(thing.teams.all()) if thing is not None else None
    wanted = values.get("teams", standing)
    for teams in (wanted, standing if thing is not None else wanted):
        named = {str(team.pk) for team in teams or ()}
        if not named or named - mine:
            return "Name teams that you supervise: others are not yours to tell."
    return ""
