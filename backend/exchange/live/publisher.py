"""Live topics out: items kept in Redis, changes sent to whoever watches.

Each topic is published at most four times a second. A change names the version
it follows; a reader who missed one takes the snapshot again.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any, NamedTuple, cast

from channels.layers import get_channel_layer
from redis.asyncio import Redis

from exchange.snapshots import KEPT_S, group_of, head_and_items, key_of

SHORTEST_GAP_MS = 250
#: How often snapshots are told to live on.
_KEEP_MS = 60_000

#: A topic as sections of items by id; `callcore.centre.topics` says which.
View = Mapping[str, Mapping[str, Any]]


class Change(NamedTuple):
    """What turns one view into another: items set, and ids gone, by section."""

    set: dict[str, dict[str, Any]]
    gone: dict[str, list[str]]


def difference(before: View, after: View) -> Change:
    """What turns `before` into `after`; items that are the same objects are not looked into."""
    change = Change({}, {})
    for section in before.keys() | after.keys():
        old, new = before.get(section, {}), after.get(section, {})
        items, came = {}, 0
        for name, item in new.items():
            known = old.get(name, _NOTHING)
            if known is not item and known != item:
                items[name] = item
                came += known is _NOTHING
        if items:
            change.set[section] = items
        if len(old) + came > len(new):
            change.gone[section] = sorted(old.keys() - new.keys())
    return change


_NOTHING = object()


class _Told(NamedTuple):
    """What readers have of a topic; no view where that is not known."""

    version: int
    wall_ms: int
    view: View | None


_UNTOLD = _Told(0, 0, None)
#: What is told before all else.
_FIRST = frozenset({"floor", "strip"})


class Publisher:
    """Remembers what every topic last said.

    Args:
        epoch: names this run of the exchange; versions count from 1 within it.
    """

    def __init__(self, redis: Redis, epoch: str) -> None:
        self._redis = redis
        self._epoch = epoch
        self._kept_ms = 0
        self._last: dict[str, _Told] = {}

    def in_turn(self, topics: Iterable[str], wall_ms: int) -> list[str]:
        """Those of some topics that may be told again: what all look at first, then what was told
        longest ago, so that none waits for ever while others change all the time."""
        told_ms = {topic: self._last.get(topic, _UNTOLD).wall_ms for topic in topics}
        ready = (t for t, then_ms in told_ms.items() if wall_ms - then_ms >= SHORTEST_GAP_MS)
        return sorted(ready, key=lambda topic: (topic not in _FIRST, told_ms[topic], topic))

    def forget(self) -> set[str]:
        """Nothing is known any more of what readers have; the topics that were told."""
        told = set(self._last) - {"heartbeat"}
        self._last = {topic: last._replace(wall_ms=0, view=None) for topic, last in self._last.items()}
        return told

    def drop(self, topic: str) -> None:
        """Nobody reads a topic any more; whoever does again is shown all of it."""
        self._last.pop(topic, None)

    async def publish(self, topic: str, data: Mapping[str, object], now_ms: int, wall_ms: int) -> None:
        """Send what changed; nothing where nothing did.

        Args:
            data: one of `callcore.centre.topics`; what is in it is not changed afterwards.
            now_ms: what the site's clock shows; readers count from it.
        """
        view = cast(View, data)
        last = self._last.get(topic, _UNTOLD)
        change = difference(last.view or {}, view)
        if last.view is not None and not change.set and not change.gone:
            self._last[topic] = _Told(last.version, wall_ms, view)
            return
        version = last.version + 1
        head = {"topic": topic, "epoch": self._epoch, "version": version, "now_ms": now_ms}
        await self._keep_items(topic, {**head, "sections": list(view)}, change, last.view is None)
        self._last[topic] = _Told(version, wall_ms, view)
        said = change._asdict() if last.view is not None else {"data": view}
        await self.send(topic, {**head, **said})

    async def _keep_items(self, topic: str, head: dict[str, Any], change: Change, anew: bool) -> None:
        kept, lost = head_and_items(head, change.set, change.gone)
        async with self._redis.pipeline(transaction=True) as pipe:
            if anew:
                pipe.delete(key_of(topic))
            pipe.hset(key_of(topic), mapping=kept)
            if lost:
                pipe.hdel(key_of(topic), *lost)
            pipe.expire(key_of(topic), KEPT_S)
            await pipe.execute()

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
