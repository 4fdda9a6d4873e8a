"""The telephone of whoever called: its keys, what is said into it, and hanging up."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from callcore.errors import EventRefused
from callcore.events import Kind
from callcore.flow import runner
from callcore.flow.definition import KEYS
from callcore.speech.recogniser import MOST_SAID
from exchange.live.contact import Live

if TYPE_CHECKING:
    from exchange.live.engine import Engine


def contact_of(engine: Engine, body: dict[str, Any]) -> Live:
    """The call or thread of whoever called.

    Raises:
        EventRefused: it is over, or a callback or a colleague's: nobody holds a telephone at
            its other end.
    """
    contact = engine.contacts.get(body["contact"])
    if contact is None or contact.back is not None or contact.aside is not None:
        raise EventRefused("contact-ended", "This call is over.")
    return contact


def pressed(engine: Engine, body: dict[str, Any], now_ms: int) -> None:
    """The caller presses a key."""
    contact = contact_of(engine, body)
    key = str(body["key"])
    if len(key) != 1 or key not in KEYS:
        raise EventRefused("no-such-key", "A telephone has no such key.")
    engine.emit(Kind.KEYED, now_ms, contact=contact.id, step=contact.state.step, key=key)
    engine.feed(contact, runner.Key(key), now_ms)


def said(engine: Engine, body: dict[str, Any], now_ms: int) -> dict[str, Any]:
    """The caller says something to the flow; the answer tells which keys it was taken for."""
    contact = contact_of(engine, body)
    words = " ".join(str(body["words"]).split())[:MOST_SAID]
    grammar = contact.script.machine.grammar(contact.state)
    if not words or grammar is None:
        raise EventRefused("nobody-listens", "Nothing listens for words here: press a key.")
    meant = engine.recogniser.understood(words, grammar)
    engine.emit(
        Kind.SPOKEN, now_ms, contact=contact.id, step=contact.state.step, words=words, meant=meant
    )
    engine.feed(contact, runner.Spoken(words, meant), now_ms)
    return {"meant": meant}


def hung_up(engine: Engine, body: dict[str, Any], now_ms: int) -> None:
    """The caller hangs up."""
    engine.hang_up(contact_of(engine, body), now_ms)
