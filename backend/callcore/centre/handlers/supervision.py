"""What supervisors do on the floor: they hear contacts, speak there, take them over; they change
what agents do, and what becomes of contacts that wait.

Whom they reach comes with each command (`teams`, `queues`: ids; None for all): who is who is not
the centre's to know. A supervisor whose browser is gone attends nothing any more, and a caller whom
they had taken over goes back into line.
"""

from __future__ import annotations

from typing import Any

from callcore.centre import why_rung
from callcore.centre.contact import Attendance, Contact
from callcore.centre.handlers import agent_phones, call_control, callbacks
from callcore.centre.handlers.attendance import attends, leaves, tell, watch
from callcore.centre.registry import command, timer
from callcore.centre.site import Site
from callcore.errors import EventRefused
from callcore.events import facts
from callcore.flow import runner
from callcore.flow.onward import OFFER
from callcore.routing import events as e
from callcore.routing.choosing import Agent
from callcore.routing.events import Status
from callcore.talk.attending import ACTS, Attended, refuse_act

Body = dict[str, Any]
#: The least and the greatest priority that a waiting contact may be given.
PRIORITIES = (0, 20)


# Whom they reach


def _under_way(site: Site, body: Body) -> Contact:
    contact = site.contacts.get(str(body["contact"]))
    if contact is None:
        raise EventRefused("contact-ended", "This contact is over.")
    return contact


def reached(site: Site, body: Body, agent_id: str) -> Agent:
    """An agent whom the supervisor reaches.

    Raises:
        EventRefused: they do not, or nobody knows the agent.
    """
    known, agent = site.setup.agents.get(agent_id), site.router.agents.get(agent_id)
    if known is None or agent is None:
        raise EventRefused("no-such-agent", "This agent is not here any more.")
    if body["teams"] is not None and known.team_id not in body["teams"]:
        raise EventRefused("not-yours", f"{known.name} is in no team that you supervise.")
    return agent


def _waits(site: Site, body: Body) -> Contact:
    """A contact that waits in a queue which the supervisor reaches.

    Raises:
        EventRefused: it does not wait (any more), or the queue is not theirs.
    """
    contact = _under_way(site, body)
    waiting = site.router.contacts.get(contact.id)
    queue = site.setup.queues.get(waiting.queue) if waiting is not None else None
    if waiting is None or waiting.connected or queue is None:
        raise EventRefused("not-now", "This contact does not wait any more.")
    if body["queues"] is not None and queue.id not in body["queues"]:
        raise EventRefused("not-yours", f"“{queue.name}” is not a queue that you supervise.")
    return contact


# Hearing, and speaking


def attended(site: Site, contact: Contact, user: str) -> Attended:
    """What decides over what a supervisor may do with a contact."""
    known = site.setup.agents.get(contact.agent)
    others = (one for other, one in contact.attended.items() if other != user)
    mine = contact.attended.get(user)
    return Attended(
        known.name if known else "",
        contact.text,
        contact.consultation is not None,
        callbacks.rings(contact),
        next((one.by for one in others if one.how != "listens"), ""),
        mine.how if mine else "",
    )


@command("supervise.listen", "supervise.coach", "supervise.join")
def attend(site: Site, body: Body, now_ms: int) -> None:
    """Hear a contact of an agent; with `coach` the agent hears them, with `join` all do."""
    contact = _spoken_with(site, body)
    leave_others(site, str(body["user"]), contact.id, now_ms)
    _attends(site, contact, body, ACTS[str(body["act"])], now_ms)


def _spoken_with(site: Site, body: Body) -> Contact:
    contact = _under_way(site, body)
    if not contact.agent:
        raise EventRefused("not-now", "No agent has this contact at the moment.")
    reached(site, body, contact.agent)
    refuse_act(str(body["act"]), attended(site, contact, str(body["user"])))
    return contact


def _attends(site: Site, contact: Contact, body: Body, how: str, now_ms: int) -> None:
    user, by = str(body["user"]), str(body["by"])
    contact.attended[user] = Attendance(by, how, now_ms)
    watch(site, contact, user, now_ms)
    tell(site, contact, user)
    site.emit(facts.Attends(user, by, how), now_ms, contact=contact.id, agent=contact.agent)


def leave_others(site: Site, user: str, kept: str, now_ms: int) -> None:
    """One hears one contact at a time, and lets go of none that one has.

    Raises:
        EventRefused: they have a caller.
    """
    others = [contact for contact in attends(site, user) if contact.id != kept]
    if any(contact.attended[user].how == "has" for contact in others):
        raise EventRefused("not-now", "You have a caller: end that, or send it on, first.")
    for contact in others:
        leaves(site, contact, user, now_ms)


@command("supervise.leave")
def leave(site: Site, body: Body, now_ms: int) -> None:
    """Hear it no more; whoever has the caller ends or sends it on instead."""
    contact, user = _under_way(site, body), str(body["user"])
    mine = contact.attended.get(user)
    if mine is None:
        raise EventRefused("no-contact", "You do not hear this contact any more.")
    if mine.how == "has":
        raise EventRefused("not-now", "You have this caller: end it, or send it on.")
    leaves(site, contact, user, now_ms)


# Having it


@command("supervise.take_over")
def take_over(site: Site, body: Body, now_ms: int) -> None:
    """The agent's part ends, and the caller speaks with the supervisor."""
    contact, user = _spoken_with(site, body), str(body["user"])
    leave_others(site, user, contact.id, now_ms)
    agent, by = contact.agent, str(body["by"])
    consult = site.contacts.get(contact.talk.consult)
    if consult is not None:
        site.hang_up(consult, now_ms)
    contact.attended[user] = Attendance(by, "has", now_ms)
    watch(site, contact, user, now_ms)
    site.emit(facts.TakenOver(user, by), now_ms, contact=contact.id, agent=agent)
    site.route(e.EndContact(agent, contact.id, "taken_over"), now_ms)
    site.dirty.add(f"supervisor.{user}")


def _has(site: Site, body: Body) -> Contact:
    contact = _under_way(site, body)
    mine = contact.attended.get(str(body["user"]))
    if mine is None or mine.how != "has":
        raise EventRefused("no-contact", "You do not have this caller (any more).")
    return contact


def _gives_back(site: Site, contact: Contact, user: str, why: str, now_ms: int, to: str = "") -> None:
    gone = contact.attended.pop(user)
    site.dirty.add(f"supervisor.{user}")
    site.emit(facts.GivenBack(user, gone.by, why, to), now_ms, contact=contact.id)


@command("supervise.end")
def end(site: Site, body: Body, now_ms: int) -> None:
    """The supervisor has done with the caller, who goes on as after an agent."""
    contact = _has(site, body)
    _gives_back(site, contact, str(body["user"]), "ended", now_ms)
    call_control.person_done(site, contact, now_ms)


@command("supervise.send_on")
def send_on(site: Site, body: Body, now_ms: int) -> None:
    """The caller goes on to a colleague, a queue, a mailbox, or a number."""
    contact = _has(site, body)
    target = call_control.target_of(site, contact, str(body["to"]))
    _gives_back(site, contact, str(body["user"]), "sent", now_ms, target)
    call_control.goes_to(site, contact, target, now_ms)


# Their browsers


@command("supervisor.opened")
def opened(site: Site, body: Body, now_ms: int) -> None:
    """A supervisor is there, in a browser."""
    site.supervisors.setdefault(str(body["user"]), set()).add(str(body["line"]))
    site.dirty.add(f"supervisor.{body['user']}")


@command("supervisor.closed")
def closed(site: Site, body: Body, now_ms: int) -> None:
    """A browser of a supervisor is gone."""
    user = str(body["user"])
    site.supervisors.get(user, set()).discard(str(body["line"]))
    if not site.supervisors.get(user):
        site.supervisors.pop(user, None)
        for contact in attends(site, user):
            watch(site, contact, user, now_ms)


@timer("supervisor")
def gone(site: Site, _kind: str, identity: str, now_ms: int) -> None:
    """They did not come back: nothing is heard any more, and a caller goes back into line."""
    name, _, user = identity.partition(" ")
    contact = site.contacts.get(name)
    mine = contact.attended.get(user) if contact is not None else None
    if contact is None or mine is None or site.supervisors.get(user):
        return
    if mine.how != "has":
        leaves(site, contact, user, now_ms)
        return
    back = f"queue:{contact.home}" if contact.home in site.setup.queues else ""
    _gives_back(site, contact, user, "lost", now_ms, back)
    if back:
        call_control.goes_to(site, contact, back, now_ms)
    else:
        call_control.person_done(site, contact, now_ms)


# What agents do


def _steered(site: Site, body: Body, act: str, now_ms: int, **more: Any) -> None:
    fact = facts.Steered(str(body["user"]), str(body["by"]), act, **more)
    contact, agent = str(body.get("contact") or ""), str(body.get("agent") or "")
    site.emit(fact, now_ms, contact=contact, agent=agent)


@command("supervise.available")
def make_available(site: Site, body: Body, now_ms: int) -> None:
    """The agent takes contacts again; a wrap-up ends without a code."""
    agent = reached(site, body, str(body["agent"]))
    agent_phones.require_open(site, agent.id)
    if agent.status is Status.OUT:
        raise EventRefused("not-now", "Only they can sign in, at their desk.")
    if agent.status is Status.AVAILABLE:
        raise EventRefused("not-now", "They are available already.")
    _steered(site, body, "available", now_ms)
    wraps = agent.status is Status.WRAPPING
    site.route(e.FinishWrapUp(agent.id, "", late=True) if wraps else e.GoAvailable(agent.id), now_ms)


@command("supervise.away")
def set_away(site: Site, body: Body, now_ms: int) -> None:
    """The agent takes no contacts, for one of the centre's reasons."""
    agent, reason = reached(site, body, str(body["agent"])), str(body["reason"])
    if agent.status is Status.OUT:
        raise EventRefused("not-now", "They are not signed in.")
    if reason not in site.setup.away_reasons:
        raise EventRefused("no-such-reason", "The centre has no such reason.")
    _steered(site, body, "away", now_ms, reason=reason)
    site.route(e.GoAway(agent.id, reason, "set_away"), now_ms)


@command("supervise.sign_out")
def sign_out(site: Site, body: Body, now_ms: int) -> None:
    """The agent's work ends, once what they have in hand is over."""
    agent = reached(site, body, str(body["agent"]))
    if agent.status is Status.OUT:
        raise EventRefused("not-now", "They are not signed in.")
    _steered(site, body, "sign_out", now_ms)
    site.route(e.SignOut(agent.id, after=True), now_ms)


@command("supervise.serve")
def serve(site: Site, body: Body, now_ms: int) -> None:
    """The agent takes part in these queues too, until they sign out."""
    agent = reached(site, body, str(body["agent"]))
    if agent.status is Status.OUT:
        raise EventRefused("not-now", "They are not signed in.")
    own = set(agent.queues) - set(agent.extra)
    queues = tuple(q for q in dict.fromkeys(map(str, body["serves"])) if q not in own)
    for queue in sorted(set(queues) ^ set(agent.extra)):
        _must_reach_queue(site, body, queue)
    site.route(e.Serve(agent.id, queues), now_ms)
    _steered(site, body, "serve", now_ms, queues=queues)


def _must_reach_queue(site: Site, body: Body, queue: str) -> None:
    known = site.setup.queues.get(queue)
    if known is None:
        raise EventRefused("no-such-target", "There is no such queue (any more).")
    if body["queues"] is not None and queue not in body["queues"]:
        raise EventRefused("not-yours", f"“{known.name}” is not a queue that you supervise.")


# Who waits


@command("supervise.priority")
def rank(site: Site, body: Body, now_ms: int) -> None:
    """A contact that waits has another priority."""
    contact, value = _waits(site, body), int(body["priority"])
    least, most = PRIORITIES
    if not least <= value <= most:
        raise EventRefused("not-now", f"A priority is from {least} to {most}.")
    site.route(e.Rank(contact.id, value), now_ms)
    contact.priority = value
    _steered(site, body, "priority", now_ms, value=value)


@command("supervise.why_waits")
def why_waits(site: Site, body: Body, now_ms: int) -> dict[str, Any]:
    """How those stand whom a waiting contact might reach; by name those of the supervisor's teams."""
    contact, teams = _waits(site, body), body["teams"]

    def shows(agent: str) -> bool:
        known = site.setup.agents.get(agent)
        return teams is None or (known is not None and known.team_id in teams)

    stand, rings = site.router.why_waits(contact.id, now_ms), bool(site.router.contacts[contact.id].ringing)
    return {**why_rung.why_waits(stand, site.setup.name_of, shows, rings=rings)}


@command("supervise.move")
def move(site: Site, body: Body, now_ms: int) -> None:
    """A contact that waits joins the end of another queue."""
    contact, queue = _waits(site, body), str(body["queue"])
    _must_reach_queue(site, body, queue)
    if contact.callback is not None:
        raise EventRefused("not-now", "A callback stays in the queue that promised it.")
    if queue == contact.queue:
        raise EventRefused("not-now", "It waits there already.")
    _steered(site, body, "move", now_ms, queues=(queue,))
    site.leave_queue(contact, "moved", now_ms)
    call_control.goes_to(site, contact, f"queue:{queue}", now_ms)


@command("supervise.offer")
def offer(site: Site, body: Body, now_ms: int) -> None:
    """A caller who waits is offered a callback; they keep their place, taken or not."""
    contact = _waits(site, body)
    if contact.callback is not None or contact.text or contact.state.phase != "queued":
        raise EventRefused("not-now", "Only a caller who waits can be offered a callback.")
    key = f"{OFFER}{contact.flow.machine.flow.language}"
    if contact.state.plan == key and contact.state.inner is not None:
        raise EventRefused("not-now", "They hear the offer at this moment.")
    if key not in site.plans:
        raise EventRefused("not-now", "There is no offer in this caller’s language.")
    _steered(site, body, "offer", now_ms)
    site.feed(contact, runner.OtherPlan(key), now_ms)
