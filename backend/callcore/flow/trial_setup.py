"""What a trial on paper begins with, and what is made up for it."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import Field, StringConstraints, ValidationError

from callcore.errors import DefinitionError, Problem
from callcore.flow.parts import Part, StepId
from callcore.flow.world import World
from callcore.lookups.table import cell

Press = Annotated[str, StringConstraints(min_length=1, max_length=400)]
Ringing = Literal["answered", "busy", "away", "no_answer", "failed"]


class Pretend(Part):
    """What is made up for a trial; what is left out is as it really is, or goes well.

    `figures` by queue (or `centre`), `position` and `expected_wait` (s) among them; `waits`:
    seconds until a queue's caller is answered, None for never; `queues`: queues that let callers
    go at once, since nobody is signed in or they are closed; `rows`: the row that a table
    gives, None for no row; `rings` by step; `hours`: open or closed; `failing`: steps that do
    not work.
    """

    figures: dict[str, dict[str, float]] = {}
    waits: dict[str, Annotated[int, Field(ge=0, le=86_400)] | None] = {}
    queues: dict[str, Literal["nobody_there", "queue_closed"]] = {}
    rows: dict[str, dict[str, Any] | None] = {}
    rings: dict[str, Ringing] = {}
    hours: dict[str, bool] = {}
    failing: tuple[StepId, ...] = ()
    fax: bool = False


class Setup(Part):
    """Who calls what, when, and what they do: keys, or `wait` for a silence.

    In a text flow the keys are messages, the first of them the one that begins it.
    """

    caller: Annotated[str, StringConstraints(max_length=20)] = "+447700900417"
    dialled: Annotated[str, StringConstraints(max_length=20)] = ""
    values: dict[str, Any] = {}
    at: datetime | None = None
    start: StepId | None = None
    keys: tuple[Press, ...] = Field(default=(), max_length=300)
    pretend: Pretend = Pretend()


def setup_of(data: Any) -> Setup:
    """Read a setup.

    Raises:
        DefinitionError: with what is wrong, and where.
    """
    try:
        return Setup.model_validate(data)
    except ValidationError as error:
        problems = [
            Problem(
                ("setup", *detail["loc"]), f"{'.'.join(map(str, detail['loc']))}: {detail['msg']}"
            )
            for detail in error.errors()
        ]
        raise DefinitionError(problems) from None


def pretended_rows(pretend: Pretend, world: World) -> dict[str, dict[str, Any] | None]:
    """The rows that are made up, each cell as its column keeps it.

    Raises:
        DefinitionError: a cell does not fit its column.
    """
    rows: dict[str, dict[str, Any] | None] = {}
    for table, row in pretend.rows.items():
        facts = world.tables.get(table)
        types = dict(zip(facts.columns, facts.types, strict=False)) if facts else {}
        try:
            rows[table] = row and {
                n: cell(types[n], v, world.thing) if n in types else v for n, v in row.items()
            }
        except ValueError as error:
            raise DefinitionError([Problem(("setup", "pretend", "rows"), str(error))]) from None
    return rows
