"""Whose days a person may look at."""

from __future__ import annotations

from typing import Any

from agents.services import agents, reached


def reached_agents(user: Any, team: str = "") -> list[str]:
    """The agents whose days a person may look at: a supervisor those of their teams."""
    mine = reached(user)
    return [
        agent.id for agent in agents().values()
        if (mine is None or agent.team_id in mine) and team in ("", agent.team_id)
    ]  # fmt: skip
