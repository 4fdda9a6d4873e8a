"""A web server that really runs, and what many requests at once do to it."""

from __future__ import annotations

import http.client
import os
from concurrent.futures import ThreadPoolExecutor
from unittest import mock

from django.db import connection
from django.test import TransactionTestCase

from testkit import people, processes

_OTHERS = """SELECT count(*) FROM pg_stat_activity
WHERE datname = current_database() AND pid <> pg_backend_pid()"""


class ServedTests(TransactionTestCase):
    def test_requests_share_the_connections_to_the_database(self) -> None:
        cookies = people.client_of(people.person()).cookies.items()
        with mock.patch.dict(os.environ, HAZERIDGE_DATABASE_POOL="3"):
            web, address = processes.start_web()
        self.addCleanup(processes.stop, web)
        held = "; ".join(f"{name}={morsel.value}" for name, morsel in cookies)

        def ask(_: int) -> int:
            line = http.client.HTTPConnection(address.removeprefix("http://"))
            line.request("GET", "/api/v1/queues", headers={"Cookie": held})
            return line.getresponse().status

        with ThreadPoolExecutor(12) as asking:
            self.assertEqual(set(asking.map(ask, range(60))), {200})
        with connection.cursor() as cursor:
            cursor.execute(_OTHERS)
            (connections,) = cursor.fetchone()
        self.assertIn(connections, (1, 2, 3))
