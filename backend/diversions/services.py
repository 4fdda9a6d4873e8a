"""What other apps may ask of diversions, and how one is lifted."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from django.db.models import Q, QuerySet

from callcore.centre.facts import DiversionFacts
from callcore.numbers.plan import Diversion as Rule
from changelog import config_store
from changelog.reading import Unreadable, readable
from diversions.models import Diversion, Where
from phone_numbers.plan import national
from web.clock import site_now
from web.errors import Refused, Use


def where_to(diversion: Diversion) -> str:
    """Where it sends calls, by name."""
    if diversion.where == Where.OUTSIDE:
        return national(diversion.outside)
    target = diversion.mailbox if diversion.where == Where.MAILBOX else diversion.flow
    return target.name if target else ""


STATES = ("lifted", "over", "coming", "in force")


def state_of(diversion: Diversion, moment: datetime) -> str:
    """`lifted`, `over`, `coming` or `in force`."""
    if diversion.lifted_at is not None:
        return "lifted"
    if diversion.until is not None and diversion.until <= moment:
        return "over"
    return "coming" if diversion.begins > moment else "in force"


def standing(moment: datetime) -> QuerySet[Diversion]:
    """Those that are in force or will be."""
    rows = Diversion.objects.filter(lifted_at__isnull=True)
    return rows.filter(Q(until__isnull=True) | Q(until__gt=moment))


def rules(left_out: list[Unreadable] | None = None) -> list[DiversionFacts]:
    """Every diversion that is in force or will be; those that cannot be read are named."""
    rows = standing(site_now()).select_related("mailbox", "flow").prefetch_related("numbers")
    return readable(rows, _facts_of, left_out)


def _facts_of(d: Diversion) -> DiversionFacts:
    names = tuple(sorted(n.label or national(n.address) for n in d.numbers.all()))
    return DiversionFacts(rule_of(d), names, where_to(d))


def rule_of(d: Diversion) -> Rule:
    """A diversion as the core takes it."""
    target = {"outside": d.outside, "mailbox": d.mailbox_id, "flow": d.flow_id}[d.where]
    then = {"mailbox": d.then_mailbox_id, "flow": d.then_flow_id}.get(d.then)
    return Rule(
        str(d.pk),
        d.reason,
        frozenset(n.address for n in d.numbers.all()),
        d.where,
        str(target or ""),
        d.begins,
        d.until,
        d.ring_s,
        d.then,
        str(then or ""),
    )


def lift(user: Any, diversion: Diversion, revision: int) -> Diversion:
    """End a diversion now.

    Raises:
        Refused: it is over already.
    """
    now = site_now()
    if state_of(diversion, now) in ("lifted", "over"):
        raise Refused("over", f"{diversion.reason} is over already.")
    return config_store.change(user, diversion, revision, lifted_at=now)


def of_number(identity: str) -> list[Use]:
    """The standing diversions of a number."""
    found = standing(site_now()).filter(numbers=identity)
    return [Use("diversion", str(d.pk), d.reason, "diverted") for d in found]


def to_mailbox(identity: str) -> list[Use]:
    """The diversions that a mailbox stands in, past ones too: they may be looked at."""
    found = Diversion.objects.filter(Q(mailbox=identity) | Q(then_mailbox=identity))
    return [Use("diversion", str(d.pk), d.reason, "diversion") for d in found]


def to_flow(identity: str) -> list[Use]:
    """The diversions that a flow stands in."""
    found = Diversion.objects.filter(Q(flow=identity) | Q(then_flow=identity))
    return [Use("diversion", str(d.pk), d.reason, "diversion") for d in found]


def search(text: str) -> list[Use]:
    """Diversions whose reason holds a text."""
    found = Diversion.objects.filter(reason__icontains=text)[:5]
    return [Use("diversion", str(d.pk), d.reason, "diversion") for d in found]
