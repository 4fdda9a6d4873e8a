"""The supervisors at a contact: who hears it, and that they hear it no more once it is over."""

from __future__ import annotations

from callcore.centre.contact import Contact
from callcore.centre.site import Site
from callcore.events import facts

#: A supervisor without a browser for so long attends nothing any more.
GONE_MS = 15_000


def tell(site: Site, contact: Contact, user: str) -> None:
    """What supervisors, and the agent, see of it has changed."""
    site.dirty |= {f"supervisor.{user}", f"desk.{contact.agent}", f"person.{contact.agent}"}


def attends(site: Site, user: str) -> list[Contact]:
    """The contacts that a supervisor hears, or has."""
    return [contact for contact in site.contacts.values() if user in contact.attended]


def leaves(site: Site, contact: Contact, user: str, now_ms: int) -> None:
    """A supervisor hears a contact no more."""
    gone = contact.attended.pop(user, None)
    if gone is not None:
        tell(site, contact, user)
        fact = facts.Attends(user, gone.by, "")
        site.emit(fact, now_ms, contact=contact.id, agent=contact.agent)


def over_for_all(site: Site, contact: Contact, now_ms: int) -> None:
    """The agent's part is over: whoever heard it hears nothing any more."""
    for user, one in list(contact.attended.items()):
        if one.how != "has":
            leaves(site, contact, user, now_ms)


def ended(site: Site, contact: Contact) -> None:
    """The contact is over, and with it whatever anybody did there."""
    for user in contact.attended:
        site.dirty.add(f"supervisor.{user}")
    contact.attended = {}


def watch(site: Site, contact: Contact, user: str, now_ms: int) -> None:
    """A supervisor without a browser is let go of a contact after a while."""
    if not site.supervisors.get(user):
        site.timers.set(now_ms + GONE_MS, "supervisor", f"{contact.id} {user}")


def watch_again(site: Site, contact: Contact, now_ms: int) -> None:
    """After a restart: no browser is known yet, and what was due is."""
    watched = {identity for _, _, identity in site.timers.of(contact.id)}
    for user in contact.attended:
        if f"{contact.id} {user}" not in watched:
            watch(site, contact, user, now_ms)
