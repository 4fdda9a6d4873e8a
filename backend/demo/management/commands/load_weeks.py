"""`manage.py load_weeks`: the demo's four weeks before today, while people work in it already. What a
run that was stopped has written stays."""

from __future__ import annotations

from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from django.conf import settings
from django.core.management.base import BaseCommand

from demo import weeks
from exchange import past
from exchange.live import reading
from exchange.services import site_clock_ms
from reports import history, past_progress


class Command(BaseCommand):
    help = "Let the demo's stand-ins have lived through the four weeks before today; the exchange may run."

    def handle(self, *args: Any, **options: Any) -> None:
        zone = ZoneInfo(settings.CENTRE_TIME_ZONE)
        today = datetime.fromtimestamp(site_clock_ms() / 1000, zone).date()
        past_progress.tell(0, weeks.DAYS)
        try:
            history.fill_in(weeks.days(today, reading.read()), past_progress.tell)
        except past.WasReset:
            self.stdout.write("The site was reset: it has no past any more.")
        finally:
            past_progress.over()
