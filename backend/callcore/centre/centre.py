"""The centre of one site: the only module that knows all handlers."""

from __future__ import annotations

from collections.abc import Iterable

from callcore.centre import environment, standing
from callcore.centre.handlers import (
    agent_phones,
    agent_session,
    alarms,
    alerts,
    call_control,
    callbacks,
    chat,
    effects,
    faults,
    messaging,
    outside,
    routing,
    supervision,
    telephone,
)
from callcore.centre.parts import EVERYTHING, Devices, Keeps
from callcore.centre.registry import timer
from callcore.centre.setup import Setup
from callcore.centre.site import Site
from callcore.centre.standing import FlowOf, Row
from callcore.events import Happening, Kind, facts

#: Whose handlers the centre has.
HANDLERS = (
    agent_phones,
    agent_session,
    alarms,
    alerts,
    call_control,
    callbacks,
    chat,
    effects,
    faults,
    messaging,
    outside,
    routing,
    supervision,
    telephone,
)


@timer("diversion")
def diversion_changes(site: Site, _kind: str, _identity: str, _now_ms: int) -> None:
    """A diversion begins or ends: the strip tells of it."""
    site.dirty.add("strip")


@timer("notice")
def notice_ends(site: Site, _kind: str, _identity: str, _now_ms: int) -> None:
    """A notice runs out: desks show it no more."""
    site.dirty.update(f"desk.{agent}" for agent in site.router.agents)


class Centre(Site):
    """One site's live state, driven by commands and time.

    Args:
        setup: what to run.
        now_ms: milliseconds since the epoch.
        devices: what is outside of the centre.
        keeps: what is kept for people to look at.
    """

    def __init__(self, setup: Setup, now_ms: int, devices: Devices, keeps: Keeps = EVERYTHING) -> None:
        super().__init__(setup, now_ms, devices, keeps)
        self.configure(setup, now_ms)

    def environment(self, contact: str) -> environment.SiteEnvironment:
        return environment.SiteEnvironment(self, contact)

    def broke(self, contact: str, what: str, error: Exception, now_ms: int) -> None:
        faults.broke(self, contact, what, error, now_ms)

    def take_up(self, rows: Iterable[Row], events: Iterable[Happening], flow_of: FlowOf, now_ms: int) -> None:
        """Go on from where another run of this site stopped, however it stopped.

        Args:
            rows: how everything stood (see `callcore.centre.standing`).
            events: the stream since the day began, or since the oldest of the contacts arrived.
            flow_of: makes ready the flows that are not in force as they were.
        """
        self.now_ms = now_ms
        unreadable = standing.take_up(self, rows, flow_of)
        for event in events:
            self.absorb(event)
        for contact, error in unreadable:
            self.broke(contact, f"reading how contact {contact} stood", error, now_ms)
            self.emit(facts.Ended(step="", ending="failed"), now_ms, contact=contact)
        self.configure(self.setup, now_ms)
        self.carry_out(self.router.ring_anew(now_ms), now_ms)
        self.advance(now_ms)
        # Whoever watches was told by the run before: tell them how things stand now.
        self.dirty |= {f"call.{contact}" for contact in self.contacts}
        self.dirty |= {f"flow.{flow}" for flow in self.setup.flows}

    def lose(self, contact: str, error: Exception, now_ms: int) -> None:
        """What a contact did cannot be written: it ends, and only that is told of it."""
        written = len(self.pending)
        self.broke(contact, "writing what happened", error, now_ms)
        after = self.pending[written:]
        own = (Kind.ENDED,)
        self.pending[written:] = [e for e in after if e.contact != contact or e.kind in own]
        self.forget(contact)
