"""What a trial on paper begins with, and what is made up for it."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import Field, StringConstraints, ValidationError

from callcore.errors import DefinitionError, Problem
from callcore.flow.catalogue import Catalogue
from callcore.flow.definition import AnyStep, Flow, SetValue
from callcore.flow.parts import Part, StepId
from callcore.flow.runner import Machine, MadeUp, Place
from callcore.lookups.table import cell

CENTRE = "centre"
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
    """Who calls what, when, and what they do: keys, `say:` with words, or `wait` for a silence.

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
            Problem(("setup", *detail["loc"]), f"{'.'.join(map(str, detail['loc']))}: {detail['msg']}")
            for detail in error.errors()
        ]
        raise DefinitionError(problems) from None


def pretended_rows(pretend: Pretend, catalogue: Catalogue) -> dict[str, dict[str, Any] | None]:
    """The rows that are made up, each cell as its column keeps it.

    Raises:
        DefinitionError: a cell does not fit its column.
    """
    rows: dict[str, dict[str, Any] | None] = {}
    for table, row in pretend.rows.items():
        facts = catalogue.tables.get(table)
        types = dict(zip(facts.columns, facts.types, strict=False)) if facts else {}
        try:
            rows[table] = row and {
                n: cell(types[n], v, catalogue.thing) if n in types else v for n, v in row.items()
            }
        except ValueError as error:
            raise DefinitionError([Problem(("setup", "pretend", "rows"), str(error))]) from None
    return rows


def pretended(pretend: Pretend, real: MadeUp, catalogue: Catalogue) -> MadeUp:
    """What a trial's machines ask: what is made up, and all else as it really is."""

    def open_at(reference: str, now_ms: int) -> tuple[bool, str] | None:
        if reference in pretend.hours:
            return pretend.hours[reference], "pretended"
        return real.open_at(reference, now_ms)

    def figure(reference: str | None, name: str) -> float | None:
        known = pretend.figures.get(reference or CENTRE, {})
        if name in known:
            return known[name]
        facts = catalogue.queues.get(reference) if reference else None
        members = facts.members if facts else 1
        return {
            "signed_in": members,
            "available": members,
            "waiting": 0.0,
            "longest_wait": 0.0,
            "position": 1.0,
        }.get(name)

    def place(queue: str) -> Place:
        known = pretend.figures.get(queue, {})
        expected_s = known.get("expected_wait")
        return Place(max(1, int(known.get("position", 1))), expected_s)

    def overflow(queue: str, way: str) -> str:
        facts = catalogue.queues.get(queue)
        return facts.sends(way) if facts else ""

    around = real._replace(open_at=open_at, figure=figure, place=place, overflow=overflow)

    def plan_machine(key: str) -> Any:
        """The plan with this trial's pretences: others share the machine."""
        plan = real.plan_machine(key)
        return Machine(plan.flow, catalogue.length_ms, around) if plan else None

    return around._replace(plan_machine=plan_machine)


def with_failures(flow: Flow, pretend: Pretend, start: str | None) -> Flow:
    """The flow with what fails in place of the steps that are pretended to fail."""
    failing = set(pretend.failing)
    steps = tuple(_failed(s) if s.id in failing else s for s in flow.steps)
    return flow.model_copy(update={"steps": steps, "start": start or flow.start})


def _failed(step: AnyStep) -> AnyStep:
    """A step in whose place the first exit for trouble is taken at once."""
    way = next((e for e in step.exits() if e.failure), None)
    return SetValue(id=step.id, value="failed", to=True, next=way.to if way else None)
