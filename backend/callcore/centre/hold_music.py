"""What a contact hears while nobody speaks with it."""

from __future__ import annotations

from callcore.centre.contact import Contact
from callcore.centre.site import Site
from callcore.flow.inputs import resolved
from callcore.flow.steps import Music, WaitInQueue
from callcore.waiting.music import Places, heard


def music_take(site: Site, contact: Contact) -> int | None:
    """The recording of the hold music that counts for a contact now; None for the built-in one."""
    machine = contact.flow.machine
    facts = site.setup.catalogue.sounds.get(music_of(site, contact))
    # A sound that is gone, or was never recorded, is music all the same.
    return (facts.heard(machine.flow.language).take or None) if facts else None


def music_of(site: Site, contact: Contact) -> str:
    """The sound that counts as a contact's hold music now, or empty."""
    state, machine = contact.state, contact.flow.machine
    plan = site.plans.get(state.plan or contact.plan) if state.inner is not None else None
    inner = plan.machine.steps.get(state.inner.step) if plan and state.inner else None
    outer = machine.steps.get(state.step)
    stops = [stop.sound for stop in (inner, outer) if isinstance(stop, Music)]
    stops += [outer.music] if isinstance(outer, WaitInQueue) else []
    flows = [plan.machine.flow.music if plan else None, machine.flow.music]
    queue = site.setup.queues.get(contact.home)
    places = Places(
        _first(contact, stops), _first(contact, flows), queue.music if queue else None, site.setup.music
    )
    return heard(places)


def _first(contact: Contact, sounds: list[str | None]) -> str | None:
    return next((found for s in sounds if s and (found := resolved(s, contact.state.values))), None)
