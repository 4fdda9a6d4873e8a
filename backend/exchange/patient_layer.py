"""The channel layer on Redis, for lines that live through a Redis that is slow or away."""

from __future__ import annotations

import asyncio
from typing import Any

from channels_redis.core import RedisChannelLayer
from redis.exceptions import RedisError

_PAUSE_S = 0.5


class PatientLayer(RedisChannelLayer):
    """Where receiving fails, whoever receives is told so, to join its groups again."""

    async def receive(self, channel: str) -> dict[str, Any]:
        try:
            return await super().receive(channel)
        except (RedisError, OSError, TimeoutError):
            await asyncio.sleep(_PAUSE_S)
            return {"type": "layer.broke"}
