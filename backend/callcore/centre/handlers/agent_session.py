"""An agent's day: coming and going, ending contacts, and labelling what they were about."""

from __future__ import annotations

from typing import Any

from callcore.centre.facts import CodeFacts
from callcore.centre.handlers import agent_phones, call_control, callbacks
from callcore.centre.registry import command, timer
from callcore.centre.site import Site
from callcore.errors import EventRefused
from callcore.routing import events as e
from callcore.routing.choosing import Agent
from callcore.routing.events import Status

Body = dict[str, Any]
#: A desk that is closed and not opened again so soon counts as left.
DESK_GONE_MS = 15_000
DESK_CLOSED = "Desk closed"
#: Why most people end their work.
END_OF_SHIFT = "End of shift"


@command("agent.sign_in")
def sign_in(site: Site, body: Body, now_ms: int) -> None:
    """Begin to work; an outside line that is kept open rings."""
    if body["agent"] not in site.setup.agents:
        raise EventRefused("no-such-agent", "You are not set up as an agent.")
    site.route(e.SignIn(body["agent"]), now_ms)
    agent_phones.signed_in(site, body["agent"], now_ms)


@command("agent.sign_out")
def sign_out(site: Site, body: Body, now_ms: int) -> None:
    """End of work, for a reason where the rules ask for one."""
    agent, reason = body["agent"], str(body.get("reason") or "")
    reasons = sign_out_reasons(site, agent)
    if reasons and reason not in reasons and agent not in site.stood_in:
        raise EventRefused("no-such-reason", "Say why you end your work.")
    site.route(e.SignOut(agent, reason=reason if reason in reasons else ""), now_ms)


def sign_out_reasons(site: Site, agent: str) -> tuple[str, ...]:
    """The reasons of which an agent gives one to end their work; none where none is asked for."""
    asked = site.setup.desk_of(agent).sign_out == "reason"
    return (END_OF_SHIFT, *away_reasons(site, agent)) if asked else ()


@command("agent.available")
def available(site: Site, body: Body, now_ms: int) -> None:
    """Take contacts."""
    agent_phones.require_open(site, body["agent"])
    agent = site.router.agents.get(body["agent"])
    if agent is not None and agent.status is Status.WRAPPING:
        site.route(e.FinishWrapUp(agent.id, "", _excused(site, agent, now_ms)), now_ms)
        return
    site.route(e.GoAvailable(body["agent"]), now_ms)


def away_reasons(site: Site, agent: str) -> tuple[str, ...]:
    """The reasons that an agent may give; where their rules name none of the centre's, all."""
    allowed = site.setup.desk_of(agent).away
    centre = site.setup.away_reasons
    return tuple(r for r in centre if not allowed or r in allowed) or centre


@command("agent.away")
def go_away(site: Site, body: Body, now_ms: int) -> None:
    """Take no contacts for a while, for a reason."""
    reason = str(body["reason"])
    if reason not in away_reasons(site, body["agent"]):
        raise EventRefused("no-such-reason", "This reason is not one that you may give.")
    site.route(e.GoAway(body["agent"], reason), now_ms)


@command("agent.end")
def end(site: Site, body: Body, now_ms: int) -> None:
    """The agent ends a contact, or stops ringing for a callback."""
    agent = site.router.agents.get(body["agent"])
    held = body.get("contact") or (agent.contact if agent else "")
    contact = site.contacts.get(held)
    if contact is not None and contact.agent == body["agent"]:
        if callbacks.rings(contact):
            callbacks.not_reached(site, contact, "given_up", now_ms)
            return
        if call_control.ends_by_putting_through(site, contact, now_ms):
            return
    site.route(e.EndContact(body["agent"], held), now_ms)


def codes_of(site: Site, agent: Agent) -> list[CodeFacts]:
    """The codes for the contact that an agent has in hand."""
    contact = site.find(agent.contact)
    return site.setup.codes_of((contact.home_of(agent) if contact else "") or agent.queue)


def must_code(site: Site, agent: Agent) -> bool:
    """Whether a wrap-up needs a code: where it is required, and there is one to give."""
    required = site.setup.rule_of(agent.id).wrap_up == "required"
    return required and bool(codes_of(site, agent))


def _excused(site: Site, agent: Agent, now_ms: int) -> bool:
    """Whether a wrap-up may end without a code, though one is required: there is none to give, or
    the time for it is over."""
    desk = site.setup.desk_of(agent.id)
    late = now_ms - agent.since_ms > max(desk.keypad_ms, desk.screen_ms)
    return late or not codes_of(site, agent)


@command("agent.wrap_up")
def wrap_up(site: Site, body: Body, now_ms: int) -> None:
    """Label the agent's part of a contact, in the time that the keypad or the screen has."""
    agent = site.router.agents.get(body["agent"])
    code = str(body.get("code") or "")
    known = {c.id for c in codes_of(site, agent)} if agent else set()
    if code and code not in known:
        raise EventRefused("no-such-code", "This wrap-up code is not used by the queue.")
    desk = site.setup.desk_of(body["agent"])
    since_ms = now_ms - agent.since_ms if agent else 0
    if code and since_ms > (desk.keypad_ms if body.get("keypad") else desk.screen_ms):
        raise EventRefused("too-late", "The time to enter a code is over; end without one.")
    excused = agent is not None and _excused(site, agent, now_ms)
    site.route(e.FinishWrapUp(body["agent"], code, excused), now_ms)


@command("desk.opened")
def desk_opened(site: Site, body: Body, now_ms: int) -> None:
    """An agent's desk is looked at in a browser."""
    site.desks.setdefault(body["agent"], set()).add(body["line"])
    site.touched.add(body["agent"])
    agent = site.router.agents.get(body["agent"])
    if agent is not None and agent.next_status == (Status.AWAY, DESK_CLOSED):
        site.route(e.StayOn(agent.id), now_ms)


@command("desk.closed")
def desk_closed(site: Site, body: Body, now_ms: int) -> None:
    """A browser with an agent's desk is gone; if it was the last, nobody hears what rings there."""
    lines = site.desks.get(body["agent"], set())
    if body["line"] in lines:
        lines.discard(body["line"])
        site.touched.add(body["agent"])
        if not lines:
            site.timers.set(now_ms + DESK_GONE_MS, "desk", body["agent"])


@timer("desk")
def desk_gone(site: Site, _kind: str, agent_id: str, now_ms: int) -> None:
    """A desk stayed closed: no contact comes to it any more, and what rings goes to the next."""
    agent = site.router.agents.get(agent_id)
    if site.desks.get(agent_id) or agent is None:
        return
    if agent.status not in (Status.OUT, Status.AWAY) and agent.next_status is None:
        site.route(e.GoAway(agent_id, DESK_CLOSED, "desk_closed"), now_ms)
