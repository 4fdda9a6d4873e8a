"""The live line: a WebSocket over which a browser watches topics.

In:  {"watch": topic} · {"leave": topic} · {"snapshot": topic}
Out: {"topic", "epoch", "version", "now_ms", "data"}            a snapshot
     {"topic", "epoch", "version", "now_ms", "set", "gone"}     a change of the version before
     {"topic", "refused": words}                                may not, or no such topic
"""

from __future__ import annotations

import json
import re
import time
from contextlib import suppress
from typing import Any

from asgiref.sync import sync_to_async
from channels.db import database_sync_to_async
from channels.generic.websocket import AsyncWebsocketConsumer
from django.db import DatabaseError

from accounts.policy import may
from agents.services import agent_of, reached
from exchange.commands import tell
from exchange.reach import within
from exchange.snapshots import group_of, snapshot

SIGNED_OUT = 4401
_MOST_TOPICS = 30
_TOPIC = re.compile(r"^(floor|strip|pulse|(call|desk|flow|queue)\.[0-9a-f-]{36})$")
_AREAS = {"floor": "floor", "call": "telephone", "flow": "flows", "queue": "floor"}


def may_watch(user: Any, topic: str) -> bool:
    """Whether a user may see a live topic: the policy, and one's own desk."""
    kind, _, identity = topic.partition(".")
    if kind == "pulse":
        return user.is_authenticated
    if kind == "strip":
        return may(user, "see", "floor")
    if kind == "desk":
        agent = agent_of(user)
        return agent is not None and str(agent.pk) == identity
    return may(user, "see", _AREAS[kind])


class LiveConsumer(AsyncWebsocketConsumer):
    """Authorises, joins and forwards; knows nothing of calls."""

    async def connect(self) -> None:
        self.topics: set[str] = set()
        self.user = self.scope["user"]
        self.teams = await database_sync_to_async(reached)(self.user)
        await self.accept()
        if not self.user.is_authenticated:
            await self.close(SIGNED_OUT)

    async def disconnect(self, code: int) -> None:
        for topic in self.topics:
            await self.channel_layer.group_discard(group_of(topic), self.channel_name)
            await self._tell_desk(topic, "desk.closed")

    async def receive(self, text_data: str | None = None, bytes_data: bytes | None = None) -> None:
        try:
            message = json.loads(text_data or "")
            ((verb, topic),) = message.items()
            known = verb in ("watch", "leave", "snapshot") and _TOPIC.match(topic)
        except (ValueError, TypeError, AttributeError, RecursionError):
            known, topic, verb = None, "", ""
        if not known:
            await self._refuse(str(topic)[:80], "This line does not understand that.")
        elif verb == "leave":
            self.topics.discard(topic)
            await self.channel_layer.group_discard(group_of(topic), self.channel_name)
            await self._tell_desk(topic, "desk.closed")
        else:
            await self._watch(topic)

    async def _watch(self, topic: str) -> None:
        if not await database_sync_to_async(may_watch)(self.user, topic):
            await self._refuse(topic, "Your role does not allow this.")
            return
        if topic not in self.topics and len(self.topics) >= _MOST_TOPICS:
            await self._refuse(topic, "Too many topics on one line.")
            return
        if topic not in self.topics:
            await self._tell_desk(topic, "desk.opened")
        self.topics.add(topic)
        await self.channel_layer.group_add(group_of(topic), self.channel_name)
        kept = await sync_to_async(snapshot, thread_sensitive=False)(topic)
        if kept is not None:
            await self._send({**kept, "sent_ms": time.time_ns() // 1_000_000})

    async def _tell_desk(self, topic: str, kind: str) -> None:
        """Let the exchange know that an agent's desk is looked at here, or no more."""
        name, _, agent = topic.partition(".")
        if name == "desk":
            body = {"agent": agent, "line": self.channel_name}
            with suppress(DatabaseError):
                await database_sync_to_async(tell)(kind, body)

    async def live_envelope(self, message: dict[str, Any]) -> None:
        """A change from the exchange."""
        await self._send(message["envelope"])

    async def _refuse(self, topic: str, words: str) -> None:
        await self._send({"topic": topic, "refused": words})

    async def _send(self, envelope: dict[str, Any]) -> None:
        await self.send(json.dumps(within(self.teams, envelope)))
