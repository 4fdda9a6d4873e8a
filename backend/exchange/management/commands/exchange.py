"""`manage.py exchange`: the process that runs published flows, queues and agents."""

import asyncio
import os
import signal
import sys
import threading

from django.conf import settings
from django.core.management.base import BaseCommand

from exchange import past
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
    exchange = Exchange(settings.EXCHANGE_SITE, past.live_on)
    loop = asyncio.get_running_loop()
    for name in (signal.SIGTERM, signal.SIGINT):
        loop.add_signal_handler(name, exchange.stop)
    try:
        await exchange.run()
    finally:
        _end_surely()


def _end_surely() -> None:
    """A process that hangs in its own ending looks alive and serves nobody: it ends."""
    last = threading.Timer(ENDING_S, os._exit, [1])
    last.daemon = True
    last.start()


#: Within this the process has ended, whatever its threads still wait for.
ENDING_S = 10.0
