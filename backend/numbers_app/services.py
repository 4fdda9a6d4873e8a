"""What other apps may ask of numbers."""

from __future__ import annotations

from typing import NamedTuple

from changelog.errors import Use
from numbers_app.models import Number
from numbers_app.plan import national


class NumberFacts(NamedTuple):
    """A number as the exchange sees it; `flow` is empty where nothing answers."""

    id: str
    e164: str
    label: str
    flow: str


def numbers() -> dict[str, NumberFacts]:
    """Every number, by id."""
    rows = Number.objects.values_list("pk", "e164", "label", "flow_id")
    return {str(r[0]): NumberFacts(str(r[0]), r[1], r[2], str(r[3] or "")) for r in rows}


def numbers_of_flow(flow_id: str) -> list[Use]:
    """The numbers that a flow answers."""
    found = Number.objects.filter(flow=flow_id)
    return [Use("number", str(n.pk), national(n.e164), "number it answers") for n in found]


def search(text: str) -> list[Use]:
    """Numbers whose label or figures hold a text."""
    figures = "".join(c for c in text if c.isdigit()).lstrip("0")
    found = list(Number.objects.filter(label__icontains=text)[:5])
    if figures:
        found += Number.objects.filter(e164__contains=figures).exclude(
            pk__in=[n.pk for n in found]
        )[:5]
    return [Use("number", str(n.pk), national(n.e164), n.label or "number") for n in found]
