"""The live topics as they were last published, for whoever begins to watch."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
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


#: A topic is kept as a hash: its head under this field, each item under `section` + `_OF` + id.
_HEAD = ""
_OF = "\n"


def head_and_items(
    head: Mapping[str, Any], items: Mapping[str, Mapping[str, Any]], gone: Mapping[str, Iterable[str]]
) -> tuple[dict[str, str], list[str]]:
    """The fields to write of a topic that has changed, and those to take away.

    Args:
        head: with the names of all its `sections`.
        items, gone: by section.
    """
    fields = {_HEAD: json.dumps(head)}
    for section, known in items.items():
        fields |= {f"{section}{_OF}{name}": json.dumps(item) for name, item in known.items()}
    return fields, [f"{section}{_OF}{name}" for section, names in gone.items() for name in names]


def snapshot(topic: str) -> dict[str, Any] | None:
    """The last published snapshot of a topic; None where there is none or Redis is away."""
    try:
        kept: dict[bytes, bytes] = client().hgetall(key_of(topic))
    except redis.RedisError:
        return None
    if not kept:
        return None
    head = json.loads(kept.pop(_HEAD.encode()))
    data: dict[str, dict[str, Any]] = {section: {} for section in head.pop("sections")}
    for field, item in kept.items():
        section, _, name = field.decode().partition(_OF)
        data[section][name] = json.loads(item)
    return {**head, "data": data}


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
