"""Callbacks: a place in a queue that is kept for a caller who has hung up.

A booked callback is a contact of its own. It stands in the queue where its caller stood; the
agent whose turn it is takes it, and only then the caller is rung. Who does not answer is rung
again later, at the same place, until the attempts are used up.
"""

from __future__ import annotations

from typing import Any

from callcore.centre.contact import CallbackState, Contact
from callcore.centre.contact_topics import CallingBack
from callcore.centre.registry import Occasion, command, effect, timer
from callcore.centre.site import Site
from callcore.errors import EventRefused
from callcore.events import facts
from callcore.flow import runner
from callcore.flow.definition import Flow
from callcore.flow.steps import WaitInQueue
from callcore.routing import events as e

#: A callback stands in line this much after it was booked: its caller hears the last words.
BREATH_MS = 10_000
#: How long a caller is rung.
RING_MS = 25_000
#: So many lines of the call that booked it are told with a callback.
MOST_BEFORE = 40


@effect(runner.BookCallback)
def book(site: Site, contact: Contact, booking: runner.BookCallback, now_ms: int) -> None:
    """Keep a contact's place in a queue for a callback."""
    queue = booking.queue.partition(":")[2]
    waiting = site.router.contacts.get(contact.id)
    entered_ms = waiting.entered_ms if waiting and waiting.queue == queue else now_ms
    if waiting is not None:
        site.route(e.Leave(contact.id, "callback"), now_ms)
    waits = Flow(start="wait", steps=(WaitInQueue(id="wait", queue=booking.queue),))
    flow = site.setup.ad_hoc(waits, "Callback")
    state, _ = flow.machine.start(entered_ms)
    kept = Contact(
        site.devices.new_id(),
        contact.number,
        booking.number,
        False,
        flow,
        state,
        now_ms,
        queue=queue,
        entered_ms=entered_ms,
        label=contact.label,
        priority=contact.priority,
        home=queue,
        past=[*contact.past, contact.flow],
        before=[*contact.before, *contact.log][-MOST_BEFORE:],
    )
    next_ms = now_ms + BREATH_MS
    kept.callback = CallbackState(contact.id, booking.attempts, booking.retry_ms, 0, next_ms)
    site.add(kept)
    site.emit(
        facts.Booked(
            origin=contact.id,
            queue=queue,
            number=contact.number,
            caller=booking.number,
            entered_ms=entered_ms,
            attempts=booking.attempts,
            retry_ms=booking.retry_ms,
            next_ms=next_ms,
            label=contact.label,
            priority=contact.priority,
            flow=contact.flow.flow_id,
        ),
        now_ms,
        contact=kept.id,
    )
    site.timers.set(next_ms, "callback", kept.id)


def callback_of(contact: Contact) -> CallbackState:
    """The callback's part of a contact that is one."""
    assert contact.callback is not None
    return contact.callback


def rings(contact: Contact) -> bool:
    """Whether an agent has it and its caller has not answered yet."""
    return contact.callback is not None and bool(contact.agent) and contact.state.phase == "queued"


@timer("callback")
def its_turn(site: Site, _kind: str, contact_id: str, now_ms: int) -> None:
    """It may stand in line (again)."""
    contact = site.contacts.get(contact_id)
    if contact is None or contact.callback is None or contact_id in site.router.contacts:
        return
    if contact.queue not in site.setup.queues:
        finish(site, contact, "not_reached", now_ms)
        return
    join = e.Join(contact_id, contact.queue, contact.entered_ms, contact.priority, callback=True)
    site.route(join, now_ms)


def call(site: Site, contact: Contact, agent: str, now_ms: int) -> None:
    """An agent has taken it: ring the caller."""
    back = callback_of(contact)
    back.tried += 1
    contact.taken_by(agent)
    contact.rings += 1
    site.emit(
        facts.CallsBack(queue=contact.queue, number=contact.caller, attempt=back.tried),
        now_ms,
        contact=contact.id,
        agent=agent,
    )
    identity = f"{contact.id} {contact.rings}"
    prospect = site.devices.outside.ring(contact.caller)
    if prospect is None:
        site.timers.set(now_ms + RING_MS, "no_answer", identity)
        return
    site.timers.set(now_ms + prospect.after_ms, prospect.result, identity)
    if prospect.result == "answered":
        site.timers.set(now_ms + prospect.after_ms + prospect.talk_ms, "done", identity)


def rung(site: Site, contact: Contact, result: str, now_ms: int) -> None:
    """What came of ringing the caller."""
    talking = contact.state.phase == "with_person"
    if result == "done":
        if talking:
            site.hang_up(contact, now_ms)
        return
    if talking or contact.id not in site.router.contacts:
        return
    if result != "answered":
        not_reached(site, contact, result, now_ms)
        return
    site.emit(
        facts.Answered(queue=contact.queue, entered_ms=contact.entered_ms, callback=True),
        now_ms,
        contact=contact.id,
        agent=contact.agent,
    )
    site.feed(contact, runner.Taken(), now_ms)
    site.tell(Occasion.TAKEN, contact, now_ms)


def not_reached(site: Site, contact: Contact, why: str, now_ms: int) -> None:
    """Nobody there: the agent is free, and the caller is rung again later, if at all."""
    back = callback_of(contact)
    again = back.tried < back.attempts
    back.next_ms = now_ms + back.retry_ms if again else 0
    site.emit(
        facts.NotReached(queue=contact.queue, result=why, next_ms=back.next_ms),
        now_ms,
        contact=contact.id,
        agent=contact.agent,
    )
    contact.agent = ""
    contact.rings += 1
    site.route(e.NotReached(contact.id), now_ms)
    if again:
        site.timers.set(back.next_ms, "callback", contact.id)
    else:
        finish(site, contact, "not_reached", now_ms)


def finish(site: Site, contact: Contact, ending: str, now_ms: int) -> None:
    """It is over without a talk."""
    contact.state = contact.state._replace(phase="ended", ending="failed", due_ms=None)
    site.close(contact)
    site.emit(facts.Ended(step="wait", ending=ending), now_ms, contact=contact.id)


@command("callback.cancel")
def called_off(site: Site, body: dict[str, Any], now_ms: int) -> None:
    """Somebody takes it off the list; one whose caller is being rung goes on."""
    contact = site.contacts.get(body["contact"])
    if contact is None or contact.callback is None:
        raise EventRefused("callback-over", "This callback is over.")
    if contact.agent:
        raise EventRefused("callback-under-way", "An agent is calling back at this moment.")
    site.leave_queue(contact, "cancelled", now_ms)
    finish(site, contact, "cancelled", now_ms)


def told(site: Site, contact: Contact) -> CallingBack | None:
    """What an agent reads of a callback; None for any other contact."""
    if contact.callback is None:
        return None
    return {
        "attempt": contact.callback.tried,
        "attempts": contact.callback.attempts,
        "talking": contact.state.phase == "with_person",
        "number": site.setup.national(contact.caller),
    }
