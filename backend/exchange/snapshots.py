"""The live topics as they were last published, for whoever begins to watch."""

from __future__ import annotations

import json
from functools import cache
from typing import Any

import redis
from django.conf import settings

#: Snapshots outlive the exchange by this much, so that a restart is not a blank page.
KEPT_S = 600


def key_of(topic: str) -> str:
    """Where a topic's snapshot is kept."""
    return f"hazeridge:{settings.EXCHANGE_SITE}:live:{topic}"


def group_of(topic: str) -> str:
    """The channel group of a topic."""
    return f"live.{settings.EXCHANGE_SITE}.{topic}"


@cache
def client() -> redis.Redis:
    """The one connection of this process."""
    return redis.Redis.from_url(settings.REDIS_URL, socket_timeout=2, socket_connect_timeout=2)


def snapshot(topic: str) -> dict[str, Any] | None:
    """The last published snapshot of a topic; None where there is none or Redis is away."""
    try:
        kept = client().get(key_of(topic))
    except redis.RedisError:
        return None
    return json.loads(kept) if kept else None


def arm_counts(flow_id: str) -> dict[tuple[str, str], int]:
    """Today's callers by stop and exit of a flow."""
    kept = snapshot(f"flow.{flow_id}")
    if kept is None:
        return {}
    arms: dict[tuple[str, str], int] = {}
    for name, count in kept["data"].get("arms", {}).items():
        step, _, exit_name = name.partition(" ")
        arms[(step, exit_name)] = count
    return arms
