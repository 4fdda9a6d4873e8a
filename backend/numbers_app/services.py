"""What other apps may ask of numbers."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import NamedTuple

from callcore.numbers.plan import Planned, applies
from changelog.errors import Use
from numbers_app.models import Number
from numbers_app.plan import national


class NumberFacts(NamedTuple):
    """A number as the exchange sees it; `flow` is empty where nothing answers."""

    id: str
    e164: str
    label: str
    flow: str
    planned: tuple[Planned, ...] = ()

    def flow_at(self, now_ms: int) -> str:
        """The flow that answers at a moment."""
        return applies(self.flow, self.planned, datetime.fromtimestamp(now_ms / 1000, UTC)).flow


def planned_of(number: Number) -> tuple[Planned, ...]:
    """The dated changes of a number."""
    return tuple(
        Planned(datetime.fromisoformat(change["at"]), change["flow"] or "")
        for change in number.planned
    )


def numbers() -> dict[str, NumberFacts]:
    """Every number, by id."""
    return {
        str(n.pk): NumberFacts(str(n.pk), n.e164, n.label, str(n.flow_id or ""), planned_of(n))
        for n in Number.objects.all()
    }


def numbers_of_flow(flow_id: str) -> list[Use]:
    """The numbers that a flow answers, now or from a date on."""
    found = {n.pk: n for n in Number.objects.filter(flow=flow_id)}
    uses = [Use("number", str(n.pk), national(n.e164), "number it answers") for n in found.values()]
    later = Number.objects.filter(planned__contains=[{"flow": flow_id}]).exclude(pk__in=found)
    return uses + [
        Use("number", str(n.pk), national(n.e164), "number it will answer") for n in later
    ]


def search(text: str) -> list[Use]:
    """Numbers whose label or figures hold a text."""
    figures = "".join(c for c in text if c.isdigit()).lstrip("0")
    found = list(Number.objects.filter(label__icontains=text)[:5])
    if figures:
        found += Number.objects.filter(e164__contains=figures).exclude(
            pk__in=[n.pk for n in found]
        )[:5]
    return [Use("number", str(n.pk), national(n.e164), n.label or "number") for n in found]
