"""What other apps may ask of hours, and public holidays to take in."""

from __future__ import annotations

from datetime import UTC, date, datetime
from typing import NamedTuple

import holidays

from callcore.flow.catalogue import HoursFacts
from callcore.hours.answer import answer, decided, ever_open, in_words
from callcore.hours.plan import Hours as Plan
from callcore.hours.plan import load
from changelog.reading import Unreadable, readable
from opening_hours.models import Hours
from web.errors import Refused, Use


class Holiday(NamedTuple):
    """A public holiday."""

    day: date
    name: str


def plans(left_out: list[Unreadable] | None = None) -> dict[str, Plan]:
    """All hours, ready to be asked, by reference; those that cannot be read are named."""
    return dict(readable(Hours.objects.all(), lambda h: (f"hours:{h.pk}", load(h.plan())), left_out))


def facts() -> dict[str, HoursFacts]:
    """All hours as a flow sees them, by reference."""
    rows = Hours.objects.all()
    return dict(
        readable(rows, lambda h: (f"hours:{h.pk}", HoursFacts(h.name, ever_open(load(h.plan())))), None)
    )


def ask(plan: Plan, now_ms: int) -> tuple[bool, str]:
    """Open or closed at a moment, and why in a few words, for the trace of a call."""
    return decided(plan, datetime.fromtimestamp(now_ms / 1000, UTC))


def said_at(plan: Plan, now: datetime) -> str:
    """`Open, closes 18:00`: for lists."""
    return in_words(answer(plan, now), plan, now)


def public_holidays(country: str, region: str, year: int) -> list[Holiday]:
    """The public holidays of a country and region in a year.

    Raises:
        Refused: there is no such country or region.
    """
    try:
        found = holidays.country_holidays(country, subdiv=region or None, years=year)
    except NotImplementedError:
        place = f"{country} {region}".strip()
        message = f"Nothing is known of the holidays of {place}."
        raise Refused("not-valid", message, status=400, fields={"country": [message]}) from None
    return [Holiday(day, name) for day, name in sorted(found.items())]


def search(text: str) -> list[Use]:
    """Hours whose name holds a text."""
    found = Hours.objects.filter(name__icontains=text)[:5]
    return [Use("hours", str(h.pk), h.name, "opening hours") for h in found]
