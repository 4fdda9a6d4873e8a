"""What agents do with the contacts they have: hold, ask a colleague, put through, join, transfer.

A colleague who is asked is a contact of its own (a consult): the same router rings them, and it
ends, or becomes part of the caller's contact. Where a contact is sent on, a small flow carries it.
"""

from __future__ import annotations

from contextlib import suppress
from typing import Any

from callcore.centre.contact import GOES_ON, Consultation, Contact
from callcore.centre.handlers import attendance, callbacks, recordings
from callcore.centre.handlers.outside import redial
from callcore.centre.handlers.recordings import records_no_more, stands
from callcore.centre.registry import Occasion, command, on
from callcore.centre.setup import RunnableFlow
from callcore.centre.site import Site
from callcore.errors import EventRefused
from callcore.events import facts
from callcore.flow import onward, runner
from callcore.flow.definition import KEYS
from callcore.numbers.writing import NotANumber
from callcore.routing import events as e
from callcore.routing.events import Status
from callcore.talk import recording
from callcore.talk.conversation import Circumstances, allowed, refuse

Body = dict[str, Any]


# What may be done


def facts_of(site: Site, contact: Contact) -> Circumstances:
    """What decides over what an agent may do with a contact."""
    desk = site.setup.desk_of(contact.agent)
    queue = site.setup.queues.get(contact.home)
    consult = site.contacts.get(contact.talk.consult)
    return Circumstances(
        text=contact.text,
        consult=contact.consultation is not None,
        calling=callbacks.rings(contact),
        answered=consult is not None and consult.state.phase in ("with_person", "outside"),
        help=bool(desk.help_to),
        emergency=desk.emergency != "off" and contact.id not in site.alarms,
        record=queue is not None and queue.recording.whose == "on_demand",
        by_text=queue is not None and bool(queue.text_number),
    )


def can(site: Site, contact: Contact) -> list[str]:
    """The actions that the desk offers for a contact in hand."""
    return allowed(contact.talk, facts_of(site, contact))


def held_by(site: Site, body: Body) -> Contact:
    """The contact that is meant: the one named, or the one in the agent's hand.

    Raises:
        EventRefused: the agent does not have it.
    """
    agent = site.router.agents.get(body["agent"])
    contact = site.contacts.get(body.get("contact") or (agent.contact if agent else ""))
    busy = agent is not None and (agent.status is Status.ON_CONTACT or bool(agent.others))
    if contact is None or not busy or contact.agent != body["agent"]:
        raise EventRefused("no-contact", "You have no such contact.")
    return contact


def _may(site: Site, body: Body, action: str) -> Contact:
    contact = held_by(site, body)
    refuse(action, contact.talk, facts_of(site, contact))
    return contact


# Hold and recording


@command("agent.hold")
def hold(site: Site, body: Body, now_ms: int) -> None:
    """The caller hears music; with a colleague on the line, the agent speaks with them."""
    contact = _may(site, body, "hold")
    stands(site, contact, contact.talk._replace(held=True), facts.Held(on=True), now_ms)


@command("agent.resume")
def resume(site: Site, body: Body, now_ms: int) -> None:
    """Back to the caller."""
    contact = _may(site, body, "resume")
    stands(site, contact, contact.talk._replace(held=False), facts.Held(on=False), now_ms)


@command("agent.record")
def record(site: Site, body: Body, now_ms: int) -> None:
    """Record from now on, at the agent's wish."""
    recordings.record(site, _may(site, body, "record"), now_ms)


@command("agent.stop_recording")
def stop_recording(site: Site, body: Body, now_ms: int) -> None:
    """Record no more."""
    contact = _may(site, body, "stop_recording")
    records_no_more(site, contact, now_ms, "agent")


@on(Occasion.TAKEN)
def answered(site: Site, contact: Contact, now_ms: int) -> None:
    """Somebody took a contact: what the queue wants recorded is, and texts want a reply."""
    if contact.consultation is not None:
        consult_answered(site, contact, now_ms)
        return
    if contact.text:
        contact.unanswered_ms = now_ms
        watch_reply(site, contact)
        return
    queue = site.setup.queues.get(contact.home)
    begun = contact.talk.recording or contact.talk.notice
    if queue is not None and not begun and recording.recorded(queue.recording, contact.id):
        recordings.record(site, contact, now_ms, by="queue")


def watch_reply(site: Site, contact: Contact) -> None:
    """Look after the time within which a text must have its reply."""
    reply_ms = site.setup.rule_of(contact.agent).reply_ms
    if reply_ms and contact.unanswered_ms:
        site.timers.set(contact.unanswered_ms + reply_ms, "reply", contact.id)


# Sending on


@command("agent.transfer")
def transfer(site: Site, body: Body, now_ms: int) -> None:
    """Straight to a colleague, a queue, a mailbox, a number of ours, or an outside number."""
    contact = _may(site, body, "transfer")
    target = target_of(site, contact, str(body["to"]))
    send_on(site, contact, target, "transferred", now_ms)


def send_on(site: Site, contact: Contact, target: str, why: str, now_ms: int) -> None:
    """The agent's part ends, and the contact goes on its way."""
    agent = contact.agent
    site.emit(facts.Transferred(target), now_ms, contact=contact.id, agent=agent)
    site.route(e.EndContact(agent, contact.id, why), now_ms)
    goes_to(site, contact, target, now_ms)


def goes_to(site: Site, contact: Contact, target: str, now_ms: int) -> None:
    """A contact goes on its way to a reference or a number; where nobody takes it, back to its
    queue."""
    told = contact.flow.machine.flow
    back = f"queue:{contact.home}" if contact.home in site.setup.queues else ""
    group = site.setup.groups.get(target.removeprefix("group:"))
    language = group.language if group else told.language
    way = onward.onward(target, back, told.channel, language)
    site.go_on(contact, site.setup.ad_hoc(way, f"Sent on to {_called(site, target)}"), now_ms)


def target_of(site: Site, contact: Contact, asked: str) -> str:
    """Whom an agent means, as a reference or a number.

    Raises:
        EventRefused: nobody, or the agent themself.
    """
    asked = asked.strip()
    reference = asked if ":" in asked else _dialled(site, asked)
    if ":" not in reference:
        return reference
    if site.setup.name_of(reference) is None:
        raise EventRefused("no-such-target", "There is no such person or queue (any more).")
    if reference == f"agent:{contact.agent}":
        raise EventRefused("yourself", "This is you.")
    return reference


def _called(site: Site, target: str) -> str:
    return site.setup.name_of(target) or target


def _dialled(site: Site, digits: str) -> str:
    found = site.setup.dial(digits)
    if found.kind == "found":
        return found.target
    try:
        return site.setup.outside(digits)
    except NotANumber:
        message = f"“{digits[:40]}” is no extension, and no number that can be rung."
        raise EventRefused("no-such-target", message) from None


# Colleagues


@command("agent.consult")
def consult(site: Site, body: Body, now_ms: int) -> None:
    """Put the caller on hold and ask somebody."""
    contact = _may(site, body, "consult")
    target = _who_can_be_asked(site, contact, str(body["to"]))
    _ask(site, contact, target, "consult", now_ms)


@command("agent.help")
def help_call(site: Site, body: Body, now_ms: int) -> None:
    """Call whom the agent's rules name for help, or send the caller straight there."""
    contact = _may(site, body, "help")
    desk = site.setup.desk_of(contact.agent)
    if desk.help_how == "straight" or contact.text:
        send_on(site, contact, target_of(site, contact, desk.help_to), "transferred", now_ms)
    else:
        _ask(site, contact, _who_can_be_asked(site, contact, desk.help_to), "help", now_ms)


@command("agent.emergency")
def emergency(site: Site, body: Body, now_ms: int) -> None:
    """The floor is told, the call recorded, and whoever is named rung in, as the rules say."""
    contact = _may(site, body, "emergency")
    desk = site.setup.desk_of(contact.agent)
    target = ""
    if desk.emergency == "joins" and desk.emergency_to and not contact.talk.consult:
        # Whoever is named may be gone by now: the floor is told all the same.
        with suppress(EventRefused):
            target = _who_can_be_asked(site, contact, desk.emergency_to)
    site.emit(facts.Emergency(target), now_ms, contact=contact.id, agent=contact.agent)
    if desk.emergency_recorded and not (contact.talk.recording or contact.talk.notice):
        recordings.record(site, contact, now_ms, by="emergency")
    if target:
        _ask(site, contact, target, "emergency", now_ms)


def _who_can_be_asked(site: Site, contact: Contact, named: str) -> str:
    """The target of a call beside the caller; a caller can be sent where nobody can be asked.

    Raises:
        EventRefused: it is unknown, or nobody speaks there.
    """
    target = target_of(site, contact, named)
    if ":" in target and target.partition(":")[0] not in ("agent", "group", "queue"):
        message = f"Nobody can be asked at {_called(site, target)}: transfer the caller there."
        raise EventRefused("no-such-target", message)
    return target


def _ask(site: Site, contact: Contact, target: str, purpose: str, now_ms: int) -> None:
    """Ring somebody beside the caller, who hears music unless it is an emergency."""
    flow = site.setup.ad_hoc(onward.consult(target), f"{purpose.title()}: {_called(site, target)}")
    consult = new_contact(site, contact, flow, now_ms)
    consult.consultation = Consultation(contact.id, contact.agent, purpose, target)
    talk = contact.talk
    if purpose != "emergency" and not talk.held:
        talk = talk._replace(held=True)
        stands(site, contact, talk, facts.Held(on=True), now_ms)
    talk = talk._replace(consult=consult.id, purpose=purpose, joined=False)
    stands(site, contact, talk, facts.Consults(consult.id, target, purpose), now_ms)
    site.begin(consult, now_ms)


def new_contact(site: Site, like: Contact, flow: RunnableFlow, now_ms: int) -> Contact:
    """A contact that an agent begins about another; `Site.begin` runs it."""
    values = {**like.values, **like.state.values}
    return Contact(
        site.devices.new_id(),
        like.number,
        like.caller,
        like.trial,
        flow,
        runner.arriving(now_ms),
        now_ms,
        values,
    )


@on(Occasion.ANSWERED_OUTSIDE)
def consult_answered(site: Site, consult: Contact, now_ms: int) -> None:
    """Whoever was asked has answered; in an emergency they hear everything at once."""
    contact = site.contacts.get(consult.consultation.of) if consult.consultation else None
    if contact is None or consult.state.phase not in ("with_person", "outside"):
        return
    if contact.talk.purpose == "emergency":
        _join(site, contact, now_ms)
    site.dirty.add(f"desk.{contact.agent}")


@command("agent.join")
def join(site: Site, body: Body, now_ms: int) -> None:
    """All three speak with each other."""
    _join(site, _may(site, body, "join"), now_ms)


def _join(site: Site, contact: Contact, now_ms: int) -> None:
    if contact.talk.held:
        talk = contact.talk._replace(held=False)
        stands(site, contact, talk, facts.Held(on=False), now_ms)
    colleague, to = _consulted(site, contact)
    stands(site, contact, contact.talk._replace(joined=True), facts.Joined(colleague, to), now_ms)


@command("agent.put_through")
def put_through(site: Site, body: Body, now_ms: int) -> None:
    """The caller goes on with whoever was asked; the agent's own part is over."""
    _put_through(site, _may(site, body, "put_through"), now_ms)


def _put_through(site: Site, contact: Contact, now_ms: int) -> None:
    consult, giver = site.contacts[contact.talk.consult], contact.agent
    colleague, to = _consulted(site, contact)
    told = facts.Transferred(f"agent:{colleague}" if colleague else to, consult.id)
    stands(site, contact, contact.talk._replace(consult=""), told, now_ms)
    if consult.state.phase == "with_person":
        site.route(e.TakeOver(contact.id, consult.id), now_ms)
    else:
        site.route(e.EndContact(giver, contact.id, "transferred"), now_ms)
        values = {**contact.values, **contact.state.values}
        contact.goes_on_in(consult.flow)
        contact.state = consult.state._replace(values=values)
        site.went_on(contact, now_ms)
        redial(site, contact, now_ms)
    _finish(site, consult, "joined", now_ms)


def ends_by_putting_through(site: Site, contact: Contact, now_ms: int) -> bool:
    """An agent who leaves a talk of three leaves the others to each other.

    Raises:
        EventRefused: they are still asking somebody.
    """
    refuse("end", contact.talk, facts_of(site, contact))
    if contact.talk.joined:
        _put_through(site, contact, now_ms)
        return True
    return False


@command("agent.end_consult")
def end_consult(site: Site, body: Body, now_ms: int) -> None:
    """Let go of whoever was asked, and go back to the caller."""
    contact = _may(site, body, "end_consult")
    consult = site.contacts.get(contact.talk.consult)
    if consult is not None:
        site.hang_up(consult, now_ms)
    if contact.talk.held:
        talk = contact.talk._replace(held=False)
        stands(site, contact, talk, facts.Held(on=False), now_ms)


def _consulted(site: Site, contact: Contact) -> tuple[str, str]:
    """Who is at the other end of what an agent asks: a colleague's id, and whom they asked for."""
    consult = site.contacts.get(contact.talk.consult)
    if consult is None or consult.consultation is None:
        return "", ""
    return consult.agent, consult.consultation.to


def _finish(site: Site, contact: Contact, ending: str, now_ms: int) -> None:
    contact.state = contact.state._replace(phase="ended", ending="person", due_ms=None)
    site.close(contact)
    site.emit(facts.Ended(step=contact.state.step, ending=ending), now_ms, contact=contact.id)


# Endings


@on(Occasion.LEG_ENDED)
def leg_ended(site: Site, contact: Contact, by: str, now_ms: int) -> None:
    """An agent's part of a contact is over: it goes on elsewhere, is asked about, or ends."""
    attendance.over_for_all(site, contact, now_ms)
    if by not in GOES_ON:
        records_no_more(site, contact, now_ms, "end")
    contact.release(by)
    if by not in GOES_ON:
        person_done(site, contact, now_ms, surveyed=by == "agent")


def person_done(site: Site, contact: Contact, now_ms: int, *, surveyed: bool = True) -> None:
    """Whoever spoke with the caller has done: they go on to the queue's survey, or in the flow."""
    records_no_more(site, contact, now_ms, "end")
    survey = _survey(site, contact) if surveyed else None
    if survey is not None:
        site.go_on(contact, survey, now_ms)
    else:
        site.feed(contact, runner.PersonDone(), now_ms)


def _survey(site: Site, contact: Contact) -> RunnableFlow | None:
    """The survey that the contact's queue hands its callers to; a draft on trial has none."""
    queue = site.setup.queues.get(contact.home)
    flow = site.setup.flows.get(queue.survey) if queue is not None else None
    if flow is None or contact.consultation is not None or contact.callback is not None:
        return None
    return flow if flow.machine.flow.channel == contact.flow.machine.flow.channel else None


@on(Occasion.OVER)
def over(site: Site, contact: Contact, now_ms: int) -> None:
    """A contact has ended: its colleague's call with it, or the caller's is told."""
    attendance.ended(site, contact)
    consult = site.contacts.get(contact.talk.consult)
    if consult is not None:
        site.hang_up(consult, now_ms)
    of = site.contacts.get(contact.consultation.of) if contact.consultation else None
    if of is not None and of.talk.consult == contact.id:
        to = contact.consultation.to if contact.consultation else ""
        talk = of.talk._replace(consult="", purpose="", joined=False)
        stands(site, of, talk, facts.ConsultOver(to), now_ms)


# Keys, and going on in writing


@command("agent.key")
def press_key(site: Site, body: Body, now_ms: int) -> None:
    """A key that the other end hears, of a contact or of whoever is asked."""
    contact = held_by(site, body)
    key = str(body.get("key", ""))
    if len(key) != 1 or key not in KEYS:
        raise EventRefused("no-such-key", "A telephone has no such key.")
    outside = _outside_of(site, contact)
    if outside:
        site.devices.outside.press(outside, key)
    site.emit(
        facts.Keyed(step=contact.state.step, key=key, by="agent"),
        now_ms,
        contact=contact.id,
        agent=contact.agent,
    )


def _outside_of(site: Site, contact: Contact) -> str:
    """The outside number that hears what an agent presses; empty where it is somebody else."""
    consult = site.contacts.get(contact.talk.consult)
    if consult is None:
        return contact.caller if contact.callback is not None else ""
    step = consult.flow.machine.steps.get(consult.state.step)
    return str(getattr(step, "number", "") or "")


@command("agent.by_text")
def by_text(site: Site, body: Body, now_ms: int) -> None:
    """Write to the caller from the queue's text number; the call goes on until it ends."""
    contact = _may(site, body, "by_text")
    queue = site.setup.queues[contact.home]
    flow = onward.onward(f"queue:{contact.home}", "", "text", contact.flow.machine.flow.language)
    thread = new_contact(site, contact, site.setup.ad_hoc(flow, "Text thread"), now_ms)
    thread.number, thread.begun = queue.text_number, contact.agent
    thread.queue = thread.home = contact.home
    thread.label, thread.entered_ms = contact.label, now_ms
    thread.taken_by(contact.agent)
    site.add(thread)
    thread.state, _ = thread.flow.machine.start(now_ms, thread.values)
    site.arrived(thread, now_ms)
    site.route(e.Begin(contact.agent, thread.id, contact.home), now_ms)
    site.emit(
        facts.Answered(queue=contact.home, entered_ms=now_ms, begun=True),
        now_ms,
        contact=thread.id,
        agent=contact.agent,
    )
    site.feed(thread, runner.Taken(), now_ms)
    site.emit(
        facts.Texted(by="agent", words=str(body["text"])), now_ms, contact=thread.id, agent=contact.agent
    )
