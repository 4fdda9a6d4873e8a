"""Faults of our own: what one contact, agent or command meets stays with it."""

from __future__ import annotations

import logging
from contextlib import suppress

from callcore.centre.contact import Contact
from callcore.centre.parts import Trouble
from callcore.centre.site import Site
from callcore.events import facts

log = logging.getLogger(__name__)

#: Why a contact whose handling failed leaves its queue, and takes the failure rule.
BROKEN = "broken"


def broke(site: Site, contact_id: str, what: str, error: Exception, now_ms: int) -> None:
    """Write down a fault, and end the contact that met it by its flow's failure rule."""
    contact = site.contacts.get(contact_id)
    log.error("%s failed%s", what, f" (contact {contact_id})" if contact else "", exc_info=error)
    site.troubles.append(Trouble(now_ms, what, contact_id if contact else ""))
    if contact is None:
        return
    try:
        _end_by_failure_rule(site, contact, now_ms)
    except Exception as worse:  # the failure rule fails as well: nothing else is left to try
        log.error("contact %s is cut off", contact_id, exc_info=worse)
        _cut_off(site, contact, now_ms)


def _end_by_failure_rule(site: Site, contact: Contact, now_ms: int) -> None:
    if contact.failing:
        raise RuntimeError("the failure rule of this contact has failed before")
    contact.failing = True
    site.leave_queue(contact, BROKEN, now_ms)
    if contact.id in site.contacts and contact.state.phase != "ended":
        machine = contact.flow.machine
        contact.state, effects = machine.fail(contact.state, BROKEN, now_ms)
        site.perform(contact, effects, now_ms)


def _cut_off(site: Site, contact: Contact, now_ms: int) -> None:
    """The contact is over, whatever state it was in."""
    with suppress(Exception):
        site.leave_queue(contact, BROKEN, now_ms)
    if contact.id not in site.contacts:
        return
    contact.state = contact.state._replace(phase="ended", ending="failed", due_ms=None, inner=None)
    site.close(contact)
    site.emit(facts.Ended(step=contact.state.step, ending="failed"), now_ms, contact=contact.id)
