"""What other apps may ask of numbers."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import datetime
from typing import Any, NamedTuple

from django.db.models import Q

from callcore.centre.facts import NumberFacts
from callcore.numbers.plan import Planned
from changelog.kinds import exists
from changelog.reading import Unreadable, readable
from phone_numbers.models import Number
from phone_numbers.numbering import Held
from phone_numbers.plan import national
from web.errors import Use


def planned_of(number: Number) -> tuple[Planned, ...]:
    """The dated changes of a number."""
    return tuple(
        Planned(datetime.fromisoformat(change["at"]), change["flow"] or "", change.get("values", {}))
        for change in number.planned
    )


def facts_of(number: Number) -> NumberFacts:
    """One number as the exchange sees it."""
    return NumberFacts(
        str(number.pk),
        number.address,
        number.label,
        str(number.flow_id or ""),
        planned_of(number),
        number.channel,
        number.values,
    )


def numbers(left_out: list[Unreadable] | None = None) -> dict[str, NumberFacts]:
    """Every number, by id; those that cannot be read are named in `left_out`."""
    return {facts.id: facts for facts in readable(Number.objects.all(), facts_of, left_out)}


class Callings(NamedTuple):
    """What the numbers of a flow bring, now or from a date on: their values and channels."""

    values: tuple[Mapping[str, Any], ...] = ()
    channels: frozenset[str] = frozenset()

    @property
    def handed(self) -> frozenset[str]:
        """The names of the values that every number hands over; none without numbers."""
        given = [{name for name, v in row.items() if v is not None} for row in self.values]
        return frozenset(set.intersection(*given)) if given else frozenset()


def calling(flow_id: str) -> Callings:
    """What its numbers bring to one flow."""
    own = Q(flow=flow_id) | Q(planned__contains=[{"flow": flow_id}])
    return _callings(Number.objects.filter(own)).get(flow_id, Callings())


def callings() -> dict[str, Callings]:
    """What numbers bring to the flows that answer any, by the flow's id."""
    return _callings(Number.objects.all())


def _callings(rows: Iterable[Number]) -> dict[str, Callings]:
    found: dict[str, Callings] = {}
    for number in map(facts_of, rows):
        answers = [(number.flow, number.values), *((p.flow, p.values) for p in number.planned)]
        for flow, values in answers:
            so_far = found.get(flow, Callings())
            channels = so_far.channels | {number.channel}
            found[flow] = Callings((*so_far.values, values), channels)
    found.pop("", None)
    return found


def _said(number: Number) -> str:
    return f"{national(number.address)} {number.label}".strip()


def prune(values: dict[str, Any]) -> list[str]:
    """Take values and planned flows that are gone out of an older state of a number."""
    gone = []
    if "values" in values:
        gone += _prune_values(values["values"])
    for row in values.get("planned", ()):
        gone += _prune_values(row.get("values", {}))
    planned = values.get("planned", [])
    stay = [row for row in planned if not row.get("flow") or exists(f"flow:{row['flow']}")]
    if len(stay) < len(planned):
        gone.append("planned changes to flows that are gone")
        values["planned"] = stay
    return gone


def _prune_values(values: dict[str, Any]) -> list[str]:
    lost = [name for name, v in values.items() if isinstance(v, str) and not exists(v)]
    for name in lost:
        del values[name]
    return [f"the value “{name}”, which led to something gone" for name in lost]


def numbers_of_flow(flow_id: str) -> list[Use]:
    """The numbers that a flow answers, now or from a date on."""
    found = {n.pk: n for n in Number.objects.filter(flow=flow_id)}
    uses = [Use("number", str(n.pk), national(n.address), "number it answers") for n in found.values()]
    later = Number.objects.filter(planned__contains=[{"flow": flow_id}]).exclude(pk__in=found)
    return uses + [Use("number", str(n.pk), national(n.address), "number it will answer") for n in later]


def numbers_with_value(kind: str, identity: str) -> list[Use]:
    """The numbers that hand a thing over to their flow."""
    reference = f"{kind}:{identity}"
    return [
        Use("number", str(n.pk), _said(n), "handed over by the number")
        for n in Number.objects.filter(values__icontains=reference)
        | Number.objects.filter(planned__icontains=reference)
    ]


def extensions() -> list[Held]:
    """The internal extensions among the numbers."""
    rows = Number.objects.exclude(address__startswith="+")
    return [Held(n.address, "number", str(n.pk), n.title) for n in rows]


def search(text: str) -> list[Use]:
    """Numbers whose label or figures hold a text."""
    figures = "".join(c for c in text if c.isdigit()).lstrip("0")
    found = list(Number.objects.filter(label__icontains=text)[:5])
    if figures:
        found += Number.objects.filter(address__contains=figures).exclude(pk__in=[n.pk for n in found])[:5]
    return [Use("number", str(n.pk), national(n.address), n.label or "number") for n in found]
