"""The policy, asked on every request."""

from typing import Any

from rest_framework.permissions import SAFE_METHODS, BasePermission
from rest_framework.request import Request

from accounts.policy import Verb, may

AREAS = (
    "numbers",
    "diversions",
    "hours",
    "flows",
    "sounds",
    "lookups",
    "queues",
    "mailboxes",
    "messages",
    "callbacks",
    "contacts",
    "agents",
    "teams",
    "people",
    "wrapup",
    "floor",
    "changes",
    "desk",
    "telephone",
    "closures",
    "keeping",
    "stand_ins",
    "alarms",
    "alerts",
    "reports",
)


class Allowed(BasePermission):
    """Asks the policy about the view's `area`; a view without one is refused.

    `verb` of a view overrides see-or-change, for areas that are used.
    """

    message = "Your role does not allow this."

    def has_permission(self, request: Request, view: Any) -> bool:
        area = getattr(view, "area", None)
        if area is None:
            return False
        usual: Verb = "see" if request.method in SAFE_METHODS else "change"
        verb: Verb = getattr(view, "verb", None) or usual
        return may(request.user, verb, area)
