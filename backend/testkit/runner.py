"""Django's test runner, which ends what our tests leave running before it drops their database."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.test.runner import DiscoverRunner

#: What must end before the database goes.
at_the_end: list[Callable[[], None]] = []


class Runner(DiscoverRunner):
    """Ends processes that all classes share."""

    def teardown_databases(self, *args: Any, **kwargs: Any) -> None:
        for end in at_the_end:
            end()
        super().teardown_databases(*args, **kwargs)
