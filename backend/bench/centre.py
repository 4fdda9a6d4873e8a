"""The running centre that `./run load` and `./run faults` try: asked and watched from outside."""

from __future__ import annotations

import json
import os
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import django

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "hazeridge.settings")
django.setup()

from django.db import InterfaceError, OperationalError, connection  # noqa: E402

from callcore.errors import EventRefused  # noqa: E402
from exchange.commands import ExchangeAway, ask  # noqa: E402
from exchange.services import settle_stand_ins  # noqa: E402
from queues.services import settings as queue_settings  # noqa: E402

#: How long a part may be away before it is lost for good, in seconds.
PATIENCE_S = 60.0


def notes() -> dict[str, Any]:
    """What the runner knows of its processes and servers."""
    found: dict[str, Any] = json.loads(Path(os.environ["HAZERIDGE_NOTES"]).read_text())
    return found


def do(kind: str, **body: Any) -> dict[str, Any]:
    """Have the exchange do something, however often it or the database is away."""
    deadline = time.monotonic() + PATIENCE_S
    while True:
        try:
            return ask(None, kind, body)
        except (ExchangeAway, OperationalError, InterfaceError):
            connection.close()
            if time.monotonic() > deadline:
                raise
            time.sleep(0.2)


def may(kind: str, **body: Any) -> bool:
    """Try something that may be refused."""
    try:
        do(kind, **body)
    except EventRefused:
        return False
    return True


def until(what: str, check: Callable[[], Any], seconds: float = PATIENCE_S) -> float:
    """Wait until something holds; how long that took, in seconds."""
    began = time.monotonic()
    while True:
        try:
            if check():
                return time.monotonic() - began
        except (OperationalError, InterfaceError):
            connection.close()
        if time.monotonic() - began > seconds:
            raise AssertionError(f"{what}: not within {seconds:.0f} s")
        time.sleep(0.1)


def alone() -> None:
    """Send the stand-ins home: nobody is there but whom we bring."""
    settle_stand_ins(on=False, agents=0)
    do("reload")


def queue_named(name: str) -> str:
    """A queue's id."""
    return next(q.id for q in queue_settings() if q.name == name)
