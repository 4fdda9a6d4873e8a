"""What stands in a queue's JSON fields, with the defaults for what is not said."""

from __future__ import annotations

from pydantic import BaseModel, Field, TypeAdapter

from callcore.routing.events import Widen


class WidenRow(BaseModel):
    """After some seconds: skills may be lower by some levels, other teams are let in."""

    after_s: int = Field(ge=1)
    lower: int = Field(default=0, ge=0, le=10)
    teams: list[str] = []

    def step(self, of_team: dict[str, tuple[str, ...]]) -> Widen:
        """The step as the router takes it."""
        agents = tuple(agent for team in self.teams for agent in of_team.get(team, ()))
        return Widen(self.after_s * 1000, self.lower, agents)


class AskRow(BaseModel):
    """A skill (its id) and the least level."""

    skill: str
    least: int = Field(default=1, ge=1, le=10)


WIDENING: TypeAdapter[list[WidenRow]] = TypeAdapter(list[WidenRow])
ASKS: TypeAdapter[list[AskRow]] = TypeAdapter(list[AskRow])
RANKS: TypeAdapter[dict[str, int]] = TypeAdapter(dict[str, int])
CHANNELS: TypeAdapter[list[str]] = TypeAdapter(list[str])
