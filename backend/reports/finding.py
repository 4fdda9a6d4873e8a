"""Finding contacts by anything that is known of them, in any combination."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import AsyncIterator, Iterable, Iterator, Sequence
from datetime import datetime
from typing import Any, NamedTuple
from zoneinfo import ZoneInfo

from asgiref.sync import sync_to_async
from django.conf import settings
from django.db.models import Q, QuerySet

from agents.services import agents
from callcore.lookups.table import guarded
from exchange.contact_rights import Scope
from flows.services import flow_names
from phone_numbers.plan import national
from queues.services import settings as queue_settings
from reports.models import ContactLine, Leg
from reports.period import Period
from reports.tally_rows import within
from wrapup.services import code_names

#: A count goes no further: nobody pages through more.
MOST_COUNTED = 2_000
#: In place of a code: parts of agents, and none of them has one.
NO_CODE = "none"
#: So many are read at once where all are handed out.
_AT_ONCE = 2_000


class Wanted(NamedTuple):
    """What a contact must be like; empty for anything."""

    figures: str = ""
    queue: str = ""
    agent: str = ""
    code: str = ""
    ending: str = ""
    keys: str = ""
    flow: str = ""
    wait_over_ms: int | None = None
    talk_over_ms: int | None = None
    transferred: bool | None = None
    recorded: bool | None = None
    callback: bool | None = None


def found(wanted: Wanted, period: Period | None, scope: Scope | None = None) -> QuerySet[ContactLine]:
    """The contacts that are so, newest first; of those within a scope."""
    rows = ContactLine.objects.filter(site=settings.EXCHANGE_SITE)
    if scope is not None:
        nobodys = Q(queues=[], agents=[])
        own = Q(queues__overlap=list(scope.queues)) | Q(agents__overlap=list(scope.agents))
        rows = rows.filter(own | nobodys)
    if period is not None:
        stretches = period.stretches(period.begin_ms, period.end_ms)
        rows = rows.filter(within("arrived_ms", stretches))
    return rows.filter(*_conditions(wanted)).order_by("-arrived_ms", "-contact")


def _conditions(wanted: Wanted) -> Iterator[Q]:
    if wanted.figures:
        yield Q(caller__contains=wanted.figures) | Q(number__contains=wanted.figures)
    if wanted.code == NO_CODE:
        yield Q(legs__gt=0, code="")
    elif wanted.code:
        yield Q(codes__contains=[wanted.code])
    for of, thing in (("queues", wanted.queue), ("agents", wanted.agent)):
        if thing:
            yield Q(**{f"{of}__contains": [thing]})
    for column, value in (
        ("wait_ms__gt", wanted.wait_over_ms),
        ("talk_ms__gt", wanted.talk_over_ms),
        ("keys__contains", wanted.keys or None),
        ("ending", wanted.ending or None),
        ("flow", wanted.flow or None),
        ("transferred", wanted.transferred),
        ("recorded", wanted.recorded),
        ("callback", wanted.callback),
    ):
        if value is not None:
            yield Q(**{column: value})


def page(rows: QuerySet[ContactLine], first: int, most: int) -> tuple[int, list[dict[str, Any]]]:
    """How many there are (`MOST_COUNTED` + 1 for more), and some of them."""
    # Few are found by what they are like and put in order here: the database would walk through
    # everything by time until a page is full.
    few = sorted(rows.order_by().values_list("arrived_ms", "contact", "pk")[: MOST_COUNTED + 1])
    if len(few) > MOST_COUNTED:
        return len(few), told(rows[first : first + most])
    chosen = [pk for _, _, pk in reversed(few)][first : first + most]
    found = {row.pk: row for row in ContactLine.objects.filter(pk__in=chosen)}
    return len(few), told(found[pk] for pk in chosen if pk in found)


def told(rows: Iterable[ContactLine]) -> list[dict[str, Any]]:
    """Contacts with the names of what they met."""
    names = Names()
    return [names.told(row) for row in rows]


_GONE = {"queue": "a queue that is gone", "agent": "an agent who is gone", "code": "a code that is gone"}


class Names:
    """What queues, agents, codes and flows are called now."""

    def __init__(self) -> None:
        self._queues = {q.id: q.name for q in queue_settings()}
        self._agents = {agent.id: agent.name for agent in agents().values()}
        self._codes = code_names()
        self._flows: dict[str, str] = {}

    def _flow(self, identity: str) -> str:
        if identity and identity not in self._flows:
            self._flows |= flow_names([identity]) or {identity: "a flow that is gone"}
        return self._flows.get(identity, "")

    def of(self, what: str, identity: str) -> str:
        """The name of a queue, an agent, a code or a flow; empty for none."""
        if not identity:
            return ""
        known = {"queue": self._queues, "agent": self._agents, "code": self._codes}.get(what)
        return self._flow(identity) if known is None else known.get(identity, _GONE[what])

    def told(self, row: ContactLine) -> dict[str, Any]:
        """One contact, as the API gives it."""
        return {
            "id": row.contact,
            "arrived_ms": row.arrived_ms,
            "ended_ms": row.ended_ms,
            "caller": national(row.caller),
            "number": national(row.number),
            "flow_name": self._flow(row.flow),
            "queue_name": self.of("queue", row.queue),
            "agent_name": self.of("agent", row.agent),
            "code_name": self.of("code", row.code),
            "ending": row.ending,
            "keys": row.keys,
            "recorded": row.recorded,
            "texts": row.texts,
            "callback": row.callback,
            "wait_ms": row.wait_ms,
            "up_front_ms": row.up_front_ms,
            "talk_ms": row.talk_ms,
            "hold_ms": row.hold_ms,
            "wrap_ms": row.wrap_ms,
            "legs": row.legs,
            "transferred": row.transferred,
        }

    def told_leg(self, leg: Leg) -> dict[str, Any]:
        """One agent's part of a contact."""
        return {
            "contact": leg.contact,
            "number": leg.number + 1,
            "how": leg.how,
            "by": leg.by,
            "agent_name": self.of("agent", leg.agent),
            "queue_name": self.of("queue", leg.queue),
            "code_name": self.of("code", leg.code),
            "answered_ms": leg.answered_ms,
            "ended_ms": leg.ended_ms,
            "wait_ms": leg.wait_ms,
            "talk_ms": leg.talk_ms,
            "hold_ms": leg.hold_ms,
            "wrap_ms": leg.wrap_ms,
        }


#: What is handed out of each contact: a name, and where it stands in what is told.
_COLUMNS: tuple[tuple[str, str], ...] = (
    ("contact", "id"),
    ("arrived", "arrived_ms"),
    ("ended", "ended_ms"),
    ("caller", "caller"),
    ("number", "number"),
    ("flow", "flow_name"),
    ("queue", "queue_name"),
    ("agent", "agent_name"),
    ("code", "code_name"),
    ("ending", "ending"),
    ("keys", "keys"),
    ("wait_s", "wait_ms"),
    ("up_front_s", "up_front_ms"),
    ("talk_s", "talk_ms"),
    ("hold_s", "hold_ms"),
    ("wrap_up_s", "wrap_ms"),
    ("parts", "legs"),
    ("passed_on", "transferred"),
    ("recorded", "recorded"),
    ("text", "texts"),
    ("callback", "callback"),
)
#: The same of each part that an agent had of one; `part` counts them.
_OF_LEGS: tuple[tuple[str, str], ...] = (
    ("contact", "contact"),
    ("part", "number"),
    ("agent", "agent_name"),
    ("queue", "queue_name"),
    ("how", "how"),
    ("answered", "answered_ms"),
    ("ended", "ended_ms"),
    ("ended_by", "by"),
    ("wait_s", "wait_ms"),
    ("talk_s", "talk_ms"),
    ("hold_s", "hold_ms"),
    ("wrap_up_s", "wrap_ms"),
    ("code", "code_name"),
)
_HANDED_OUT = {"contacts": _COLUMNS, "parts": _OF_LEGS}
_MOMENTS = ("arrived_ms", "answered_ms", "ended_ms")


async def stream(rows: QuerySet[ContactLine], kind: str, of: str) -> AsyncIterator[str]:
    """All of them (or the `parts` that agents had of them) as CSV or JSON lines, at steady memory
    however many there are."""
    zone, names = ZoneInfo(settings.CENTRE_TIME_ZONE), await sync_to_async(Names)()
    columns = _HANDED_OUT[of]
    if kind == "csv":
        yield _csv([[name for name, _ in columns]])
    behind: tuple[int, str] | None = None
    while True:
        some = await sync_to_async(_next)(rows, behind)
        if not some:
            return
        behind = (some[-1].arrived_ms, some[-1].contact)
        told = await sync_to_async(_told)(names, some, of)
        cells = [[_cell(name, one[field], field, zone) for name, field in columns] for one in told]
        yield _csv(cells) if kind == "csv" else _lines(columns, cells)


def _told(names: Names, some: list[ContactLine], of: str) -> list[dict[str, Any]]:
    if of == "contacts":
        return [names.told(row) for row in some]
    legs: dict[str, list[Leg]] = {row.contact: [] for row in some}
    for leg in Leg.objects.filter(contact__in=list(legs)).order_by("number"):
        legs[leg.contact].append(leg)
    return [names.told_leg(leg) for of_one in legs.values() for leg in of_one]


def _next(rows: QuerySet[ContactLine], behind: tuple[int, str] | None) -> list[ContactLine]:
    if behind is not None:
        at_ms, contact = behind
        rows = rows.filter(Q(arrived_ms__lt=at_ms) | Q(arrived_ms=at_ms, contact__lt=contact))
        rows = rows.filter(arrived_ms__lte=at_ms)
    return list(rows[:_AT_ONCE])


def _cell(name: str, value: Any, field: str, zone: ZoneInfo) -> Any:
    if field in _MOMENTS and value is not None:
        return datetime.fromtimestamp(value / 1000, zone).isoformat(timespec="milliseconds")
    return value / 1000 if name.endswith("_s") else value


def _csv(rows: Sequence[Sequence[Any]]) -> str:
    out = io.StringIO()
    csv.writer(out).writerows(
        [guarded(cell) if isinstance(cell, str) else cell for cell in row] for row in rows
    )
    return out.getvalue()


def _lines(columns: Sequence[tuple[str, str]], rows: Sequence[Sequence[Any]]) -> str:
    names = [name for name, _ in columns]
    return "".join(json.dumps(dict(zip(names, row, strict=True))) + "\n" for row in rows)
