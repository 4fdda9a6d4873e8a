"""What other apps may ask of agents, and how agents are made."""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Mapping
from typing import Any, NamedTuple

from django.db import transaction
from django.utils import timezone

from accounts.services import ROLES, make_user, rename, set_password
from agents.models import Agent, HandlingRules, Notice, Skill, Team
from changelog import kept
from changelog.errors import Refused, Use
from numbers_app.numbering import Held

#: The one row of the centre's handling rules.
RULES_ID = uuid.UUID("00000000-0000-4000-8000-000000000001")
DEFAULT_REASONS = ["Break", "Lunch", "Training", "Back office"]


#: A language that an agent speaks is a skill of this name, at the highest level.
LANGUAGE = "language:"
HIGHEST = 10


class AgentFacts(NamedTuple):
    """An agent as the exchange sees one: `team` is its name, `skills` are levels by skill id."""

    id: str
    name: str
    extension: str
    team: str
    team_id: str = ""
    skills: Mapping[str, int] = {}
    outside_number: str = ""


def agents() -> dict[str, AgentFacts]:
    """Every agent, by id."""
    rows = Agent.objects.values_list(
        "pk", "name", "extension", "team__name", "team", "skills", "languages",
        "outside_number",
    )  # fmt: skip
    return {
        str(pk): AgentFacts(
            str(pk), name, extension, team or "", str(team_id or ""),
            {**skills, **{LANGUAGE + language: HIGHEST for language in languages}}, outside,
        )
        for pk, name, extension, team, team_id, skills, languages, outside in rows
    }  # fmt: skip


def skills() -> dict[str, str]:
    """The names of all skills, by id."""
    return {str(pk): name for pk, name in Skill.objects.values_list("pk", "name")}


def members_of_teams() -> dict[str, tuple[str, ...]]:
    """Agents by team id, by name."""
    found: dict[str, list[str]] = {}
    rows = Agent.objects.filter(team__isnull=False).values_list("team", "pk")
    for team, agent in rows:
        found.setdefault(str(team), []).append(str(agent))
    return {team: tuple(agents) for team, agents in found.items()}


def team_names() -> dict[str, str]:
    """The names of all teams, by id."""
    return {str(pk): name for pk, name in Team.objects.values_list("pk", "name")}


def reached(user: Any) -> frozenset[str] | None:
    """The teams that a supervisor reaches; None for an administrator, who reaches everybody."""
    if getattr(user, "role", "") != ROLES.SUPERVISOR:
        return None
    return frozenset(
        str(pk) for pk in Team.objects.filter(supervisors=user).values_list("pk", flat=True)
    )


def must_reach(user: Any, team_id: Any, who: str) -> None:
    """Let pass who may change the people of a team.

    Raises:
        Refused: a supervisor of other teams.
    """
    teams = reached(user)
    if teams is not None and str(team_id or "") not in teams:
        message = f"{who} is in no team that you supervise."
        raise Refused("not-your-team", message, status=403)


def must_reach_values(user: Any, agent: Agent | None, values: Mapping[str, Any]) -> None:
    """Let pass a change of an agent who is, and stays, in a team that the user reaches."""
    name = values.get("name") or (agent.name if agent else "This person")
    if agent is not None:
        must_reach(user, agent.team_id, name)
    if agent is None or "team" in values:
        team = values.get("team")
        must_reach(user, getattr(team, "pk", team), name)


def change_many(
    user: Any, found: Iterable[Agent], values: Mapping[str, Any], levels: Mapping[str, int | None]
) -> int:
    """Change several agents alike, all or none; the number of those changed.

    Args:
        levels: skills to set, or (None) to take away; all others stay.
    """
    count = 0
    with transaction.atomic():
        for agent in found:
            must_reach_values(user, agent, values)
            skills_now = {**agent.skills, **levels}
            kept_skills = {skill: level for skill, level in skills_now.items() if level is not None}
            kept.change(user, agent, None, **values, skills=kept_skills)
            count += 1
    return count


def agents_in_team(team_id: str) -> list[Use]:
    """The agents of a team."""
    found = Agent.objects.filter(team=team_id)
    return [Use("agent", str(a.pk), a.name, "works in it") for a in found]


def agents_with_skill(skill_id: str) -> list[Use]:
    """The agents who have a skill."""
    found = Agent.objects.filter(skills__has_key=skill_id)
    return [Use("agent", str(a.pk), a.name, "has the skill") for a in found]


def extensions() -> list[Held]:
    """The extensions of agents."""
    rows = Agent.objects.values_list("extension", "pk", "name")
    return [Held(extension, "agent", str(pk), name) for extension, pk, name in rows]


def agent_of(user: Any) -> Agent | None:
    """The agent that a user works as."""
    return Agent.objects.filter(user=user).first()


def rules() -> HandlingRules:
    """The centre's handling rules; made with their defaults when first asked for."""
    found, _ = HandlingRules.objects.get_or_create(
        pk=RULES_ID, defaults={"away_reasons": DEFAULT_REASONS}
    )
    return found


def layer_of(team: str = "", agent: str = "") -> HandlingRules | None:
    """The rules that a team or an agent sets; None while it sets none."""
    wanted = {"team": team} if team else {"agent": agent}
    return HandlingRules.objects.filter(**wanted).first()


def set_layer(
    user: Any, layer: HandlingRules | None, revision: int | None, changed: dict[str, Any],
    team: str = "", agent: str = "",
) -> HandlingRules:  # fmt: skip
    """Set or clear (None) some rules of a layer.

    Raises:
        Stale: somebody else changed it in the meantime.
    """
    values = {**(layer.values if layer else {}), **changed}
    values = {name: value for name, value in values.items() if value is not None}
    if layer is not None:
        return kept.change(user, layer, revision, values=values)
    return kept.create(
        user, HandlingRules, team_id=team or None, agent_id=agent or None, values=values
    )


def all_layers() -> tuple[dict[str, Any], dict[str, dict[str, Any]], dict[str, dict[str, Any]]]:
    """What the centre sets, each team (by id), and each agent (by id)."""
    centre = rules().values
    rows = list(HandlingRules.objects.exclude(pk=RULES_ID))
    teams = {str(row.team_id): row.values for row in rows if row.team_id}
    return centre, teams, {str(row.agent_id): row.values for row in rows if row.agent_id}


class NoticeFacts(NamedTuple):
    """A notice as desks show it; no teams: everybody's."""

    id: str
    text: str
    teams: frozenset[str]
    until_ms: int


def notices() -> list[NoticeFacts]:
    """The notices that have not run out."""
    found = Notice.objects.filter(until__gt=timezone.now()).prefetch_related("teams")
    return [
        NoticeFacts(
            str(n.pk), n.text, frozenset(str(team.pk) for team in n.teams.all()),
            round(n.until.timestamp() * 1000),
        )
        for n in found
    ]  # fmt: skip


def make_agent(
    user: Any, *, username: str = "", password: str | None = None, **values: Any
) -> Agent:
    """A new agent, with a sign-in where `username` is given."""
    with transaction.atomic():
        person = None
        if username:
            person = make_user(username, values["name"], ROLES.AGENT, password)
        return kept.create(user, Agent, user=person, **values)


def change_agent(
    user: Any,
    agent: Agent,
    revision: int,
    *,
    username: str | None = None,
    password: str | None = None,
    **values: Any,
) -> Agent:
    """Change an agent and their sign-in together or not at all."""
    with transaction.atomic():
        if agent.user is None and username:
            name = values.get("name", agent.name)
            values["user"] = make_user(username, name, ROLES.AGENT, password)
        changed = kept.change(user, agent, revision, **values)
        if changed.user is not None:
            changed.user.full_name = changed.name
            if username is not None:
                rename(changed.user, username)
            set_password(changed.user, password)
            changed.user.save()
    return changed


def no_sign_in(agent: Agent) -> None:
    """Whoever left cannot sign in any more."""
    if agent.user is not None:
        agent.user.is_active = False
        agent.user.save(update_fields=["is_active"])


def search(text: str) -> list[Use]:
    """Agents whose name or extension holds a text."""
    found = (
        Agent.objects.filter(name__icontains=text)[:5]
        or Agent.objects.filter(extension__startswith=text)[:5]
    )
    return [Use("agent", str(a.pk), a.name, f"agent, {a.extension}") for a in found]
