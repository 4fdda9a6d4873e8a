"""The shell around the centre: what one contact or round cannot do, and how it is seen."""

import asyncio
import logging
import time
import uuid
from datetime import timedelta
from unittest import mock

from django.db import connections
from django.test import SimpleTestCase, TransactionTestCase
from django.utils import timezone

from callcore.events import Kind
from callcore.events import read as happened
from callcore.tests.centre.hand import Hand
from exchange.live import shell
from exchange.live.shell import Exchange
from exchange.models import Contact, Journal, Lease


def quiet():
    return mock.patch.object(logging.getLogger("exchange.live.shell"), "exception")


class WritingTests(TransactionTestCase):
    def test_what_cannot_be_written_costs_its_contact_and_no_other(self):
        exchange = Exchange("main")
        Lease.objects.create(
            site="main", owner=exchange.owner, where="", until=timezone.now() + timedelta(minutes=1)
        )
        hand = Hand()
        exchange.centre = hand.centre
        names = [str(uuid.uuid4()) for _ in range(3)]
        for name in names:
            hand.call(name)
        Contact.objects.create(id=names[0], site="main", number="", caller="", arrived_ms=1)
        long = happened(hand.now, Kind.KEYED, "x" * 99, "", {})
        hand.centre.pending.append(long)

        async def write():
            for _ in range(2):
                await exchange._write()
            await shell.database(connections.close_all)

        with mock.patch("callcore.centre.handlers.faults.log"):
            asyncio.run(write())
        written = set(Journal.objects.values_list("contact", flat=True))
        self.assertEqual(written & set(names), set(names))
        self.assertEqual(
            set(Journal.objects.filter(contact=names[0]).values_list("kind", flat=True)),
            {str(Kind.ENDED)},
            "of the one that could not be written only its end is told",
        )
        self.assertEqual(hand.centre.pending, [])
        self.assertEqual(set(hand.centre.contacts), set(names[1:]))


class RoundTests(SimpleTestCase):
    def test_a_round_that_fails_is_tried_again_and_loses_nothing(self):
        exchange, rounds = Exchange("main"), []

        async def round_():
            rounds.append(len(rounds))
            if len(rounds) < 3:
                raise RuntimeError("a fault")
            exchange._stopping = True

        with (
            quiet(),
            mock.patch.object(exchange, "_round", round_),
            mock.patch("exchange.live.shell.asyncio.sleep", mock.AsyncMock()),
        ):
            asyncio.run(exchange._work())
        self.assertEqual(len(rounds), 3)

    def test_one_that_fails_for_long_ends_the_process_and_all_its_tasks(self):
        exchange = Exchange("main")
        ended = []

        async def goes_on():
            try:
                await asyncio.sleep(60)
            finally:
                ended.append(True)

        async def nothing(*_):
            return None

        fails = mock.AsyncMock(side_effect=RuntimeError("a fault"))

        with (
            quiet(),
            mock.patch.object(shell, "PATIENCE_S", 0),
            mock.patch.object(shell, "database", nothing),
            mock.patch.multiple(
                exchange,
                _begin=nothing,
                _listen=goes_on,
                _renew=goes_on,
                _publish=goes_on,
                _round=fails,
                centre=Hand().centre,
                create=True,
            ),
            self.assertRaisesRegex(RuntimeError, "a fault"),
        ):
            asyncio.run(exchange.run())
        self.assertEqual(len(ended), 3)

    def test_the_pulse_stands_still_where_rounds_do(self):
        for stale, beats in ((True, 0), (False, 1)):
            exchange = Exchange("main")
            exchange._beat_at = time.monotonic() - (60 if stale else 0)
            heartbeat = mock.AsyncMock()

            async def publish(exchange=exchange):
                task = asyncio.create_task(exchange._publish())
                await asyncio.sleep(0.2)
                exchange._stopping = True
                await task

            with (
                mock.patch.object(exchange, "_heartbeat", heartbeat),
                mock.patch.object(exchange, "_publish_told", mock.AsyncMock()),
            ):
                asyncio.run(publish())
            self.assertEqual(heartbeat.await_count > 0, beats > 0)
