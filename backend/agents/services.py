"""What other apps may ask of agents, and how agents are made."""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Mapping
from typing import Any

from django.db import transaction
from django.db.models import Q, QuerySet

from accounts.services import ROLES, change_user, make_user, sign_in_name
from accounts.things import must
from agents.models import Agent, HandlingRules, Notice, Skill, Team
from callcore.centre.facts import HIGHEST, LANGUAGE, AgentFacts, LookLimits, NoticeFacts
from changelog import config_store
from changelog.kinds import RecordedKind, exists
from phone_numbers.numbering import Held
from web.clock import site_now
from web.errors import Use

#: The one row of the centre's handling rules.
RULES_ID = uuid.UUID("00000000-0000-4000-8000-000000000001")
DEFAULT_REASONS = ["Break", "Lunch", "Training", "Back office"]


_LIMITS = ("team__talk_limit_s", "team__wrap_limit_s", "team__away_limit_s", "team__missed_limit")


def agents() -> dict[str, AgentFacts]:
    """Every agent, by id."""
    rows = Agent.objects.values_list(
        "pk",
        "name",
        "extension",
        "team__name",
        "team",
        "skills",
        "languages",
        "outside_number",
        "staff_number",
        "site",
        *_LIMITS,
    )
    return {
        str(pk): AgentFacts(
            str(pk),
            name,
            extension,
            team or "",
            str(team_id or ""),
            {**skills, **{LANGUAGE + language: HIGHEST for language in languages}},
            outside,
            staff,
            LookLimits(*limits) if team_id else LookLimits(),
            site,
        )
        for pk, name, extension, team, team_id, skills, languages, outside, staff, site, *limits in rows
    }


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


def all_teams() -> QuerySet[Team]:
    """Every team."""
    return Team.objects.all()


def teams_with(identities: Iterable[str]) -> list[Team]:
    """The teams with some ids."""
    return list(Team.objects.filter(pk__in=list(identities)))


def reached(user: Any) -> frozenset[str] | None:
    """The teams that a supervisor reaches; None for an administrator, who reaches everybody."""
    if getattr(user, "role", "") != ROLES.SUPERVISOR:
        return None
    return frozenset(str(pk) for pk in Team.objects.filter(supervisors=user).values_list("pk", flat=True))


def reaches(user: Any, agent: str) -> bool:
    """Whether a supervisor reaches an agent, by id."""
    teams = reached(user)
    return teams is None or Agent.objects.filter(pk=agent, team__in=teams).exists()


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
            must(user, "change", agent, values)
            skills_now = {**agent.skills, **levels}
            kept_skills = {skill: level for skill, level in skills_now.items() if level is not None}
            config_store.change(user, agent, None, **values, skills=kept_skills)
            count += 1
    return count


def prune_agent(values: dict[str, Any]) -> list[str]:
    """Take skills that are gone out of an older state of an agent."""
    lost = set(values.get("skills", ())) - skills().keys()
    for skill in lost:
        del values["skills"][skill]
    return [f"{len(lost)} of the skills, gone by now"] if lost else []


def prune_rules(values: dict[str, Any]) -> list[str]:
    """Take targets that are gone out of an older state of handling rules."""
    rules_then = values.get("values", {})
    lost = [n for n, v in rules_then.items() if isinstance(v, str) and not exists(v)]
    for name in lost:
        del rules_then[name]
    return [f"the rule {name}, which named somebody gone" for name in lost]


def rules_leading_to(kind: str, identity: str) -> list[Use]:
    """The handling rules by which help or an emergency goes to somebody."""
    reference = f"{kind}:{identity}"
    found = HandlingRules.objects.filter(Q(values__help_to=reference) | Q(values__emergency_to=reference))
    return [Use("handling_rules", str(r.pk), r.title, "whom agents call") for r in found]


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


def agent_with(identity: str) -> Agent | None:
    """An agent by id, if there is one (any more)."""
    return Agent.objects.filter(pk=identity).first()


def rules() -> HandlingRules:
    """The centre's handling rules; made with their defaults when first asked for."""
    found, _ = HandlingRules.objects.get_or_create(pk=RULES_ID, defaults={"away_reasons": DEFAULT_REASONS})
    return found


def layer_of(team: str = "", agent: str = "") -> HandlingRules | None:
    """The rules that a team or an agent sets; None while it sets none."""
    wanted = {"team": team} if team else {"agent": agent}
    return HandlingRules.objects.filter(**wanted).first()


def set_layer(
    user: Any,
    layer: HandlingRules | None,
    revision: int | None,
    changed: dict[str, Any],
    team: str = "",
    agent: str = "",
) -> HandlingRules:
    """Set or clear (None) some rules of a layer.

    Raises:
        Stale: somebody else changed it in the meantime.
    """
    values = {**(layer.values if layer else {}), **changed}
    values = {name: value for name, value in values.items() if value is not None}
    if layer is not None:
        return config_store.change(user, layer, revision, values=values)
    return config_store.create(
        user, HandlingRules, team_id=team or None, agent_id=agent or None, values=values
    )


def all_layers() -> tuple[dict[str, Any], dict[str, dict[str, Any]], dict[str, dict[str, Any]]]:
    """What the centre sets, each team (by id), and each agent (by id)."""
    centre = rules().values
    rows = list(HandlingRules.objects.exclude(pk=RULES_ID))
    teams = {str(row.team_id): row.values for row in rows if row.team_id}
    return centre, teams, {str(row.agent_id): row.values for row in rows if row.agent_id}


def notices_for(team: str) -> list[Use]:
    """The notices at a team's desks: without it one would be everybody's."""
    found = Notice.objects.filter(teams=team, until__gt=site_now())
    return [Use("notice", str(n.pk), n.title, "notice") for n in found]


def notices() -> list[NoticeFacts]:
    """The notices that have not run out."""
    found = Notice.objects.filter(until__gt=site_now()).prefetch_related("teams")
    return [
        NoticeFacts(
            str(n.pk),
            n.text,
            frozenset(str(team.pk) for team in n.teams.all()),
            round(n.since.timestamp() * 1000),
            round(n.until.timestamp() * 1000),
        )
        for n in found
    ]


def make_agent(user: Any, *, username: str = "", password: str | None = None, **values: Any) -> Agent:
    """A new agent, with a sign-in where `username` is given."""
    with transaction.atomic():
        person = None
        if username:
            person = make_user(user, username, values["name"], str(ROLES.AGENT), password)
        return config_store.create(user, Agent, user=person, **values)


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
            values["user"] = make_user(user, username, name, str(ROLES.AGENT), password)
        changed = config_store.change(user, agent, revision, **values)
        if changed.user is not None:
            renamed: dict[str, Any] = {} if username is None else {"username": sign_in_name(username)}
            change_user(user, changed.user, password=password, full_name=changed.name, **renamed)
    return changed


def make_agent_of(by: Any, person: Any, extension: str) -> Agent:
    """Let a person who signs in already work as an agent."""
    return config_store.create(by, Agent, user=person, name=person.full_name, extension=extension)


def no_sign_in(by: Any, agent: Agent) -> None:
    """Whoever left cannot sign in any more."""
    if agent.user is not None:
        change_user(by, agent.user, is_active=False)


def follow_people(by: Any, kind: RecordedKind, thing: Any, before: Any, after: Any) -> None:
    """Who left and is taken back can sign in again; who supervises no more has no teams."""
    if kind.name == "agent" and not before and thing.user is not None and not thing.user.is_active:
        change_user(by, thing.user, is_active=True)
    if kind.name == "user" and after and thing.role != ROLES.SUPERVISOR:
        for team in Team.objects.filter(supervisors=thing.pk):
            stay = team.supervisors.exclude(pk=thing.pk)
            config_store.change(by, team, None, supervisors=list(stay))


def set_teams(by: Any, supervisor: Any, wanted: Iterable[Team]) -> None:
    """Let a supervisor supervise just these teams."""
    chosen = {team.pk for team in wanted}
    for team in Team.objects.all():
        now = set(team.supervisors.values_list("pk", flat=True))
        then = now | {supervisor.pk} if team.pk in chosen else now - {supervisor.pk}
        if then != now:
            config_store.change(by, team, None, supervisors=list(then))


def search(text: str) -> list[Use]:
    """Agents whose name or extension holds a text."""
    found = (
        Agent.objects.filter(name__icontains=text)[:5] or Agent.objects.filter(extension__startswith=text)[:5]
    )
    return [Use("agent", str(a.pk), a.name, f"agent, {a.extension}") for a in found]
