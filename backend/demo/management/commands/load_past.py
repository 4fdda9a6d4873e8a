"""`manage.py load_past`: the demo's day up to now, once, so that its floor is alive at any hour."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import transaction

from demo import scenario
from exchange import past
from exchange.services import set_site_clock, settle_stand_ins, site_clock_ms

#: When Ostrel Island Ferries is busy, by its own clock: from, until (hours), Monday to Saturday.
BUSY = (9.5, 17.5)
#: At other hours the demo's clock shows this, on the next day that is one of those.
SHOWN = timedelta(hours=10, minutes=40)
_SUNDAY = 6


class Command(BaseCommand):
    help = "Let the demo's stand-ins have lived through today; does nothing where calls were taken."

    @transaction.atomic
    def handle(self, *args: Any, **options: Any) -> None:
        if past.there_is_one():
            return
        settle_stand_ins(on=True, agents=scenario.AT_WORK, seed=scenario.SEED, load=scenario.LOAD)
        set_site_clock(_busy_moment(site_clock_ms()))
        contacts = past.live_through_today(self._tell)
        self.stderr.write("")
        self.stdout.write(f"{contacts} contacts have come in today.")

    def _tell(self, percent: int) -> None:
        self.stderr.write(f"\rliving through today: {percent} %", ending="")


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
