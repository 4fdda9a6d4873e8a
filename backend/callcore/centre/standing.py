"""How a site stands, as plain JSON: a row for each contact, each agent, and the site itself.

The rows that changed are written with the events of a round, in one transaction; a site that is
taken up reads them and goes on from exactly there. Nothing is worked out a second time from what
happened: figures are folded from the events by the same code that folded them before.

Why so, and not from the events alone, or from a snapshot now and then with the commands since: an
event that carries the whole state of its contact was most of the journal; and commands that run
again lead elsewhere after an upgrade, or under a configuration that has changed. A row is read by
its names, so that a field more or less between two versions is no harm.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import asdict, fields
from typing import Any, NamedTuple

from callcore.centre.contact import Attendance, CallbackState, Consultation, Contact
from callcore.centre.handlers.attendance import watch_again
from callcore.centre.setup import RunnableFlow
from callcore.centre.site import Site
from callcore.events import Happening, encode, read
from callcore.flow import runner
from callcore.flow.definition import load
from callcore.talk.conversation import Talk

CONTACT, AGENT, SITE = KINDS = ("contact", "agent", "site")
#: The name of the site's own row.
WHOLE = "whole"
#: Fields of a contact that have JSON of their own, or are not kept: the log is the journal's.
_APART = frozenset(
    {"flow", "state", "talk", "callback", "consultation", "log", "asks", "before", "past", "attended"}
)
_PLAIN = tuple(f.name for f in fields(Contact) if f.name not in _APART)


class Row(NamedTuple):
    """How one thing stands; without a body it stands no more."""

    what: str
    name: str
    body: dict[str, Any] | None


#: Makes a flow ready that is not the one in force, from what `_flow_data` says of it.
FlowOf = Callable[[Mapping[str, Any]], RunnableFlow]


def changed(site: Site) -> list[Row]:
    """The rows of what has changed since the last time."""
    names = sorted(site.touched | site.timers.touched)
    site.touched.clear()
    site.timers.touched.clear()
    agents = [name for name in names if name in site.router.agents]
    contacts = [name for name in names if name not in site.router.agents]
    if not names:
        return []
    rows = [Row(CONTACT, name, _contact_data(site, name)) for name in contacts]
    rows += [Row(AGENT, name, _agent_data(site, name)) for name in agents]
    return [*rows, Row(SITE, WHOLE, _site_data(site))]


def _contact_data(site: Site, name: str) -> dict[str, Any] | None:
    contact = site.find(name)
    if contact is None:
        return None
    data = {name: getattr(contact, name) for name in _PLAIN}
    waiting = site.router.contacts.get(contact.id)
    return {
        **data,
        "over": contact.id not in site.contacts,
        "flow": _flow_data(contact.flow),
        "past": [_flow_data(flow) for flow in contact.past],
        "state": runner.to_data(contact.state),
        "asks": contact.asks,
        "before": [_event_data(event) for event in contact.before],
        "talk": contact.talk._asdict(),
        "attended": {user: list(one) for user, one in contact.attended.items()},
        "callback": asdict(contact.callback) if contact.callback else None,
        "consultation": contact.consultation._asdict() if contact.consultation else None,
        "waiting": site.router.waiting_data(waiting) if waiting else None,
        "timers": site.timers.of(contact.id),
    }


def _event_data(event: Happening) -> list[Any]:
    return [event.at_ms, str(event.kind), event.contact, event.agent, encode(event.fact)]


def _flow_data(flow: RunnableFlow) -> dict[str, Any]:
    return {
        "flow": flow.flow_id,
        "name": flow.flow_name,
        "version": flow.version_id,
        "blocks": flow.blocks,
        "definition": flow.ad_hoc_definition(),
    }


def _agent_data(site: Site, name: str) -> dict[str, Any]:
    return {
        **site.router.agent_data(site.router.agents[name]),
        "stand_in": name in site.stood_in,
        "line_open": name in site.lines.open,
        "line_rings": site.lines.rings.get(name),
        "timers": site.timers.of(name),
    }


def _site_data(site: Site) -> dict[str, Any]:
    return {
        **site.router.own_data(),
        "line_count": site.lines.count,
        "turns": site.turns,
        "count": site.count,
        "day": site.day_begins_ms,
    }


# Taking up


def take_up(site: Site, rows: Iterable[Row], flow_of: FlowOf) -> list[tuple[str, Exception]]:
    """Let a site stand as it stood; events are absorbed after it, and only then is it advanced.

    Args:
        rows: every row there is.
        flow_of: makes ready the flows that are not in force as they were.

    Returns:
        The contacts whose rows cannot be read, each with what is wrong: they are over.
    """
    by_kind: dict[str, dict[str, dict[str, Any]]] = {CONTACT: {}, AGENT: {}, SITE: {}}
    for row in rows:
        if row.body is not None and row.what in by_kind:
            by_kind[row.what][row.name] = row.body
    contacts, unreadable = _contacts(site, by_kind[CONTACT], flow_of)
    for contact in contacts:
        data = by_kind[CONTACT][contact.id]
        (site.over if data["over"] else site.contacts)[contact.id] = contact
        site.timers.take_up(tuple(timer) for timer in data["timers"])
        watch_again(site, contact, site.now_ms)
        if contact.looks_up is not None and contact.id in site.contacts:
            site.asked.append((contact.id, *contact.looks_up))
    whole = by_kind[SITE].get(WHOLE, {})
    site.count = whole.get("count", 0)
    site.turns = dict(whole.get("turns", {}))
    site.lines.count = whole.get("line_count", 0)
    for name, data in by_kind[AGENT].items():
        _take_up_agent(site, name, data)
    known = {c.id for c in contacts}
    waiting = {
        name: data["waiting"]
        for name, data in by_kind[CONTACT].items()
        if data.get("waiting") and name in known
    }
    site.router.take_up(by_kind[AGENT], waiting, whole)
    if whole.get("day") != site.day_begins_ms:
        site.router.handled.clear()
    return unreadable


def _contacts(
    site: Site, data: Mapping[str, dict[str, Any]], flow_of: FlowOf
) -> tuple[list[Contact], list[tuple[str, Exception]]]:
    contacts, unreadable = [], []
    for name, body in sorted(data.items(), key=lambda item: item[1].get("ordinal", 0)):
        try:
            contacts.append(_contact(site, body, flow_of))
        except Exception as error:  # noqa: BLE001  whatever it is: it stays with this contact
            unreadable.append((name, error))
    return contacts, unreadable


def _contact(site: Site, data: dict[str, Any], flow_of: FlowOf) -> Contact:
    plain = {name: data[name] for name in _PLAIN if name in data}
    contact = Contact(
        **plain,
        flow=_flow(site, data["flow"], flow_of),
        state=runner.from_data(data["state"]),
        talk=Talk(**data["talk"]),
        attended={user: Attendance(*one) for user, one in data.get("attended", {}).items()},
        asks=tuple((skill, least) for skill, least in data["asks"]),
        past=[_flow(site, past, flow_of) for past in data.get("past", ())],
        before=[read(*event) for event in data.get("before", ())],
        callback=CallbackState(**data["callback"]) if data["callback"] else None,
        consultation=Consultation(**data["consultation"]) if data["consultation"] else None,
    )
    if contact.looks_up is not None:
        table, key = contact.looks_up
        contact.looks_up = (table, key)
    for key in {contact.plan, contact.state.plan} - {""}:
        if key not in site.plans:
            site.plans[key] = _flow(site, {"version": int(key), "blocks": None}, flow_of)
    return contact


def _flow(site: Site, data: Mapping[str, Any], flow_of: FlowOf) -> RunnableFlow:
    """A flow in the version that a contact began on: the one in force, where it is the same."""
    number, blocks = data["version"], data["blocks"]
    if number is None and not data["flow"]:
        return site.setup.ad_hoc(load(data["definition"]), data["name"])
    for flow in site.setup.flows.values():
        if number is not None and flow.version_id == number and blocks in (None, flow.blocks):
            return flow
    return flow_of(data)


def _take_up_agent(site: Site, name: str, data: dict[str, Any]) -> None:
    if data["stand_in"]:
        site.stood_in.add(name)
    if data["line_open"]:
        site.lines.open.add(name)
    if data["line_rings"]:
        number, contact, result = data["line_rings"]
        site.lines.rings[name] = (number, contact, result)
    site.timers.take_up(tuple(timer) for timer in data["timers"])
