"""Django's test runner, with workers that have a database and a Redis each."""

from __future__ import annotations

import os
from collections.abc import Callable
from contextlib import suppress
from multiprocessing import util
from typing import Any

from django.conf import settings
from django.core.cache import caches
from django.db import connection
from django.test import runner

#: What puts into the one database what every worker's copy of it begins with.
before_copying: list[Callable[[], None]] = []
#: What must end before a worker's database goes.
at_the_end: list[Callable[[], None]] = []


def _end() -> None:
    for end in at_the_end:
        end()


def _use_redis(number: int) -> None:
    """Have this process, and all that it starts, use a Redis database of its own, by its number."""
    server, _, first = settings.REDIS_URL.rpartition("/")
    url = f"{server}/{int(first) + number}"
    os.environ["HAZERIDGE_REDIS_URL"] = url
    settings.REDIS_URL = settings.CELERY_BROKER_URL = url
    settings.CACHES["default"]["LOCATION"] = url
    with suppress(AttributeError):
        # One that was opened before would still go to the Redis of all.
        del caches["default"]
    settings.CHANNEL_LAYERS["default"]["CONFIG"]["hosts"] = [url]


def _begin_worker(*args: Any) -> None:
    runner._init_worker(*args)
    _use_redis(runner._worker_id)
    util.Finalize(None, _end, exitpriority=100)


class _Result(runner.RemoteTestResult):
    """Sends what a subtest said to the parent without what its test holds: clients and processes
    cannot be sent, and the words would be lost with them."""

    def addSubTest(self, test: Any, subtest: Any, err: Any) -> None:  # noqa: N802  unittest's name
        bare = type(test)(test._testMethodName)
        params = {name: str(value) for name, value in subtest.params.items()}
        super().addSubTest(test, type(subtest)(bare, str(subtest._message), params), err)


class _RunInWorker(runner.RemoteTestRunner):
    resultclass = _Result


class _Workers(runner.ParallelTestSuite):
    init_worker = _begin_worker
    runner_class = _RunInWorker


class Runner(runner.DiscoverRunner):
    """Makes and loads one database and copies it for each worker; ends what its tests share."""

    parallel_test_suite = _Workers

    def setup_databases(self, **kwargs: Any) -> Any:
        workers, self.parallel = self.parallel, 0
        made = super().setup_databases(**kwargs)
        self.parallel = workers
        if made:
            for prepare in before_copying:
                prepare()
            for number in range(1, workers + 1) if workers > 1 else ():
                connection.creation.clone_test_db(suffix=str(number), verbosity=self.verbosity)
        return made

    def teardown_databases(self, *args: Any, **kwargs: Any) -> None:
        _end()
        super().teardown_databases(*args, **kwargs)
