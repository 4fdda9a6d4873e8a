"""Boards: the floor as somebody arranged it, without who is there and who calls."""

from __future__ import annotations

import secrets
from typing import Any

from django.conf import settings
from django.core.cache import cache
from django.db.models import Q, QuerySet

from exchange.services import site_clock_ms
from exchange.snapshots import snapshot
from reports.models import Board

#: What can be shown of a queue, and of all together.
COLUMNS = ("waiting", "longest", "expected", "available", "on_contact", "answered", "abandoned", "level")
TOTALS = (
    "signed_in",
    "available",
    "ringing",
    "on_contact",
    "wrapping",
    "away",
    "waiting",
    "longest",
    "answered",
    "abandoned",
    "level",
)
#: What a board begins with.
FIRST_COLUMNS = ["waiting", "longest", "level"]
FIRST_TOTALS = ["signed_in", "available", "ringing", "on_contact", "wrapping", "away", "level"]
#: Boards that one person keeps.
MOST = 50
#: The floor is read anew after so long (s), however many boards are open.
_FRESH_S = 1


def readable_by(user: Any) -> QuerySet[Board]:
    """One's own boards, and those that others share."""
    return Board.objects.filter(Q(owner=user) | Q(shared=True)).select_related("owner")


def new_token() -> str:
    """A link that nobody guesses."""
    return secrets.token_urlsafe(32)


def now(board: Board) -> dict[str, Any]:
    """What a board shows at this moment."""
    floor = cache.get_or_set("board-floor", _floor, _FRESH_S)
    known = floor["queues"]
    wanted = board.queues or sorted(known, key=lambda queue: known[queue]["name"])
    return {
        "name": board.name,
        "columns": board.columns,
        "totals": board.totals,
        "told_ms": floor["told_ms"],
        "now_ms": site_clock_ms(),
        "time_zone": settings.CENTRE_TIME_ZONE,
        "queues": [{"id": queue, **known[queue]} for queue in wanted if queue in known],
        "centre": floor["centre"],
    }


def _floor() -> dict[str, Any]:
    """The live floor, only what is nobody's: no agent, and no caller's number."""
    kept, beat = snapshot("floor"), snapshot("heartbeat")
    if kept is None or beat is None:
        return {"told_ms": None, "queues": {}, "centre": None}
    return {
        "told_ms": beat["now_ms"],
        "queues": {queue: _queue(row) for queue, row in kept["data"]["queues"].items()},
        "centre": _centre(kept["data"]["centre"]),
    }


def _queue(row: dict[str, Any]) -> dict[str, Any]:
    expected = row["expected"]
    return {
        "name": row["name"],
        "threshold_s": row["threshold_s"],
        "below_goal": row["below_goal"],
        "waits": [{name: bead[name] for name in ("entered_ms", "late_from_ms")} for bead in row["waiting"]],
        "waiting": len(row["waiting"]),
        "first_entered_ms": row["first_entered_ms"],
        "expected_s": expected["seconds"] if expected else None,
        **{name: row[name] for name in ("signed_in", "available", "on_contact")},
        **_figures(row["figures"]),
    }


def _centre(row: dict[str, Any]) -> dict[str, Any]:
    counts = (
        "signed_in",
        "available",
        "ringing",
        "on_contact",
        "wrapping",
        "away",
        "waiting",
        "first_entered_ms",
    )
    return {**{name: row[name] for name in counts}, **_figures(row["figures"])}


def _figures(row: dict[str, Any]) -> dict[str, Any]:
    return {"answered": row["answered"], "abandoned": row["abandoned"], "level": row["service_level"]}
