"""The telephone of whoever called: its keys, and hanging up."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from callcore.errors import EventRefused
from callcore.events import Kind
from callcore.flow import runner
from callcore.flow.definition import KEYS
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


def hung_up(engine: Engine, body: dict[str, Any], now_ms: int) -> None:
    """The caller hangs up."""
    engine.hang_up(contact_of(engine, body), now_ms)
