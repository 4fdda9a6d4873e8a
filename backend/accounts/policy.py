"""Who may do what: asked by the API, the live consumer and the interface alike."""

from __future__ import annotations

from typing import Any, Literal

from accounts.models import Role

Verb = Literal["see", "change", "use"]

#: Areas that are about one's own work: an agent's desk, the messages left for them.
OWN = frozenset({"desk", "messages"})
#: What supervisors may change beside seeing everything: the people, where they work, where callers
#: are sent for a while or that it is closed, and what happens on the floor.
SUPERVISED = frozenset(
    {
        "agents",
        "queues",
        "mailboxes",
        "diversions",
        "closures",
        "telephone",
        "callbacks",
        "alarms",
        "alerts",
        "reports",
        "floor",
    }
)


#: What is an administrator's business alone.
ADMINISTRATORS = frozenset({"people", "keeping"})


def may(user: Any, verb: Verb, area: str) -> bool:
    """Whether `user` may `see` or `change` an area, or `use` one (desk, telephone)."""
    if not getattr(user, "is_authenticated", False):
        return False
    if area == "session":
        return True
    match user.role:
        case Role.ADMINISTRATOR:
            return True
        case Role.SUPERVISOR:
            return (verb == "see" and area not in ADMINISTRATORS) or area in SUPERVISED | OWN
        case Role.AGENT:
            return area in OWN
        case Role.READ_ONLY:
            return verb == "see" and area not in OWN | ADMINISTRATORS
    return False


def rights(user: Any, areas: tuple[str, ...]) -> dict[str, list[Verb]]:
    """Everything that `user` may do, by area, for the interface to offer no more."""
    verbs: tuple[Verb, ...] = ("see", "change", "use")
    return {area: [v for v in verbs if may(user, v, area)] for area in areas}
