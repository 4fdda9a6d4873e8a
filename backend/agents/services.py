"""What other apps may ask of agents, and how agents are made."""

from __future__ import annotations

import uuid
from typing import Any, NamedTuple

from django.db import transaction

from accounts.services import ROLES, make_user, rename, set_password
from agents.models import Agent, HandlingRules
from changelog import kept
from changelog.errors import Use
from numbers_app.numbering import Held

#: The one row of the centre's handling rules.
RULES_ID = uuid.UUID("00000000-0000-4000-8000-000000000001")
DEFAULT_REASONS = ["Break", "Lunch", "Training", "Back office"]


class AgentFacts(NamedTuple):
    """An agent as the exchange sees one."""

    id: str
    name: str
    extension: str
    team: str


def agents() -> dict[str, AgentFacts]:
    """Every agent, by id."""
    rows = Agent.objects.values_list("pk", "name", "extension", "team")
    return {str(row[0]): AgentFacts(str(row[0]), *row[1:]) for row in rows}


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


def search(text: str) -> list[Use]:
    """Agents whose name or extension holds a text."""
    found = (
        Agent.objects.filter(name__icontains=text)[:5]
        or Agent.objects.filter(extension__startswith=text)[:5]
    )
    return [Use("agent", str(a.pk), a.name, f"agent, {a.extension}") for a in found]
