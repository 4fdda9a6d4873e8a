"""Outside numbers that are rung for contacts."""

from __future__ import annotations

from callcore.centre.contact import Contact
from callcore.centre.handlers import callbacks
from callcore.centre.registry import Occasion, effect, timer
from callcore.centre.site import Site
from callcore.events import facts
from callcore.flow import runner


@effect(runner.Dial)
def dial(site: Site, contact: Contact, wanted: runner.Dial, now_ms: int) -> None:
    contact.playing = None
    contact.rings += 1
    site.emit(
        facts.RingsOut(step=wanted.step, number=wanted.number, until_ms=wanted.until_ms),
        now_ms,
        contact=contact.id,
    )
    prospect = site.devices.outside.ring(wanted.number)
    if prospect is not None:
        due_ms = now_ms + prospect.after_ms
        site.timers.set(due_ms, prospect.result, f"{contact.id} {contact.rings}")
        if prospect.result == "answered":
            done_ms = due_ms + prospect.talk_ms
            site.timers.set(done_ms, "done", f"{contact.id} {contact.rings}")


@timer("answered", "busy", "failed", "no_answer", "done")
def outside_due(site: Site, result: str, identity: str, now_ms: int) -> None:
    """The outside line says something about a ringing; an old one says nothing any more."""
    contact_id, _, ring = identity.partition(" ")
    contact = site.contacts.get(contact_id)
    if contact is None or str(contact.rings) != ring:
        return
    if contact.callback is not None:
        callbacks.rung(site, contact, result, now_ms)
        return
    if contact.state.phase == ("outside" if result == "done" else "ringing"):
        site.emit(facts.RangOut(step=contact.state.step, result=result), now_ms, contact=contact.id)
        site.feed(contact, runner.Rung(result), now_ms)
        site.tell(Occasion.ANSWERED_OUTSIDE, contact, now_ms)


def redial(site: Site, contact: Contact, now_ms: int) -> None:
    """The outside line forgot its call: ring again, or let the talk go on as long as talks do."""
    step = contact.flow.machine.steps.get(contact.state.step)
    number = getattr(step, "number", "")
    prospect = site.devices.outside.ring(number)
    if prospect is None:
        return
    contact.rings += 1
    identity = f"{contact.id} {contact.rings}"
    if contact.state.phase == "outside":
        site.timers.set(now_ms + prospect.talk_ms, "done", identity)
        return
    site.timers.set(now_ms + prospect.after_ms, prospect.result, identity)
    if prospect.result == "answered":
        site.timers.set(now_ms + prospect.after_ms + prospect.talk_ms, "done", identity)
