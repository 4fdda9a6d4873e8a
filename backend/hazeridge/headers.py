"""What every answer tells the browser: that only our own scripts may run on our pages."""

from __future__ import annotations

from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse


class ContentPolicy:
    """Middleware that sets Content-Security-Policy and Permissions-Policy."""

    sync_capable, async_capable = True, False

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self._get_response = get_response
        self._policy = "; ".join(f"{name} {value}" for name, value in settings.CONTENT_POLICY.items())

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self._get_response(request)
        response.setdefault("Content-Security-Policy", self._policy)
        response.setdefault("Permissions-Policy", "microphone=(self), camera=(), geolocation=()")
        return response
