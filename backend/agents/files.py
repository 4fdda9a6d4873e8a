"""Agents as a CSV file: out, and in again, all of it or nothing. The extension says who is who."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, NamedTuple

from django.db import transaction

from accounts.things import must
from agents import services
from agents.models import Agent
from callcore.errors import EventRefused
from callcore.lookups.table import BadLine, Column, folded, read
from web.errors import Refused

#: The file's columns; the first says who is who.
NAMES = (
    "Extension",
    "Name",
    "Team",
    "Site",
    "Languages",
    "Skills",
    "Outside number",
    "Signs in as",
    "Staff number",
)
COLUMNS = tuple(Column(name, "text") for name in NAMES)
MOST_NAMED = 50
MOST_AGENTS = 2000


class Line(NamedTuple):
    """One line that can be taken: who it is about (None: somebody new), and what changes."""

    agent: Agent | None
    values: dict[str, Any]


class Found(NamedTuple):
    """What a file would do; nothing has been changed."""

    lines: list[Line]
    bad: list[BadLine]
    same: int


def rows() -> Iterator[dict[str, str]]:
    """Every agent as a line of the file."""
    skills = services.skills()
    for agent in Agent.objects.select_related("team", "user"):
        named = sorted((skills[pk], level) for pk, level in agent.skills.items() if pk in skills)
        cells = (
            agent.extension,
            agent.name,
            agent.team.name if agent.team else "",
            agent.site,
            " ".join(agent.languages),
            "; ".join(f"{name} {level}" for name, level in named),
            agent.outside_number,
            agent.user.username if agent.user else "",
            agent.staff_number,
        )
        yield dict(zip(NAMES, cells, strict=True))


def look(user: Any, data: bytes, validate: Any) -> Found:
    """What a file would do.

    Args:
        validate: `validate(agent, values)` gives the values as they are kept, or raises
            `ValueError` with the column and words.

    Raises:
        NotATable: it is no such file.
    """
    # Files from before there were staff numbers say nothing about them.
    numbered = NAMES[-1].encode() in data.split(b"\n", 1)[0]
    columns = COLUMNS if numbered else COLUMNS[:-1]
    table = read(columns, data)
    known = {a.extension: a for a in Agent.objects.select_related("team", "user")}
    teams = {folded(name): pk for pk, name in services.team_names().items()}
    skills = {folded(name): pk for pk, name in services.skills().items()}
    found = Found([], list(table.bad), 0)
    same = 0
    for number, cells in enumerate(table.rows, start=2):
        agent = known.get(str(cells[0]))
        try:
            values = validate(agent, _values(dict(zip(NAMES, cells, strict=False)), teams, skills))
            must(user, "change" if agent else "make", agent or Agent, values)
        except ValueError as error:
            column, _, words = str(error).partition(": ")
            found.bad.append(BadLine(number, column, words))
            continue
        except Refused as refused:
            found.bad.append(BadLine(number, "Team", str(refused)))
            continue
        if agent is not None and not _changes(agent, values):
            same += 1
        else:
            found.lines.append(Line(agent, values))
    if len(table.rows) > MOST_AGENTS:
        found.bad.append(BadLine(MOST_AGENTS + 2, "", f"More than {MOST_AGENTS} agents at once"))
    return found._replace(same=same)


def import_file(user: Any, found: Found) -> None:
    """Make and change the agents of a file that has no bad line, or none of them."""
    if found.bad:
        raise EventRefused("bad-lines", "Some lines cannot be taken, so none was.")
    with transaction.atomic():
        for agent, values in found.lines:
            if agent is None:
                services.make_agent(user, **values)
            else:
                services.change_agent(user, agent, agent.revision, **values)


def _values(cells: dict[str, Any], teams: dict[str, str], skills: dict[str, str]) -> dict[str, Any]:
    """The cells of a line as an agent's values; ValueError names the column."""
    team = folded(cells["Team"] or "")
    if team and team not in teams:
        raise ValueError(f"Team: there is no team “{cells['Team']}”")
    values: dict[str, Any] = {
        "extension": cells["Extension"],
        "name": cells["Name"] or "",
        "team": teams.get(team),
        "site": cells["Site"] or "",
        "languages": (cells["Languages"] or "").replace(",", " ").split(),
        "skills": dict(_levels(cells["Skills"] or "", skills)),
        "outside_number": cells["Outside number"] or "",
    }
    if "Staff number" in cells:
        values["staff_number"] = cells["Staff number"] or ""
    if cells["Signs in as"]:
        values["username"] = cells["Signs in as"]
    return values


def _levels(cell: str, skills: dict[str, str]) -> Iterator[tuple[str, int]]:
    for part in filter(None, (part.strip() for part in cell.split(";"))):
        name, _, level = part.rpartition(" ")
        if folded(name) not in skills:
            raise ValueError(f"Skills: there is no skill “{name or part}” (write “Name level; …”)")
        if not level.isdecimal() or not 1 <= int(level) <= services.HIGHEST:
            raise ValueError(f"Skills: “{level}” is no level from 1 to {services.HIGHEST}")
        yield skills[folded(name)], int(level)


def _changes(agent: Agent, values: dict[str, Any]) -> bool:
    standing = {**vars(agent), "team": agent.team, "username": getattr(agent.user, "username", "")}
    return any(standing[name] != value for name, value in values.items())
