"""Emergencies, as the floor and the desk see them, and who takes them."""

from __future__ import annotations

from typing import Any

from callcore.centre.alarms import Alarm
from callcore.centre.contact_topics import AlarmAtDesk
from callcore.centre.registry import command
from callcore.centre.site import Site
from callcore.centre.topics import StandingAlarm
from callcore.errors import EventRefused
from callcore.events import facts


@command("alarm.take")
def take(site: Site, body: dict[str, Any], now_ms: int) -> None:
    """Somebody of the floor looks after it: it rings nowhere any more.

    Raises:
        EventRefused: somebody has it already.
    """
    contact = str(body["contact"])
    alarm = site.alarms.get(contact)
    if alarm is None:
        raise EventRefused("taken", "Somebody has taken this emergency already.")
    site.emit(facts.EmergencyTaken(by=str(body["by"])), now_ms, contact=contact, agent=alarm.agent)


def standing(site: Site) -> dict[str, StandingAlarm]:
    """Those that nobody has taken, as the floor shows them."""
    return {name: _item(site, name, alarm) for name, alarm in site.alarms.items()}


def _item(site: Site, contact: str, alarm: Alarm) -> StandingAlarm:
    known = site.setup.agents.get(alarm.agent)
    found = site.find(contact)
    return {
        "name": known.name if known else "",
        "team_id": known.team_id if known else "",
        "caller": site.setup.national(found.caller) if found else "",
        "since_ms": alarm.since_ms,
        "over": contact not in site.contacts,
    }


def as_at_desk(site: Site, contact: str) -> AlarmAtDesk | None:
    """What came of the button, for the agent who pressed it: nothing yet, or who has it."""
    if contact in site.alarms:
        return {"taken_by": ""}
    found = site.find(contact)
    events = reversed(found.log) if found else iter(())
    taken = (event.fact for event in events if isinstance(event.fact, facts.EmergencyTaken))
    fact = next(taken, None)
    return {"taken_by": fact.by} if fact is not None else None
