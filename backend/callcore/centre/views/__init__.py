"""What each live topic shows. Their items are described in `callcore.centre.topics`."""

from __future__ import annotations

from callcore.centre.site import Site
from callcore.centre.topics import CentreTopic
from callcore.centre.views.boards import floor, lines, strip
from callcore.centre.views.calls import call
from callcore.centre.views.desks import desk
from callcore.centre.views.figures import flow, waits_of
from callcore.centre.views.supervision import person, supervisor


def view(site: Site, topic: str, now_ms: int) -> CentreTopic | None:
    """The present content of a topic; None where there is no such thing."""
    kind, _, identity = topic.partition(".")
    match kind:
        case "floor":
            return floor(site)
        case "lines":
            return lines(site)
        case "strip":
            return strip(site, now_ms)
        case "call":
            return call(site, identity)
        case "desk":
            return desk(site, identity)
        case "person":
            return person(site, identity)
        case "supervisor":
            return supervisor(site, identity)
        case "flow":
            return flow(site, identity)
        case "queue":
            return waits_of(site, identity)
    return None
