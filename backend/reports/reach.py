"""Whose days, and which contacts' callers, a person may look at."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from agents.services import agents, reached
from exchange.contact_rights import scope_of
from exchange.services import contact_lines
from phone_numbers.plan import national
from reports import finding


def reached_agents(user: Any, team: str = "") -> list[str]:
    """The agents whose days a person may look at: a supervisor those of their teams."""
    mine = reached(user)
    return [
        agent.id
        for agent in agents().values()
        if (mine is None or agent.team_id in mine) and team in ("", agent.team_id)
    ]


def callers(user: Any, contacts: Iterable[str]) -> Mapping[str, str]:
    """Who called, by contact, of those that a person may look at."""
    known, scope = contact_lines(contacts), scope_of(user)
    if scope is not None:
        own = finding.found(finding.Wanted(), None, scope).filter(contact__in=list(known))
        known = {one: known[one] for one in own.values_list("contact", flat=True)}
    return {one: national(line.caller) for one, line in known.items()}
