"""Text messages on the exchange: threads between two numbers, written to from both sides."""

from __future__ import annotations

from typing import Any

from callcore.centre.contact import Contact
from callcore.centre.handlers.call_control import held_by, send_on, watch_reply
from callcore.centre.handlers.telephone import contact_of, place_call
from callcore.centre.registry import command, timer
from callcore.centre.setup import RunnableFlow
from callcore.centre.site import Site
from callcore.errors import EventRefused
from callcore.events import facts
from callcore.flow import runner


def arrives(
    site: Site, body: dict[str, Any], flow: RunnableFlow | None, now_ms: int, placed_by: str = ""
) -> dict[str, Any]:
    """A text message arrives: in the thread that is open between the two, or a new one."""
    number, caller = body["number"], body["caller"]
    threads = (c for c in site.contacts.values() if c.text and c.caller == caller)
    going_on = next((c for c in threads if c.number == number and not flow), None)
    if going_on is None:
        return place_call(
            site, body["contact"], number, caller, flow, now_ms, message=body["text"], placed_by=placed_by
        )
    _texted(site, going_on, body["text"], now_ms)
    return {"contact": going_on.id}


@command("text.say")
def said(site: Site, body: dict[str, Any], now_ms: int) -> None:
    """The caller writes on in a thread."""
    _texted(site, contact_of(site, body), body["text"], now_ms)


@command("agent.text")
def agent_writes(site: Site, body: dict[str, Any], now_ms: int) -> None:
    """The agent of a thread writes to its caller."""
    contact = held_by(site, body)
    if not contact.text:
        raise EventRefused("not-text", "This contact speaks; it cannot be written to.")
    contact.unanswered_ms = 0
    site.emit(facts.Texted(by="agent", words=body["text"]), now_ms, contact=contact.id, agent=contact.agent)


@timer("reply")
def reply_due(site: Site, _kind: str, contact_id: str, now_ms: int) -> None:
    """A text without a reply in time goes back to its queue, unless it has had one since."""
    contact = site.contacts.get(contact_id)
    if contact is None or not contact.agent or not contact.unanswered_ms:
        return
    reply_ms = site.setup.rule_of(contact.agent).reply_ms
    queue = site.setup.queues.get(contact.home)
    if queue is None or not reply_ms or now_ms < contact.unanswered_ms + reply_ms:
        return
    send_on(site, contact, f"queue:{queue.id}", "no_reply", now_ms)


def _texted(site: Site, contact: Contact, text: str, now_ms: int) -> None:
    if not contact.text:
        raise EventRefused("not-text", "This is a call, not a text message.")
    site.emit(facts.Texted(by="caller", words=text), now_ms, contact=contact.id)
    if contact.agent:
        site.dirty.add(f"desk.{contact.agent}")
        if not contact.unanswered_ms:
            contact.unanswered_ms = now_ms
            watch_reply(site, contact)
    site.feed(contact, runner.Texted(text), now_ms)
