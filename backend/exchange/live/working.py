"""An agent's day: coming and going, ending contacts, and labelling what they were about."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from callcore.errors import EventRefused
from callcore.routing import events as e
from callcore.routing.events import Status
from exchange.live import callbacks, talking

if TYPE_CHECKING:
    from callcore.routing.choosing import Agent
    from exchange.live.engine import Engine
    from wrapup.services import CodeFacts

Body = dict[str, Any]


def sign_in(engine: Engine, body: Body, now_ms: int) -> None:
    """Begin to work; an outside line that is kept open rings."""
    if body["agent"] not in engine.config.agents:
        raise EventRefused("no-such-agent", "You are not set up as an agent.")
    engine.agent_event(e.SignIn(body["agent"]), now_ms)
    engine.lines.signed_in(body["agent"], now_ms)


def sign_out(engine: Engine, body: Body, now_ms: int) -> None:
    """End of work."""
    engine.agent_event(e.SignOut(body["agent"]), now_ms)
    engine.lines.closed(body["agent"], now_ms)


def available(engine: Engine, body: Body, now_ms: int) -> None:
    """Take contacts."""
    engine.lines.must_be_open(body["agent"])
    agent = engine.router.agents.get(body["agent"])
    if agent is not None and agent.status is Status.WRAPPING:
        engine.agent_event(e.FinishWrapUp(agent.id, "", _excused(engine, agent, now_ms)), now_ms)
        return
    engine.agent_event(e.GoAvailable(body["agent"]), now_ms)


def away_reasons(engine: Engine, agent: str) -> list[str]:
    """The reasons that an agent may give; where their rules name none of the centre's, all."""
    allowed = engine.config.desk_of(agent).away
    centre = engine.config.away_reasons
    return [reason for reason in centre if not allowed or reason in allowed] or centre


def go_away(engine: Engine, body: Body, now_ms: int) -> None:
    """Take no contacts for a while, for a reason."""
    reason = str(body["reason"])
    if reason not in away_reasons(engine, body["agent"]):
        raise EventRefused("no-such-reason", "This reason is not one that you may give.")
    engine.agent_event(e.GoAway(body["agent"], reason), now_ms)


def end(engine: Engine, body: Body, now_ms: int) -> None:
    """The agent ends a contact, or stops ringing for a callback."""
    agent = engine.router.agents.get(body["agent"])
    held = body.get("contact") or (agent.contact if agent else "")
    contact = engine.contacts.get(held)
    if contact is not None and contact.agent == body["agent"]:
        if callbacks.rings(contact):
            callbacks.not_reached(engine, contact, "given_up", now_ms)
            return
        if talking.ends_by_putting_through(engine, contact, now_ms):
            return
    engine.agent_event(e.EndContact(body["agent"], held), now_ms)


def codes_of(engine: Engine, agent: Agent) -> list[CodeFacts]:
    """The codes for the contact that an agent has in hand."""
    contact = engine.contacts.get(agent.contact) or engine.over.get(agent.contact)
    return engine.config.codes_of((contact.home_of(agent) if contact else "") or agent.queue)


def must_code(engine: Engine, agent: Agent) -> bool:
    """Whether a wrap-up needs a code: where it is required, and there is one to give."""
    required = engine.config.rule_of(agent.id).wrap_up == "required"
    return required and bool(codes_of(engine, agent))


def _excused(engine: Engine, agent: Agent, now_ms: int) -> bool:
    """Whether a wrap-up may end without a code, though one is required: there is none to give, or
    the time for it is over."""
    desk = engine.config.desk_of(agent.id)
    late = now_ms - agent.since_ms > max(desk.keypad_ms, desk.screen_ms)
    return late or not codes_of(engine, agent)


def wrap_up(engine: Engine, body: Body, now_ms: int) -> None:
    """Label the agent's part of a contact, in the time that the keypad or the screen has."""
    agent = engine.router.agents.get(body["agent"])
    code = str(body.get("code") or "")
    known = {c.id for c in codes_of(engine, agent)} if agent else set()
    if code and code not in known:
        raise EventRefused("no-such-code", "This wrap-up code is not used by the queue.")
    desk = engine.config.desk_of(body["agent"])
    since_ms = now_ms - agent.since_ms if agent else 0
    if code and since_ms > (desk.keypad_ms if body.get("keypad") else desk.screen_ms):
        raise EventRefused("too-late", "The time to enter a code is over; end without one.")
    excused = agent is not None and _excused(engine, agent, now_ms)
    engine.agent_event(e.FinishWrapUp(body["agent"], code, excused), now_ms)


def desk_opened(engine: Engine, body: Body, now_ms: int) -> None:
    """An agent's desk is looked at in a browser."""
    engine.desks.setdefault(body["agent"], set()).add(body["line"])
    agent = engine.router.agents.get(body["agent"])
    if agent is not None and agent.next_status == (Status.AWAY, DESK_CLOSED):
        engine.agent_event(e.StayOn(agent.id), now_ms)


def desk_closed(engine: Engine, body: Body, now_ms: int) -> None:
    """A browser with an agent's desk is gone; if it was the last, nobody hears what rings there."""
    lines = engine.desks.get(body["agent"], set())
    if body["line"] in lines:
        lines.discard(body["line"])
        if not lines:
            engine.timers.set(now_ms + DESK_GONE_MS, "desk", body["agent"])


def desk_gone(engine: Engine, agent_id: str, now_ms: int) -> None:
    """A desk stayed closed: no contact comes to it any more, and what rings goes to the next."""
    agent = engine.router.agents.get(agent_id)
    if engine.desks.get(agent_id) or agent is None:
        return
    if agent.status not in (Status.OUT, Status.AWAY) and agent.next_status is None:
        engine.agent_event(e.GoAway(agent_id, DESK_CLOSED, "desk_closed"), now_ms)


#: A desk that is closed and not opened again so soon counts as left.
DESK_GONE_MS = 15_000
DESK_CLOSED = "Desk closed"

DEEDS: dict[str, Callable[[Engine, Body, int], None]] = {
    "sign_in": sign_in,
    "sign_out": sign_out,
    "available": available,
    "away": go_away,
    "end": end,
    "wrap_up": wrap_up,
}
