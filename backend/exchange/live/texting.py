"""Text messages on the exchange: threads between two numbers, written to from both sides."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from callcore.errors import EventRefused
from callcore.events import Kind
from callcore.flow import runner
from exchange.live.configuration import Script
from exchange.live.contact import Live
from exchange.live.talking import held_by, send_on, watch_reply
from exchange.live.telephone import contact_of

if TYPE_CHECKING:
    from exchange.live.engine import Engine


def arrives(
    engine: Engine, body: dict[str, Any], script: Script | None, now_ms: int, placed_by: str = ""
) -> dict[str, Any]:
    """A text message arrives: in the thread that is open between the two, or a new one."""
    number, caller = body["number"], body["caller"]
    threads = (c for c in engine.contacts.values() if c.text and c.caller == caller)
    going_on = next((c for c in threads if c.number == number and not script), None)
    if going_on is None:
        return engine.place_call(
            body["contact"], number, caller, script, now_ms, message=body["text"],
            placed_by=placed_by,
        )  # fmt: skip
    _texted(engine, going_on, body["text"], now_ms)
    return {"contact": going_on.id}


def said(engine: Engine, body: dict[str, Any], now_ms: int) -> None:
    """The caller writes on in a thread."""
    _texted(engine, contact_of(engine, body), body["text"], now_ms)


def agent_writes(engine: Engine, body: dict[str, Any], now_ms: int) -> None:
    """The agent of a thread writes to its caller."""
    contact = held_by(engine, body)
    if not contact.text:
        raise EventRefused("not-text", "This contact speaks; it cannot be written to.")
    contact.unanswered_ms = 0
    engine.emit(
        Kind.TEXTED, now_ms, contact=contact.id, agent=contact.agent, by="agent",
        words=body["text"],
    )  # fmt: skip


def reply_due(engine: Engine, contact_id: str, now_ms: int) -> None:
    """A text without a reply in time goes back to its queue, unless it has had one since."""
    contact = engine.contacts.get(contact_id)
    if contact is None or not contact.agent or not contact.unanswered_ms:
        return
    reply_ms = engine.config.rule_of(contact.agent).reply_ms
    queue = engine.config.queues.get(contact.home)
    if queue is None or not reply_ms or now_ms < contact.unanswered_ms + reply_ms:
        return
    send_on(engine, contact, f"queue:{queue.id}", queue.name, "no_reply", now_ms)


def _texted(engine: Engine, contact: Live, text: str, now_ms: int) -> None:
    if not contact.text:
        raise EventRefused("not-text", "This is a call, not a text message.")
    engine.emit(Kind.TEXTED, now_ms, contact=contact.id, by="caller", words=text)
    if contact.agent:
        engine.dirty.add(f"desk.{contact.agent}")
        if not contact.unanswered_ms:
            contact.unanswered_ms = now_ms
            watch_reply(engine, contact)
    engine.feed(contact, runner.Texted(text), now_ms)
