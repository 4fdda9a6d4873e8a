"""Asking the exchange: a row, a wake-up, and a short wait for the answer."""

from __future__ import annotations

import time
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.db import connection
from django.utils import timezone

from callcore.errors import EventRefused
from exchange.models import Command, Lease
from web.errors import Refused

COMMAND_CHANNEL = "hazeridge_command"
PATIENCE_S = 3.0
_POLL_S = 0.01


class ExchangeAway(Refused):
    """Nobody answers: no exchange serves this site, or it is too slow."""

    def __init__(self) -> None:
        super().__init__(
            "exchange-away",
            "The exchange does not answer. Nothing was done; try again in a moment.",
            status=503,
        )


def ask(user: Any, kind: str, body: dict[str, Any]) -> dict[str, Any]:
    """Have the exchange do something, and wait for its answer.

    Raises:
        EventRefused: the exchange refused it, in words.
        ExchangeAway: no answer in time; the command has been withdrawn.
    """
    if not Lease.objects.filter(site=settings.EXCHANGE_SITE, until__gt=timezone.now()).exists():
        raise ExchangeAway
    command = Command.objects.create(
        site=settings.EXCHANGE_SITE,
        kind=kind,
        body=body,
        by=user if getattr(user, "pk", None) else None,
        expires_at=timezone.now() + timedelta(seconds=PATIENCE_S),
    )
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [COMMAND_CHANNEL, str(command.pk)])
    return _answer(command)


def tell(kind: str, body: dict[str, Any]) -> None:
    """Let the exchange know something, without waiting for what it makes of it."""
    command = Command.objects.create(
        site=settings.EXCHANGE_SITE,
        kind=kind,
        body=body,
        expires_at=timezone.now() + timedelta(seconds=PATIENCE_S),
    )
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [COMMAND_CHANNEL, str(command.pk)])


def _answer(command: Command) -> dict[str, Any]:
    deadline = time.monotonic() + PATIENCE_S
    while time.monotonic() < deadline:
        answer = Command.objects.filter(pk=command.pk).values_list("answer", flat=True).get()
        if answer is not None:
            if "refused" in answer:
                raise EventRefused(answer["refused"]["code"], answer["refused"]["message"])
            return answer
        time.sleep(_POLL_S)
    withdrawn = Command.objects.filter(pk=command.pk, answered_at__isnull=True).delete()[0]
    if not withdrawn:
        return _answer(command)
    raise ExchangeAway


def reload_exchange(user: Any) -> int | None:
    """The revision in effect after the exchange has read the configuration again; None if away."""
    try:
        return int(ask(user, "reload", {})["revision"])
    except ExchangeAway:
        return None
