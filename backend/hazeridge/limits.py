"""No request is read beyond a size, whatever it says of itself."""

from __future__ import annotations

import json
from typing import Any

#: The largest file that anything takes is 20 MB; forms around it need a little more.
LARGEST_BODY = 24 * 1024 * 1024
_WORDS = f"This is larger than {LARGEST_BODY // 1024 // 1024} MB."


class TooLarge(Exception):
    """More came than was allowed."""


class BodyLimit:
    """ASGI middleware: a body that is too large is refused before it is kept anywhere."""

    def __init__(self, application: Any) -> None:
        self._application = application

    async def __call__(self, scope: dict[str, Any], receive: Any, send: Any) -> None:
        if scope["type"] != "http":
            await self._application(scope, receive, send)
            return
        said = dict(scope["headers"]).get(b"content-length", b"0")
        if not said.isdigit() or int(said) > LARGEST_BODY:
            await _refuse(send)
            return
        came, began = 0, False

        async def counted() -> Any:
            nonlocal came
            message = await receive()
            came += len(message.get("body", b""))
            if came > LARGEST_BODY:
                raise TooLarge
            return message

        async def noted(message: Any) -> None:
            nonlocal began
            began = True
            await send(message)

        try:
            await self._application(scope, counted, noted)
        except TooLarge:
            if not began:
                await _refuse(send)


async def _refuse(send: Any) -> None:
    body = {"status": 413, "code": "too-large", "detail": _WORDS, "fields": {}}
    headers = [(b"content-type", b"application/problem+json"), (b"connection", b"close")]
    await send({"type": "http.response.start", "status": 413, "headers": headers})
    await send({"type": "http.response.body", "body": json.dumps(body).encode()})
