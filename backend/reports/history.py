"""A past for a site that has none: days that are over and today up to now, by the simulator,
written and counted as if the exchange had run."""

from __future__ import annotations

import uuid
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from datetime import timedelta
from zoneinfo import ZoneInfo

from django.conf import settings
from django.db import transaction

from exchange import past
from exchange.live import journal
from exchange.past import Day
from reports import growing

#: Told how far it is, in words.
Tell = Callable[[str], object]
#: What is made is nobody else's for so long after each step.
_MINE = timedelta(minutes=2)


class Refused(Exception):
    """A past that cannot be made here; in words."""


def live_through(days: Sequence[Day], tell: Tell) -> tuple[int, int]:
    """Let the stand-ins have lived through some days and today up to now.

    Returns:
        How many contacts came in before today, and today.

    Raises:
        Refused: somebody else writes, such as the exchange.
    """
    site, before = settings.EXCHANGE_SITE, 0
    with _alone(site) as hold:
        for done, contacts in enumerate(past.live_through_days(days, growing.count), 1):
            before += contacts
            hold()
            tell(f"day {done:,} of {len(days):,}, {before:,} contacts")
        growing.all_is_counted(site)
    with transaction.atomic():
        today = past.live_through_today(lambda percent: tell(f"today: {percent} %"))
        while growing.catch_up(site):
            pass
    return before, today


def fill_in(days: Sequence[Day], tell: Callable[[int, int], object]) -> None:
    """Let the stand-ins have lived through the days of which nothing was written yet, while the
    exchange runs on.

    Args:
        tell: told how many of the days are written, and of how many.
    """
    missing = past.missing(days)
    for done, _ in enumerate(past.fill_in(missing, growing.count_beside), 1 + len(days) - len(missing)):
        tell(done, len(days))
    growing.join(settings.EXCHANGE_SITE)


def forget() -> None:
    """Take out all that was recorded, and what was made of it."""
    with _alone(settings.EXCHANGE_SITE):
        journal.forget_what_was_written(settings.EXCHANGE_SITE)


@contextmanager
def _alone(site: str) -> Iterator[Callable[[], None]]:
    """Nobody else writes meanwhile; what is given has that go on."""
    owner = uuid.uuid4()

    def hold() -> None:
        other = journal.take_lease(site, owner, "the making of a past", _MINE)
        if other is not None:
            until = other.until.astimezone(ZoneInfo(settings.CENTRE_TIME_ZONE))
            raise Refused(
                f"A past can be made only while nothing else writes for this site: {other.where} "
                f"does. Stop it; what has died lets go at {until:%H:%M:%S}."
            )

    hold()
    try:
        yield hold
    finally:
        journal.give_up_lease(site, owner)
