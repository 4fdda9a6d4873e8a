"""The live line: a WebSocket over which a browser watches topics.

In:  {"watch": topic} · {"leave": topic} · {"snapshot": topic}
Out: {"topic", "epoch", "version", "now_ms", "data"}            a snapshot
     {"topic", "epoch", "version", "now_ms", "set", "gone"}     a change of the version before
     {"topic", "refused": words}                                may not, or no such topic
     {"topic": "line"}                                          nothing else was said for a while
"""

from __future__ import annotations

import asyncio
import json
import re
import time
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from asgiref.sync import async_to_sync, sync_to_async
from channels.auth import get_user
from channels.db import database_sync_to_async
from channels.generic.websocket import AsyncWebsocketConsumer
from django.contrib.auth.models import AnonymousUser
from django.contrib.sessions.backends.db import SessionStore
from django.db import DatabaseError
from redis.exceptions import RedisError

from accounts.lines import EVERYBODY, group_of_session
from accounts.policy import may
from agents.services import agent_of, reaches
from exchange import presence
from exchange.commands import tell
from exchange.reach import reach_of, within
from exchange.snapshots import group_of, snapshot
from exchange.watching import watched

SIGNED_OUT = 4401
#: The topic of who has a flow open begins with this.
AUTHORS = "authors."
_MOST_TOPICS = 30
#: How often a line asks anew what its person may see, in seconds.
ASK_ANEW_S = 15
#: On a line where nothing else was said for so long, a sign is: so a browser knows that it lives.
SIGN_S = 0.5
_SIGN = json.dumps({"topic": "line"})
_TOPIC = re.compile(
    r"^(floor|lines|strip|heartbeat|supervisor\.\d{1,18}|"
    r"(call|desk|flow|queue|authors|person)\.[0-9a-f-]{36})$"
)
_AREAS = {"floor": "floor", "call": "telephone", "flow": "flows", "queue": "floor", "authors": "flows"}


def may_watch(user: Any, topic: str) -> bool:
    """Whether a user may see a live topic: the policy, and one's own desk."""
    kind, _, identity = topic.partition(".")
    if kind == "heartbeat":
        return user.is_authenticated
    if kind == "lines":
        return may(user, "use", "desk")
    if kind == "strip":
        return may(user, "see", "floor")
    if kind == "supervisor":
        return str(user.pk) == identity and may(user, "use", "floor")
    if kind == "person":
        return may(user, "see", "floor") and reaches(user, identity)
    if kind == "desk":
        agent = agent_of(user)
        return agent is not None and str(agent.pk) == identity
    return may(user, "see", _AREAS[kind])


def person_of(scope: dict[str, Any]) -> Any:
    """Whoever the session of a line belongs to now: nobody once it has ended, or they may not
    come in any more."""
    key = scope["session"].session_key
    if not key:
        return AnonymousUser()
    session = SessionStore(key)
    return async_to_sync(get_user)({"session": session})


class LiveConsumer(AsyncWebsocketConsumer):
    """Authorises, joins and forwards; knows nothing of calls.

    It asks anew what its person may see whenever rights change, and every so often in case it was
    not told. A Redis that is slow or away costs updates, never the line.
    """

    async def connect(self) -> None:
        self.topics: set[str] = set()
        #: The run of the exchange that was heard of last.
        self.run = ""
        self.user = self.scope["user"]
        self._tasks: list[asyncio.Task[None]] = []
        self._said_something = False
        self.reach = await database_sync_to_async(reach_of)(self.user)
        await self.accept()
        if not self.user.is_authenticated:
            await self.close(SIGNED_OUT)
            return
        await self._join(EVERYBODY)
        await self._join(group_of_session(self.scope["session"].session_key))
        self._tasks = [
            asyncio.create_task(self._ask_anew_regularly()),
            asyncio.create_task(self._give_signs()),
        ]

    async def disconnect(self, code: int) -> None:
        for task in self._tasks:
            task.cancel()
        for group in (EVERYBODY, group_of_session(self.scope["session"].session_key or "")):
            await self._part(group)
        for topic in list(self.topics):
            await self._leave(topic)

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
            await self._leave(topic)
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
            await self._tell_present(topic, "opened")
        self.topics.add(topic)
        await self._join(group_of(topic))
        await database_sync_to_async(watched)(topic)
        if topic.startswith(AUTHORS):
            await self._appear(topic)
        else:
            await self._show(topic)

    async def _leave(self, topic: str) -> None:
        known = topic in self.topics
        self.topics.discard(topic)
        await self._part(group_of(topic))
        await self._tell_present(topic, "closed")
        if known and topic.startswith(AUTHORS):
            await self._present(topic, presence.gone, self.channel_name)

    async def _appear(self, topic: str) -> None:
        """Tell everybody who has a flow open that this person has it open too."""
        await self._present(topic, presence.here, self.channel_name, self.user)

    async def _present(self, topic: str, change: Callable[..., None], *told: Any) -> None:
        """Change who is there, and show it to all who are."""
        with suppress(RedisError, OSError, TimeoutError):
            await sync_to_async(change, thread_sensitive=False)(topic, *told)
            envelope = await sync_to_async(presence.present, thread_sensitive=False)(topic)
            message = {"type": "live.envelope", "envelope": envelope}
            await self.channel_layer.group_send(group_of(topic), message)

    async def _show(self, topic: str) -> None:
        kept = await sync_to_async(snapshot, thread_sensitive=False)(topic)
        if kept is not None:
            await self._send({**kept, "sent_ms": time.time_ns() // 1_000_000})

    # Rights

    async def session_ended(self, message: dict[str, Any]) -> None:
        """Whoever watched here has signed out."""
        await self.close(SIGNED_OUT)

    async def rights_changed(self, message: dict[str, Any]) -> None:
        """Somebody's rights have changed, perhaps this person's."""
        await self._ask_anew()

    async def _ask_anew_regularly(self) -> None:
        while True:
            await asyncio.sleep(ASK_ANEW_S)
            await self.layer_broke({})
            for topic in list(self.topics):
                await database_sync_to_async(watched)(topic)
                if topic.startswith(AUTHORS):
                    await self._appear(topic)
            with suppress(DatabaseError):
                await self._ask_anew()

    async def _ask_anew(self) -> None:
        user = await database_sync_to_async(person_of)(self.scope)
        if not user.is_authenticated:
            await self.close(SIGNED_OUT)
            return
        reach = await database_sync_to_async(reach_of)(user)
        same = (user.role, reach) == (self.user.role, self.reach)
        self.user, self.reach = user, reach
        if same:
            return
        for topic in list(self.topics):
            if await database_sync_to_async(may_watch)(user, topic):
                await self._show(topic)
            else:
                await self._leave(topic)
                await self._refuse(topic, "Your role does not allow this any more.")

    # Redis

    async def layer_broke(self, message: dict[str, Any]) -> None:
        """Redis failed: what it knew of this line may be gone, so join everything again."""
        await self._join(EVERYBODY)
        await self._join(group_of_session(self.scope["session"].session_key or ""))
        for topic in list(self.topics):
            await self._join(group_of(topic))

    async def _join(self, group: str) -> None:
        with suppress(RedisError, OSError, TimeoutError):
            await self.channel_layer.group_add(group, self.channel_name)

    async def _part(self, group: str) -> None:
        with suppress(RedisError, OSError, TimeoutError):
            await self.channel_layer.group_discard(group, self.channel_name)

    async def _tell_present(self, topic: str, what: str) -> None:
        """Let the exchange know that an agent, or a supervisor, is here (`opened`) or gone."""
        name, _, identity = topic.partition(".")
        who = {"desk": "agent", "supervisor": "user"}.get(name)
        if who is not None:
            body = {who: identity, "line": self.channel_name}
            with suppress(DatabaseError):
                await database_sync_to_async(tell)(f"{name}.{what}", body)

    async def live_envelope(self, message: dict[str, Any]) -> None:
        """A change from the exchange."""
        envelope = message["envelope"]
        if envelope.get("topic") == "heartbeat":
            await self._hear_of_run(envelope["epoch"])
        await self._send(message["envelope"])

    async def _hear_of_run(self, run: str) -> None:
        """Another run of the exchange does not know which desks are open, and what is watched."""
        if self.run and run != self.run:
            for topic in list(self.topics):
                await self._tell_present(topic, "opened")
                await database_sync_to_async(watched)(topic)
        self.run = run

    async def _refuse(self, topic: str, words: str) -> None:
        await self._send({"topic": topic, "refused": words})

    async def _give_signs(self) -> None:
        while True:
            await asyncio.sleep(SIGN_S)
            if not self._said_something:
                await self.send(_SIGN)
            self._said_something = False

    async def _send(self, envelope: dict[str, Any]) -> None:
        self._said_something = True
        await self.send(json.dumps(within(self.reach, envelope)))
