"""Who has a flow open at the moment: told to the others who have it open, kept in Redis only."""

from __future__ import annotations

import json
import time
from typing import Any

from exchange.snapshots import client, key_of

#: Somebody whose line has not been heard of for so long has gone without a word.
GONE_S = 45


def here(topic: str, line: str, person: Any) -> None:
    """A line of somebody watches a topic now, or still does."""
    told = {"user": person.username, "name": person.full_name or person.username, "at": time.time()}
    with client().pipeline() as redis:
        redis.hset(key_of(topic), line, json.dumps(told))
        redis.expire(key_of(topic), 2 * GONE_S)
        redis.execute()


def gone(topic: str, line: str) -> None:
    """A line watches it no more."""
    client().hdel(key_of(topic), line)


def present(topic: str) -> dict[str, Any]:
    """The topic as those who watch it are shown it: each line with whose it is."""
    kept: dict[bytes, bytes] = client().hgetall(key_of(topic))
    lines = {line.decode(): json.loads(told) for line, told in kept.items()}
    oldest = time.time() - GONE_S
    silent = [line for line, told in lines.items() if told["at"] < oldest]
    if silent:
        client().hdel(key_of(topic), *silent)
    people = {
        line: {"user": told["user"], "name": told["name"]}
        for line, told in lines.items()
        if line not in silent
    }
    return {"topic": topic, "epoch": "", "version": 0, "data": {"people": people}}
