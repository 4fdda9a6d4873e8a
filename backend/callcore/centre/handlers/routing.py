"""What the router decides, and what is due for who waits and for agents."""

from __future__ import annotations

from callcore.centre.contact import Contact
from callcore.centre.handlers import agent_phones, callbacks
from callcore.centre.handlers.faults import BROKEN
from callcore.centre.registry import Occasion, command, decision, timer
from callcore.centre.site import Site
from callcore.events import facts
from callcore.flow import runner
from callcore.routing import events as e
from callcore.routing.events import Status
from callcore.routing.router import DIRECT

#: An agent whose rules answer at once hears it ring this long.
AT_ONCE_MS = 800


@decision(e.Ring)
def rang(site: Site, ring: e.Ring, now_ms: int) -> None:
    """An agent is rung."""
    fact = facts.Rang(ring.queue, ring.until_ms, ring.rule, *ring.why)
    site.emit(fact, now_ms, contact=ring.contact, agent=ring.agent)
    site.tell(Occasion.RANG, ring, now_ms)
    if site.setup.rule_of(ring.agent).answers == "at_once":
        site.timers.set(now_ms + AT_ONCE_MS, "at_once", ring.agent)


@timer("at_once")
def answers_at_once(site: Site, _kind: str, agent_id: str, now_ms: int) -> None:
    """An agent whose rules answer at once answers."""
    agent = site.router.agents.get(agent_id)
    if agent is not None and agent.status is Status.RINGING:
        site.route(e.Answer(agent_id), now_ms)


@decision(e.RingStopped)
def ring_stopped(site: Site, stopped: e.RingStopped, now_ms: int) -> None:
    """An agent is rung no more."""
    site.emit(
        facts.RingStopped(queue=stopped.queue, why=stopped.why),
        now_ms,
        contact=stopped.contact,
        agent=stopped.agent,
    )


@decision(e.Connected)
def connected(site: Site, connected: e.Connected, now_ms: int) -> None:
    """An agent has it: they speak, or the caller is rung back."""
    contact = site.contacts[connected.contact]
    if contact.callback is not None and not contact.served:
        callbacks.call(site, contact, connected.agent, now_ms)
        return
    site.emit(
        facts.Answered(queue=connected.queue, entered_ms=connected.entered_ms),
        now_ms,
        contact=connected.contact,
        agent=connected.agent,
    )
    contact.taken_by(connected.agent)
    site.feed(contact, runner.Taken(), now_ms)
    site.tell(Occasion.TAKEN, contact, now_ms)


@decision(e.TookOver)
def took_over(site: Site, took: e.TookOver, now_ms: int) -> None:
    """A colleague who was asked has the contact now."""
    contact = site.contacts[took.contact]
    contact.taken_by(took.agent)
    site.emit(
        facts.Answered(queue=took.queue, entered_ms=contact.entered_ms, transferred=True),
        now_ms,
        contact=took.contact,
        agent=took.agent,
    )


@decision(e.LegEnded)
def leg_ended(site: Site, ended: e.LegEnded, now_ms: int) -> None:
    """An agent's part of a contact is over."""
    site.emit(
        facts.LegEnded(queue=ended.queue, by=ended.by), now_ms, contact=ended.contact, agent=ended.agent
    )
    contact = site.contacts.get(ended.contact)
    if contact is not None:
        site.tell(Occasion.LEG_ENDED, contact, ended.by, now_ms)


@decision(e.Coded)
def coded(site: Site, coded: e.Coded, now_ms: int) -> None:
    """An agent's part of a contact has its wrap-up code, or none."""
    site.emit(
        facts.Coded(queue=coded.queue, code=coded.code), now_ms, contact=coded.contact, agent=coded.agent
    )


@decision(e.LeftQueue)
def left_queue(site: Site, left: e.LeftQueue, now_ms: int) -> None:
    """Out of a queue without an answer; out of one person's line nothing is told or counted."""
    contact = site.contacts.get(left.contact)
    if contact is not None and contact.callback is not None and not contact.served:
        if left.why == "queue_gone":
            callbacks.finish(site, contact, "not_reached", now_ms)
        return
    if contact is not None:
        contact.queue = ""
    if left.queue.startswith(DIRECT):
        if contact is not None and left.why == "passed_on":
            site.feed(contact, runner.Rung("no_answer"), now_ms)
        return
    site.emit(
        facts.LeftQueue(queue=left.queue, entered_ms=left.entered_ms, why=left.why),
        now_ms,
        contact=left.contact,
    )
    waits = contact is not None and contact.state.phase == "queued"
    if contact is not None and waits and left.why not in ("hung_up", "moved", BROKEN):
        site.feed(contact, runner.WaitedOut(left.why), now_ms)


@decision(e.AgentChanged)
def agent_changed(site: Site, changed: e.AgentChanged, now_ms: int) -> None:
    """An agent has another state."""
    site.timers.set(changed.due_ms, "agent", changed.agent)
    site.emit(
        facts.AgentChanged(
            status=str(changed.status), reason=changed.reason, queue=changed.queue, since_ms=changed.since_ms
        ),
        now_ms,
        contact=changed.contact,
        agent=changed.agent,
    )
    if changed.status is Status.OUT:
        agent_phones.closed(site, changed.agent, now_ms)


@timer("agent")
def agent_due(site: Site, _kind: str, agent: str, now_ms: int) -> None:
    """A ring or a wrap-up has lasted as long as it may."""
    site.route(e.AgentDue(agent), now_ms)


@timer("wait")
def wait_due(site: Site, _kind: str, identity: str, now_ms: int) -> None:
    """A wait has lasted as long as it may, or its queue looks further."""
    if identity in site.router.contacts:
        site.route(e.ContactDue(identity), now_ms)
    contact: Contact | None = site.contacts.get(identity)
    if contact is not None:
        site.watch_wait(contact)


@command("agent.answer")
def answer(site: Site, body: dict[str, str], now_ms: int) -> None:
    """The agent answers what rings."""
    site.route(e.Answer(body["agent"]), now_ms)


@command("agent.decline")
def decline(site: Site, body: dict[str, str], now_ms: int) -> None:
    """The agent lets it pass."""
    site.route(e.Decline(body["agent"]), now_ms)
