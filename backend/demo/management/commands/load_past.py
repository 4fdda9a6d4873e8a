"""`manage.py load_past`: the demo's four weeks and its day up to now, once, so that its reports
tell something and its floor is alive at any hour. `load_weeks` is for the four weeks alone."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from django.conf import settings
from django.core.management.base import BaseCommand, CommandParser

from demo import weeks
from exchange import past
from exchange.live import journal, reading
from exchange.services import set_site_clock, site_clock_ms
from reports import history

#: When Ostrel Island Ferries is busy, by its own clock: from, until (hours), Monday to Saturday.
BUSY = (9.5, 17.5)
#: At other hours the demo's clock shows this, on the next day that is one of those.
SHOWN = timedelta(hours=10, minutes=40)
_SUNDAY = 6
#: Whoever comes back after so long may find another hour than they left.
LONG_AWAY_MS = 3_600_000


class Command(BaseCommand):
    help = "Let the demo's stand-ins have lived through four weeks and today; only once."
    #: They would read every page there is, which takes longer than what is to be done.
    requires_system_checks: tuple[str, ...] = ()

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--days", type=int, default=weeks.DAYS, help="days before today")
        parser.add_argument("--weeks-later", action="store_true", help="today alone; load_weeks follows")

    def handle(self, *args: Any, **options: Any) -> None:
        if past.there_is_one():
            self._come_back()
            return
        shown_ms = _busy_moment(site_clock_ms())
        set_site_clock(shown_ms)
        zone = ZoneInfo(settings.CENTRE_TIME_ZONE)
        today = datetime.fromtimestamp(site_clock_ms() / 1000, zone).date()
        days = weeks.days(today, reading.read())[weeks.DAYS - options["days"] :]
        if options["weeks_later"]:
            days = []
            journal.leave_numbers_to_a_past()
        before, since = history.live_through(days, self._tell)
        self.stderr.write("")
        self.stdout.write(f"{before} contacts came in before today, {since} have come in today.")

    def _come_back(self) -> None:
        """Where the demo lay for long and it is night by now, its clock goes on from a busy hour: the
        stand-ins live on until then (see `past.live_on`)."""
        shown_ms = _busy_moment(site_clock_ms())
        if shown_ms is not None and past.missed_ms() > LONG_AWAY_MS:
            set_site_clock(shown_ms)

    def _tell(self, words: str) -> None:
        self.stderr.write(f"\rliving through what has been: {words}  ", ending="")


def _busy_moment(now_ms: int) -> int | None:
    """What the clock should show instead of a moment; None for what it shows anyhow."""
    now = datetime.fromtimestamp(now_ms / 1000, ZoneInfo(settings.CENTRE_TIME_ZONE))
    hour = now.hour + now.minute / 60
    if now.weekday() != _SUNDAY and BUSY[0] <= hour < BUSY[1]:
        return None
    midnight = now.replace(hour=0, minute=0, second=0, microsecond=0)
    while (shown := midnight + SHOWN).weekday() == _SUNDAY or shown < now:
        midnight += timedelta(days=1)
    return round(shown.timestamp() * 1000)
