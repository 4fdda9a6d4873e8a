"""Where a WebSocket may come from: our own page, port included, or an origin that is named."""

from __future__ import annotations

from typing import Any
from urllib.parse import urlsplit

from channels.security.websocket import WebsocketDenier
from django.conf import settings
from django.http.request import validate_host

_PORTS = {"http": 80, "https": 443}


class OwnOrigin:
    """Lets through only lines whose `Origin` is the address that they connect to.

    A host name alone would let in whatever else is served there on another port.
    """

    def __init__(self, application: Any) -> None:
        self._application = application

    async def __call__(self, scope: dict[str, Any], receive: Any, send: Any) -> Any:
        headers = {name: value.decode("latin1") for name, value in scope["headers"]}
        if is_own(headers.get(b"origin", ""), headers.get(b"host", "")):
            return await self._application(scope, receive, send)
        return await WebsocketDenier()(scope, receive, send)


def is_own(origin: str, host: str) -> bool:
    """Whether a page of `origin` is our own, as it is reached by `host` (with its port)."""
    if origin in settings.CSRF_TRUSTED_ORIGINS:
        return True
    try:
        page, here = urlsplit(origin), urlsplit(f"//{host}")
        default = _PORTS.get(page.scheme)
        same = page.hostname == here.hostname and (page.port or default) == (here.port or default)
    except ValueError:
        return False
    return bool(page.hostname) and same and validate_host(page.hostname, settings.ALLOWED_HOSTS)
