"""Emergencies: who has pressed the button, until somebody of the floor takes it."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, NamedTuple

from callcore.errors import EventRefused
from callcore.events import Happening, Kind
from numbers_app.plan import national

if TYPE_CHECKING:
    from exchange.live.engine import Engine

#: So many stand at once; of more, the oldest are let go.
MOST = 200


class Alarm(NamedTuple):
    """An agent in need, and since when (ms since the epoch)."""

    agent: str
    since_ms: int


def told(engine: Engine, event: Happening) -> None:
    """What an event, new or read back, says of emergencies."""
    if event.kind is Kind.EMERGENCY:
        engine.alarms[event.contact] = Alarm(event.agent, event.at_ms)
        while len(engine.alarms) > MOST:
            engine.alarms.pop(next(iter(engine.alarms)))
    elif event.kind is Kind.EMERGENCY_TAKEN:
        engine.alarms.pop(event.contact, None)


def take(engine: Engine, body: dict[str, Any], now_ms: int) -> None:
    """Somebody of the floor looks after it: it rings nowhere any more.

    Raises:
        EventRefused: somebody has it already.
    """
    contact = str(body["contact"])
    alarm = engine.alarms.get(contact)
    if alarm is None:
        raise EventRefused("taken", "Somebody has taken this emergency already.")
    engine.emit(
        Kind.EMERGENCY_TAKEN, now_ms, contact=contact, agent=alarm.agent, words=str(body["by"])
    )


def standing(engine: Engine) -> dict[str, dict[str, Any]]:
    """Those that nobody has taken, as the floor shows them."""
    return {name: _item(engine, name, alarm) for name, alarm in engine.alarms.items()}


def _item(engine: Engine, contact: str, alarm: Alarm) -> dict[str, Any]:
    known = engine.config.agents.get(alarm.agent)
    live = engine.contacts.get(contact) or engine.over.get(contact)
    return {
        "name": known.name if known else "",
        "team_id": known.team_id if known else "",
        "caller": national(live.caller) if live else "",
        "since_ms": alarm.since_ms,
        "over": contact not in engine.contacts,
    }


def as_at_desk(engine: Engine, contact: str) -> dict[str, str] | None:
    """What came of the button, for the agent who pressed it: nothing yet, or who has it."""
    if contact in engine.alarms:
        return {"taken_by": ""}
    live = engine.contacts.get(contact) or engine.over.get(contact)
    lines = reversed(live.log) if live else iter(())
    words = (line["words"] for line in lines if line["kind"] == Kind.EMERGENCY_TAKEN)
    taken_by = next(words, None)
    return None if taken_by is None else {"taken_by": taken_by}
