"""Guessing passwords is slowed: by name, by address, and for the whole centre."""

from __future__ import annotations

from datetime import timedelta

from axes.models import AccessFailureLog
from django.conf import settings
from django.http import HttpRequest
from django.utils import timezone

from web.errors import Refused

#: Failures are kept for whoever looks into them afterwards.
_KEPT = timedelta(days=30)


class TooManyTries(Refused):
    """There were too many failures; nobody is let in for a while, whatever they send."""

    def __init__(self) -> None:
        super().__init__("too-many-tries", "Too many tries. Wait five minutes.", status=429)


def address_of(request: HttpRequest) -> str:
    """Who connects. What a request says of itself counts only as the web server took it over from
    a proxy that is named."""
    return str(request.META.get("REMOTE_ADDR") or "0.0.0.0")  # noqa: S104  nobody's, not all


def refuse_guessing(request: HttpRequest, username: str) -> None:
    """Let nobody try again where too much failed of late.

    Raises:
        TooManyTries: for the name, the address, or over all.
    """
    since = timezone.now() - settings.AXES_COOLOFF_TIME
    recent = AccessFailureLog.objects.filter(attempt_time__gte=since)
    limits = settings.SIGN_IN_FAILURES
    counted = (
        (recent.filter(username=username), limits["username"]),
        (recent.filter(ip_address=address_of(request)), limits["ip_address"]),
        (recent, limits["whole"]),
    )
    if any(rows.count() >= limit for rows, limit in counted):
        raise TooManyTries
    AccessFailureLog.objects.filter(attempt_time__lt=timezone.now() - _KEPT).delete()
