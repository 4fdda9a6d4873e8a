"""What other apps may ask of the exchange's tables."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any, NamedTuple

from django.conf import settings

from callcore.events import Kind
from callcore.people.said import traits_of
from exchange.live import journal
from exchange.live.journal import site_clock
from exchange.models import Callback, Contact, Journal, StandIns
from exchange.site_clock import wall_ms
from web.errors import Use


def settle_stand_ins(
    *, on: bool, agents: int, seed: int = 1, load: float = 1.0, people: dict[str, Any] | None = None
) -> None:
    """Switch the simulated callers and agents of this site, before the exchange starts."""
    people = people or {}
    traits_of(people)
    StandIns.objects.update_or_create(
        site=settings.EXCHANGE_SITE,
        defaults={"on": on, "agents": agents, "seed": seed, "load": load, "people": people},
    )


def contacts_with_code(code_id: str) -> list[Use]:
    """Whether contacts were labelled with a wrap-up code."""
    labelled = Journal.objects.filter(kind=str(Kind.CODED), body__code=code_id)
    if not labelled.exists():
        return []
    return [Use("contact", "", "contacts", "labelled with it; retire it instead of deleting it")]


def site_clock_ms() -> int:
    """What this site's clock shows, in ms since the epoch."""
    return site_clock(settings.EXCHANGE_SITE).now_ms()


def set_site_clock(shows_ms: int | None) -> None:
    """Let this site's clock go on from another moment (ms), before the exchange starts; None for
    the wall's."""
    StandIns.objects.filter(site=settings.EXCHANGE_SITE).update(
        clock_from_ms=wall_ms() if shows_ms else 0, clock_since_ms=shows_ms or 0
    )


def forgotten_with(forget: Callable[[str], None]) -> None:
    """Let others forget what they have made of a site's events, where these are forgotten."""
    journal.forgotten_with.append(forget)


class ContactBrief(NamedTuple):
    """A contact as lists of others name it."""

    caller: str
    number: str
    arrived_ms: int
    ended_ms: int | None
    ending: str


def contact_lines(identities: Iterable[str]) -> dict[str, ContactBrief]:
    """Some contacts, by their ids."""
    rows = Contact.objects.filter(pk__in=list(identities))
    columns = ("pk", "caller", "number", "arrived_ms", "ended_ms", "ending")
    return {pk: ContactBrief(*line) for pk, *line in rows.values_list(*columns)}


def callbacks_of(identity: str) -> list[tuple[str, str, int]]:
    """The callbacks that a contact booked, and the call that booked it if it is one: contact, what
    it is, when (ms)."""
    booked = Callback.objects.filter(origin=identity).values_list("contact", "booked_ms")
    found = [(contact, "callback", at_ms) for contact, at_ms in booked]
    own = Callback.objects.filter(contact=identity).values_list("origin", "booked_ms").first()
    return [*found, (own[0], "origin", own[1])] if own else found


def contacts_of_caller(caller: str, at_ms: int, days: int) -> int:
    """How many contacts a caller had in the days up to a moment (ms), this one among them."""
    since_ms = at_ms - days * 86_400_000
    found = Contact.objects.filter(caller=caller, arrived_ms__gt=since_ms, arrived_ms__lte=at_ms)
    return found.filter(consult_of="").count() if caller else 0
