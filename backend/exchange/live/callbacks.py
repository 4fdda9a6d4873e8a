"""Callbacks: a place in a queue that is kept for a caller who has hung up.

A booked callback is a contact of its own. It stands in the queue where its caller stood; the
agent whose turn it is takes it, and only then the caller is rung. Who does not answer is rung
again later, at the same place, until the attempts are used up.
"""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from callcore.errors import EventRefused
from callcore.events import Happening, Kind
from callcore.flow import runner
from callcore.flow.definition import Flow
from callcore.flow.steps import Queue
from callcore.routing import events as e
from exchange.live.contact import Live, log_line
from numbers_app.plan import national

if TYPE_CHECKING:
    from exchange.live.engine import Engine

#: A callback stands in line this much after it was booked: its caller hears the last words.
BREATH_MS = 10_000
#: How long a caller is rung.
RING_MS = 25_000
#: How long a talk goes on that a crash of the exchange cut off from its line.
_TALK_MS = 30_000


@dataclass(slots=True)
class Back:
    """What a callback has besides what all contacts have. `tried` counts the ringings."""

    origin: str
    attempts: int
    retry_ms: int
    tried: int = 0
    next_ms: int = 0


def book(engine: Engine, contact: Live, booking: runner.BookCallback, now_ms: int) -> None:
    """Keep a contact's place in a queue for a callback."""
    queue = booking.queue.partition(":")[2]
    waiting = engine.router.contacts.get(contact.id)
    entered_ms = waiting.entered_ms if waiting and waiting.queue == queue else now_ms
    if waiting is not None:
        engine.carry_out(engine.router.apply(e.Leave(contact.id, "callback"), now_ms), now_ms)
    engine.emit(
        Kind.BOOKED, now_ms, contact=str(uuid.uuid4()), origin=contact.id, queue=queue,
        number=contact.number, caller=booking.number, words=national(booking.number),
        entered_ms=entered_ms, attempts=booking.attempts, retry_ms=booking.retry_ms,
        next_ms=now_ms + BREATH_MS, label=contact.label, priority=contact.priority,
        flow=contact.script.flow_id, flow_name=contact.script.flow_name,
        log=contact.log[-40:],
    )  # fmt: skip
    booked = engine.pending[-1]
    engine.contacts[booked.contact] = live = revived(engine, booked)
    live.log.append(log_line(booked))
    engine.timers.set(back_of(live).next_ms, "callback", live.id)


def revived(engine: Engine, booked: Happening) -> Live:
    """The contact that a BOOKED event began."""
    body = booked.body
    flow = Flow(start="wait", steps=(Queue(id="wait", queue=f"queue:{body['queue']}"),))
    script = engine.config.loose(flow, "Callback")
    state, _ = script.machine.start(body["entered_ms"])
    live = Live(
        booked.contact, body["number"], body["caller"], False, script, state, booked.at_ms,
    )  # fmt: skip
    live.queue = live.home = body["queue"]
    live.entered_ms = body["entered_ms"]
    live.label, live.priority = body["label"], body["priority"]
    live.back = Back(body["origin"], body["attempts"], body["retry_ms"], 0, body["next_ms"])
    live.log = list(body["log"])
    return live


def back_of(contact: Live) -> Back:
    """The callback's part of a contact that is one."""
    assert contact.back is not None
    return contact.back


def rings(contact: Live) -> bool:
    """Whether an agent has it and its caller has not answered yet."""
    return contact.back is not None and bool(contact.agent) and contact.state.phase == "queued"


def its_turn(engine: Engine, contact_id: str, now_ms: int) -> None:
    """It may stand in line (again)."""
    contact = engine.contacts.get(contact_id)
    if contact is None or contact.back is None or contact_id in engine.router.contacts:
        return
    if contact.queue not in engine.config.queues:
        finish(engine, contact, "not_reached", now_ms)
        return
    join = e.Join(contact_id, contact.queue, contact.entered_ms, contact.priority, callback=True)
    engine.carry_out(engine.router.apply(join, now_ms), now_ms)


def call(engine: Engine, contact: Live, agent: str, now_ms: int) -> None:
    """An agent has taken it: ring the caller."""
    back = back_of(contact)
    back.tried += 1
    contact.taken_by(agent)
    contact.rings += 1
    engine.emit(
        Kind.CALLS_BACK, now_ms, contact=contact.id, agent=agent, queue=contact.queue,
        number=contact.caller, words=national(contact.caller), attempt=back.tried,
    )  # fmt: skip
    identity = f"{contact.id} {contact.rings}"
    prospect = engine.outside.ring(contact.caller)
    if prospect is None:
        engine.timers.set(now_ms + RING_MS, "no_answer", identity)
        return
    engine.timers.set(now_ms + prospect.after_ms, prospect.result, identity)
    if prospect.result == "answered":
        engine.timers.set(now_ms + prospect.after_ms + prospect.talk_ms, "done", identity)


def rung(engine: Engine, contact: Live, result: str, now_ms: int) -> None:
    """What came of ringing the caller."""
    talking = contact.state.phase == "with_person"
    if result == "done":
        if talking:
            engine.hang_up(contact, now_ms)
        return
    if talking or contact.id not in engine.router.contacts:
        return
    if result != "answered":
        not_reached(engine, contact, result, now_ms)
        return
    engine.emit(
        Kind.ANSWERED, now_ms, contact=contact.id, agent=contact.agent, queue=contact.queue,
        entered_ms=contact.entered_ms, callback=True,
    )  # fmt: skip
    engine.feed(contact, runner.Taken(), now_ms)
    engine.is_taken(contact, now_ms)


def not_reached(engine: Engine, contact: Live, why: str, now_ms: int) -> None:
    """Nobody there: the agent is free, and the caller is rung again later, if at all."""
    back = back_of(contact)
    again = back.tried < back.attempts
    back.next_ms = now_ms + back.retry_ms if again else 0
    engine.emit(
        Kind.NOT_REACHED, now_ms, contact=contact.id, agent=contact.agent, queue=contact.queue,
        result=why, next_ms=back.next_ms,
    )  # fmt: skip
    contact.agent = ""
    contact.rings += 1
    engine.carry_out(engine.router.apply(e.NotReached(contact.id), now_ms), now_ms)
    if again:
        engine.timers.set(back.next_ms, "callback", contact.id)
    else:
        finish(engine, contact, "not_reached", now_ms)


def finish(engine: Engine, contact: Live, ending: str, now_ms: int) -> None:
    """It is over without a talk."""
    engine.contacts.pop(contact.id, None)
    contact.state = contact.state._replace(phase="ended", ending="failed", due_ms=None)
    engine.over[contact.id] = contact
    engine.emit(Kind.ENDED, now_ms, contact=contact.id, step="wait", ending=ending)


def called_off(engine: Engine, body: dict[str, Any], now_ms: int) -> None:
    """Somebody takes it off the list; one whose caller is being rung goes on."""
    contact = engine.contacts.get(body["contact"])
    if contact is None or contact.back is None:
        raise EventRefused("callback-over", "This callback is over.")
    if contact.agent:
        raise EventRefused("callback-under-way", "An agent is calling back at this moment.")
    if contact.id in engine.router.contacts:
        engine.carry_out(engine.router.apply(e.Leave(contact.id, "cancelled"), now_ms), now_ms)
    finish(engine, contact, "cancelled", now_ms)


def taken_up(engine: Engine, contact: Live, now_ms: int) -> None:
    """After a restart: wait for its turn again, or let a talk end as talks do."""
    if contact.state.phase == "with_person":
        engine.timers.set(now_ms + _TALK_MS, "done", f"{contact.id} {contact.rings}")
        return
    engine.timers.set(max(back_of(contact).next_ms, now_ms), "callback", contact.id)


def told(contact: Live) -> dict[str, Any] | None:
    """What an agent reads of a callback; None for any other contact."""
    if contact.back is None:
        return None
    return {
        "attempt": contact.back.tried,
        "attempts": contact.back.attempts,
        "talking": contact.state.phase == "with_person",
        "number": national(contact.caller),
    }
