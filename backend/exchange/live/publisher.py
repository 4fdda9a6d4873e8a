"""Live topics out: snapshots kept in Redis, changes sent to whoever watches.

Each topic is published at most four times a second. A change names the version
it follows; a reader who missed one takes the snapshot again.
"""

from __future__ import annotations

import json
from typing import Any

from channels.layers import get_channel_layer
from redis.asyncio import Redis

from exchange.snapshots import KEPT_S, group_of, key_of

SHORTEST_GAP_MS = 250
#: How often snapshots are told to live on.
_KEEP_MS = 60_000

View = dict[str, dict[str, Any]]


def difference(before: View, after: View) -> dict[str, Any]:
    """What turns `before` into `after`: items set, and ids gone, by section."""
    changed: View = {}
    gone: dict[str, list[str]] = {}
    for section in before.keys() | after.keys():
        old, new = before.get(section, {}), after.get(section, {})
        items = {k: v for k, v in new.items() if k not in old or old[k] != v}
        lost = sorted(old.keys() - new.keys())
        if items:
            changed[section] = items
        if lost:
            gone[section] = lost
    return {"set": changed, "gone": gone}


class Publisher:
    """Remembers what every topic last said.

    Args:
        epoch: names this run of the exchange; versions count from 1 within it.
    """

    def __init__(self, redis: Redis, epoch: str) -> None:
        self._redis = redis
        self._epoch = epoch
        self._kept_ms = 0
        self._last: dict[str, tuple[int, int, View]] = {}

    def ready(self, topic: str, wall_ms: int) -> bool:
        """Whether a topic may be published again."""
        return topic not in self._last or wall_ms - self._last[topic][1] >= SHORTEST_GAP_MS

    def forget(self) -> set[str]:
        """Nothing is known any more of what readers have; the topics that were told."""
        told = set(self._last) - {"pulse"}
        self._last = {topic: (version, 0, {}) for topic, (version, _, _) in self._last.items()}
        return told

    def drop(self, topic: str) -> None:
        """Nobody reads a topic any more; whoever does again is shown all of it."""
        self._last.pop(topic, None)

    async def publish(self, topic: str, data: View, now_ms: int, wall_ms: int) -> None:
        """Send what changed; nothing where nothing did.

        Args:
            now_ms: what the site's clock shows; readers count from it.
        """
        data = json.loads(json.dumps(data))
        version, _, before = self._last.get(topic, (0, 0, None))
        if before == data:
            self._last[topic] = (version, wall_ms, data)
            return
        version += 1
        head = {"topic": topic, "epoch": self._epoch, "version": version, "now_ms": now_ms}
        snapshot = json.dumps({**head, "data": data})
        await self._redis.set(key_of(topic), snapshot, ex=KEPT_S)
        self._last[topic] = (version, wall_ms, data)
        change = (
            {**head, **difference(before, data)} if before is not None else {**head, "data": data}
        )
        await self.send(topic, change)

    async def send(self, topic: str, envelope: dict[str, Any]) -> None:
        """Send an envelope to whoever watches a topic."""
        layer = get_channel_layer()
        await layer.group_send(group_of(topic), {"type": "live.envelope", "envelope": envelope})

    async def keep(self, wall_ms: int) -> None:
        """Let kept snapshots live on while the exchange does."""
        if wall_ms - self._kept_ms < _KEEP_MS:
            return
        self._kept_ms = wall_ms
        async with self._redis.pipeline(transaction=False) as pipe:
            for topic in self._last:
                pipe.expire(key_of(topic), KEPT_S)
            await pipe.execute()
