"""The telephone of whoever called: arriving, its keys, what is said into it, and hanging up."""

from __future__ import annotations

from typing import Any

from callcore.centre.contact import Contact
from callcore.centre.registry import command
from callcore.centre.setup import OTHER_CHANNEL, Answer, RunnableFlow
from callcore.centre.site import Site
from callcore.errors import EventRefused
from callcore.events import facts
from callcore.flow import runner
from callcore.flow.definition import KEYS
from callcore.speech.recogniser import MOST_SAID


def place_call(
    site: Site,
    contact_id: str,
    number: str,
    caller: str,
    trial: RunnableFlow | None,
    now_ms: int,
    message: str | None = None,
    placed_by: str = "",
) -> dict[str, Any]:
    """A call arrives at a number; with `trial` it is one of a draft.

    Args:
        message: the text message that it is instead of a call.
        placed_by: the person at whose telephone it was placed; empty for all other calls.

    Raises:
        EventRefused: nothing answers there, or not in this channel.
    """
    known = site.setup.numbers.get(number)
    answer = Answer(trial, dict(known.values) if known else {}, None) if trial else None
    if answer is None:
        answer = site.setup.answers(known, "voice" if message is None else "text", now_ms)
    if (answer.flow.machine.flow.channel == "text") is (message is None):
        raise EventRefused("other-channel", OTHER_CHANNEL[message is None])
    values = {**answer.values, "caller": caller, "dialled": number, "message": message or ""}
    contact = Contact(
        contact_id,
        number,
        caller,
        trial is not None,
        answer.flow,
        runner.arriving(now_ms),
        now_ms,
        values,
        placed_by=placed_by,
    )
    site.add(contact)
    site.arrived(contact, now_ms)
    if answer.diversion is not None:
        rule = answer.diversion
        to = rule.target if rule.where == "outside" else f"{rule.where}:{rule.target}"
        site.emit(
            facts.Diverted(diversion=answer.diversion.id, reason=answer.diversion.reason, to=to),
            now_ms,
            contact=contact_id,
        )
    if message is not None:
        site.emit(facts.Texted(by="caller", words=message), now_ms, contact=contact_id)
    site.start(contact, now_ms)
    return {"contact": contact_id}


def contact_of(site: Site, body: dict[str, Any]) -> Contact:
    """The call or thread of whoever called.

    Raises:
        EventRefused: it is over, or a callback or a colleague's: nobody holds a telephone at
            its other end.
    """
    contact = site.contacts.get(body["contact"])
    if contact is None or contact.callback is not None or contact.consultation is not None:
        raise EventRefused("contact-ended", "This call is over.")
    return contact


@command("call.key")
def pressed(site: Site, body: dict[str, Any], now_ms: int) -> None:
    """The caller presses a key."""
    contact = contact_of(site, body)
    key = str(body["key"])
    if len(key) != 1 or key not in KEYS:
        raise EventRefused("no-such-key", "A telephone has no such key.")
    site.emit(facts.Keyed(step=contact.state.step, key=key), now_ms, contact=contact.id)
    site.feed(contact, runner.Key(key), now_ms)


@command("call.say")
def said(site: Site, body: dict[str, Any], now_ms: int) -> dict[str, Any]:
    """The caller says something to the flow; the answer tells which keys it was taken for."""
    contact = contact_of(site, body)
    words = " ".join(str(body["words"]).split())[:MOST_SAID]
    machine = contact.flow.machine.asking(site.environment(contact.id))
    grammar = machine.grammar(contact.state)
    if not words or grammar is None:
        raise EventRefused("nobody-listens", "Nothing listens for words here: press a key.")
    meant = site.devices.recogniser.understood(words, grammar)
    site.emit(facts.Spoken(step=contact.state.step, words=words, meant=meant), now_ms, contact=contact.id)
    site.feed(contact, runner.Spoken(words, meant), now_ms)
    return {"meant": meant}


@command("call.hang_up")
def hung_up(site: Site, body: dict[str, Any], now_ms: int) -> None:
    """The caller hangs up."""
    site.hang_up(contact_of(site, body), now_ms)
