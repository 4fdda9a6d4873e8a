"""Faults of our own: what one contact, agent or command meets stays with it."""

from __future__ import annotations

import logging
from contextlib import suppress
from typing import TYPE_CHECKING, NamedTuple

from callcore.events import Kind
from callcore.routing import events as e
from exchange.live.performing import closed, perform

if TYPE_CHECKING:
    from exchange.live.contact import Live
    from exchange.live.engine import Engine

log = logging.getLogger(__name__)

#: Why a contact whose handling failed leaves its queue, and takes the failure rule.
BROKEN = "broken"


class Trouble(NamedTuple):
    """Something that went wrong: when (ms), with what, and the contact that ended by it, if any."""

    at_ms: int
    what: str
    contact: str


def broke(engine: Engine, contact_id: str, what: str, error: Exception, now_ms: int) -> None:
    """Write down a fault, and end the contact that met it by its flow's failure rule."""
    contact = engine.contacts.get(contact_id)
    log.error("%s failed%s", what, f" (contact {contact_id})" if contact else "", exc_info=error)
    engine.troubles.append(Trouble(now_ms, what, contact_id if contact else ""))
    if contact is None:
        return
    try:
        _end_by_failure_rule(engine, contact, now_ms)
    except Exception as worse:  # the failure rule fails as well: nothing else is left to try
        log.error("contact %s is cut off", contact_id, exc_info=worse)
        _cut_off(engine, contact, now_ms)


def _end_by_failure_rule(engine: Engine, contact: Live, now_ms: int) -> None:
    if contact.failing:
        raise RuntimeError("the failure rule of this contact has failed before")
    contact.failing = True
    _out_of_the_router(engine, contact, now_ms)
    if contact.id in engine.contacts and contact.state.phase != "ended":
        machine = contact.script.machine
        contact.state, effects = machine.fail(contact.state, BROKEN, now_ms)
        perform(engine, contact, effects, now_ms)


def _out_of_the_router(engine: Engine, contact: Live, now_ms: int) -> None:
    if contact.id in engine.router.contacts:
        engine.carry_out(engine.router.apply(e.Leave(contact.id, BROKEN), now_ms), now_ms)


def _cut_off(engine: Engine, contact: Live, now_ms: int) -> None:
    """The contact is over, whatever state it was in."""
    with suppress(Exception):
        _out_of_the_router(engine, contact, now_ms)
    if contact.id not in engine.contacts:
        return
    contact.state = contact.state._replace(
        phase="ended", ending="failed", due_ms=None, inner=None
    )  # fmt: skip
    closed(engine, contact)
    engine.emit(
        Kind.ENDED, now_ms, contact=contact.id, step=contact.state.step, ending="failed"
    )  # fmt: skip
