"""`manage.py exchange`: the process that runs published flows, queues and agents."""

import asyncio
import signal
import sys

from django.conf import settings
from django.core.management.base import BaseCommand

from exchange.live.journal import LeaseLost
from exchange.live.shell import Exchange, SiteTaken


class Command(BaseCommand):
    help = "Serve this installation's site until stopped."

    def handle(self, *args: object, **options: object) -> None:
        try:
            asyncio.run(_serve())
        except (SiteTaken, LeaseLost) as error:
            self.stderr.write(str(error))
            sys.exit(3)


async def _serve() -> None:
    exchange = Exchange(settings.EXCHANGE_SITE)
    loop = asyncio.get_running_loop()
    for name in (signal.SIGTERM, signal.SIGINT):
        loop.add_signal_handler(name, exchange.stop)
    await exchange.run()
