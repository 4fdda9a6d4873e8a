"""What agents do with the contacts they have: hold, ask a colleague, put through, join, transfer.

A colleague who is asked is a contact of its own (an aside): the same router rings them, and it
ends, or becomes part of the caller's contact. Where a contact is sent on, a small flow carries it.
"""

from __future__ import annotations

import uuid
from collections.abc import Callable
from contextlib import suppress
from typing import TYPE_CHECKING, Any

from callcore.errors import EventRefused
from callcore.events import Kind
from callcore.flow import runner
from callcore.flow.definition import KEYS
from callcore.flow.parts import SpokenText
from callcore.routing import events as e
from callcore.routing.events import Status
from callcore.talk import onward, recording
from callcore.talk.conversation import Facts, Talk, allowed, refuse
from exchange.live import callbacks
from exchange.live.contact import GOES_ON, Aside, Live
from exchange.live.performing import closed, go_on, records_no_more, redial, went_on
from numbers_app.plan import NotANumber, national, read

if TYPE_CHECKING:
    from exchange.live.configuration import Script
    from exchange.live.engine import Engine

Body = dict[str, Any]
_NOTICE_MS = 3_000


# What may be done


def facts(engine: Engine, contact: Live) -> Facts:
    """What decides over what an agent may do with a contact."""
    desk = engine.config.desk_of(contact.agent)
    queue = engine.config.queues.get(contact.home)
    side = engine.contacts.get(contact.talk.side)
    return Facts(
        text=contact.text,
        aside=contact.aside is not None,
        calling=callbacks.rings(contact),
        answered=side is not None and side.state.phase in ("with_person", "outside"),
        help=bool(desk.help_to),
        emergency=desk.emergency != "off" and contact.id not in engine.alarms,
        record=queue is not None and queue.recording.whose == "on_demand",
        by_text=queue is not None and bool(queue.text_number),
    )


def can(engine: Engine, contact: Live) -> list[str]:
    """The deeds that the desk offers for a contact in hand."""
    return allowed(contact.talk, facts(engine, contact))


def held_by(engine: Engine, body: Body) -> Live:
    """The contact that is meant: the one named, or the one in the agent's hand.

    Raises:
        EventRefused: the agent does not have it.
    """
    agent = engine.router.agents.get(body["agent"])
    contact = engine.contacts.get(body.get("contact") or (agent.contact if agent else ""))
    busy = agent is not None and (agent.status is Status.ON_CONTACT or bool(agent.others))
    if contact is None or not busy or contact.agent != body["agent"]:
        raise EventRefused("no-contact", "You have no such contact.")
    return contact


def _may(engine: Engine, body: Body, deed: str) -> Live:
    contact = held_by(engine, body)
    refuse(deed, contact.talk, facts(engine, contact))
    return contact


def _told(engine: Engine, contact: Live, talk: Talk, kind: Kind, now_ms: int, **body: Any) -> None:
    """From now on a contact stands so with its agent."""
    contact.talk = talk
    side = engine.contacts.get(talk.side)
    if side is not None and side.agent:
        # A colleague who is asked sees it too.
        engine.dirty.add(f"desk.{side.agent}")
    agent = body.pop("agent", contact.agent)
    engine.emit(kind, now_ms, contact=contact.id, agent=agent, talk=list(talk), **body)


# Hold and recording


def hold(engine: Engine, body: Body, now_ms: int) -> None:
    """The caller hears music; with a colleague on the line, the agent speaks with them."""
    contact = _may(engine, body, "hold")
    _told(engine, contact, contact.talk._replace(held=True), Kind.HELD, now_ms, on=True)


def resume(engine: Engine, body: Body, now_ms: int) -> None:
    """Back to the caller."""
    contact = _may(engine, body, "resume")
    _told(engine, contact, contact.talk._replace(held=False), Kind.HELD, now_ms, on=False)


def record(engine: Engine, body: Body, now_ms: int) -> None:
    """Record from now on, at the agent's wish."""
    _record(engine, _may(engine, body, "record"), now_ms)


def stop_recording(engine: Engine, body: Body, now_ms: int) -> None:
    """Record no more."""
    contact = _may(engine, body, "stop_recording")
    records_no_more(engine, contact, now_ms, "agent")


def _record(engine: Engine, contact: Live, now_ms: int, by: str = "agent") -> None:
    """Record, once the caller has heard that it is recorded."""
    queue = engine.config.queues.get(contact.home)
    rule = queue.recording if queue is not None else recording.RecordingRule()
    language = contact.script.machine.flow.language
    words = recording.notice(rule, language)
    if not words:
        _records(engine, contact, now_ms, rule.told, by)
    elif not contact.talk.notice:
        contact.talk = contact.talk._replace(notice=True)
        spoken = SpokenText(text=words, language=language)
        contact.playing = {
            "take": None, "since_ms": now_ms, "length_ms": _NOTICE_MS, "step": contact.state.step,
            "spoken": {"language": language, "text": spoken.text},
        }  # fmt: skip
        engine.emit(
            Kind.HEARD, now_ms, contact=contact.id, step=contact.state.step, role="notice",
            take=None, length_ms=_NOTICE_MS, words=words, spoken=contact.playing["spoken"], by=by,
            talk=list(contact.talk),
        )  # fmt: skip
        engine.dirty.add(f"desk.{contact.agent}")
        engine.timers.set(now_ms + _NOTICE_MS, "records", contact.id)


def _records(engine: Engine, contact: Live, now_ms: int, told: str, by: str) -> None:
    talk = contact.talk._replace(recording=True, notice=False)
    _told(engine, contact, talk, Kind.RECORDS_TALK, now_ms, on=True, told=told, by=by)


def notice_heard(engine: Engine, contact_id: str, now_ms: int) -> None:
    """The caller knows by now; whoever spoke with them may be gone."""
    contact = engine.contacts.get(contact_id)
    if contact is None or not contact.talk.notice:
        return
    by = next((line["by"] for line in reversed(contact.log) if line.get("role") == "notice"), "")
    _records(engine, contact, now_ms, "notice", by)


def answered(engine: Engine, contact: Live, now_ms: int) -> None:
    """Somebody took a contact: what the queue wants recorded is, and texts want a reply."""
    if contact.aside is not None:
        side_answered(engine, contact, now_ms)
        return
    if contact.text:
        contact.unanswered_ms = now_ms
        watch_reply(engine, contact)
        return
    queue = engine.config.queues.get(contact.home)
    begun = contact.talk.recording or contact.talk.notice
    if queue is not None and not begun and recording.recorded(queue.recording, contact.id):
        _record(engine, contact, now_ms, by="queue")


def watch_reply(engine: Engine, contact: Live) -> None:
    """Look after the time within which a text must have its reply."""
    reply_ms = engine.config.rule_of(contact.agent).reply_ms
    if reply_ms and contact.unanswered_ms:
        engine.timers.set(contact.unanswered_ms + reply_ms, "reply", contact.id)


# Sending on


def transfer(engine: Engine, body: Body, now_ms: int) -> None:
    """Straight to a colleague, a queue, a mailbox, a number of ours, or an outside number."""
    contact = _may(engine, body, "transfer")
    target, words = target_of(engine, contact, str(body["to"]))
    send_on(engine, contact, target, words, "transferred", now_ms)


def send_on(engine: Engine, contact: Live, target: str, words: str, why: str, now_ms: int) -> None:
    """The agent's part ends, and the contact goes on its way."""
    agent, home = contact.agent, contact.home
    flow = contact.script.machine.flow
    back = f"queue:{home}" if home in engine.config.queues else ""
    engine.emit(Kind.TRANSFERRED, now_ms, contact=contact.id, agent=agent, to=target, words=words)
    engine.carry_out(engine.router.apply(e.EndContact(agent, contact.id, why), now_ms), now_ms)
    group = engine.config.groups.get(target.removeprefix("group:"))
    language = group.language if group else flow.language
    way = onward.onward(target, back, flow.channel, language)
    script = engine.config.loose(way, f"Sent on to {words}")
    go_on(engine, contact, script, now_ms)


def target_of(engine: Engine, contact: Live, asked: str) -> tuple[str, str]:
    """Whom an agent means, as a reference or a number, and their name.

    Raises:
        EventRefused: nobody, or the agent themself.
    """
    asked = asked.strip()
    reference = asked if ":" in asked else _dialled(engine, asked)
    kind, _, identity = reference.partition(":")
    config = engine.config
    names: dict[str, Callable[[], str | None]] = {
        "agent": lambda: config.agents[identity].name if identity in config.agents else None,
        "queue": lambda: config.queues[identity].name if identity in config.queues else None,
        "group": lambda: config.groups[identity].name if identity in config.groups else None,
        "mailbox": lambda: (
            config.mailboxes[identity].name if identity in config.mailboxes else None
        ),
        "flow": lambda: config.scripts[identity].flow_name if identity in config.scripts else None,
    }
    if kind not in names:
        return reference, national(reference)
    name = names[kind]()
    if name is None:
        raise EventRefused("no-such-target", "There is no such person or queue (any more).")
    if reference == f"agent:{contact.agent}":
        raise EventRefused("yourself", "This is you.")
    return reference, name


def _dialled(engine: Engine, digits: str) -> str:
    found = engine.config.dial(digits)
    if found.kind == "found":
        return found.target
    try:
        return read(digits)
    except NotANumber:
        message = f"“{digits[:40]}” is no extension, and no number that can be rung."
        raise EventRefused("no-such-target", message) from None


# Colleagues


def consult(engine: Engine, body: Body, now_ms: int) -> None:
    """Put the caller on hold and ask somebody."""
    contact = _may(engine, body, "consult")
    target, words = target_of(engine, contact, str(body["to"]))
    _ask(engine, contact, target, words, "consult", now_ms)


def help_call(engine: Engine, body: Body, now_ms: int) -> None:
    """Call whom the agent's rules name for help, or send the caller straight there."""
    contact = _may(engine, body, "help")
    desk = engine.config.desk_of(contact.agent)
    target, words = target_of(engine, contact, desk.help_to)
    if desk.help_how == "straight" or contact.text:
        send_on(engine, contact, target, words, "transferred", now_ms)
    else:
        _ask(engine, contact, target, words, "help", now_ms)


def emergency(engine: Engine, body: Body, now_ms: int) -> None:
    """The floor is told, the call recorded, and whoever is named rung in, as the rules say."""
    contact = _may(engine, body, "emergency")
    desk = engine.config.desk_of(contact.agent)
    target, words = "", ""
    if desk.emergency == "joins" and desk.emergency_to and not contact.talk.side:
        # Whoever is named may be gone by now: the floor is told all the same.
        with suppress(EventRefused):
            target, words = target_of(engine, contact, desk.emergency_to)
    engine.emit(Kind.EMERGENCY, now_ms, contact=contact.id, agent=contact.agent, words=words)
    if desk.emergency_recorded and not (contact.talk.recording or contact.talk.notice):
        _record(engine, contact, now_ms, by="emergency")
    if target:
        _ask(engine, contact, target, words, "emergency", now_ms)


def _ask(engine: Engine, contact: Live, target: str, words: str, purpose: str, now_ms: int) -> None:
    """Ring somebody beside the caller, who hears music unless it is an emergency."""
    script = engine.config.loose(onward.aside(target), f"{purpose.title()}: {words}")
    side = new_contact(engine, contact, script, now_ms)
    side.aside = Aside(contact.id, contact.agent, purpose)
    talk = contact.talk
    if purpose != "emergency" and not talk.held:
        talk = talk._replace(held=True)
        _told(engine, contact, talk, Kind.HELD, now_ms, on=True)
    talk = talk._replace(side=side.id, purpose=purpose, joined=False)
    _told(engine, contact, talk, Kind.CONSULTS, now_ms, side=side.id, words=words, purpose=purpose)
    engine.begin(side, now_ms)


def new_contact(engine: Engine, like: Live, script: Script, now_ms: int) -> Live:
    """A contact that an agent begins about another; `Engine.begin` runs it."""
    values = {**like.values, **like.state.values}
    return Live(
        str(uuid.uuid4()), like.number, like.caller, like.trial, script, runner.arriving(now_ms),
        now_ms, values,
    )  # fmt: skip


def side_answered(engine: Engine, side: Live, now_ms: int) -> None:
    """Whoever was asked has answered; in an emergency they hear everything at once."""
    contact = engine.contacts.get(side.aside.of) if side.aside else None
    if contact is None or side.state.phase not in ("with_person", "outside"):
        return
    if contact.talk.purpose == "emergency":
        _join(engine, contact, now_ms)
    engine.dirty.add(f"desk.{contact.agent}")


def join(engine: Engine, body: Body, now_ms: int) -> None:
    """All three speak with each other."""
    _join(engine, _may(engine, body, "join"), now_ms)


def _join(engine: Engine, contact: Live, now_ms: int) -> None:
    if contact.talk.held:
        talk = contact.talk._replace(held=False)
        _told(engine, contact, talk, Kind.HELD, now_ms, on=False)
    words = _side_words(engine, contact)
    _told(engine, contact, contact.talk._replace(joined=True), Kind.JOINED, now_ms, words=words)


def put_through(engine: Engine, body: Body, now_ms: int) -> None:
    """The caller goes on with whoever was asked; the agent's own part is over."""
    _put_through(engine, _may(engine, body, "put_through"), now_ms)


def _put_through(engine: Engine, contact: Live, now_ms: int) -> None:
    side, giver = engine.contacts[contact.talk.side], contact.agent
    words = _side_words(engine, contact)
    talk = contact.talk._replace(side="")
    _told(engine, contact, talk, Kind.TRANSFERRED, now_ms, to=side.id, words=words)
    if side.state.phase == "with_person":
        taken = engine.router.apply(e.TakeOver(contact.id, side.id), now_ms)
        engine.carry_out(taken, now_ms)
    else:
        ended = engine.router.apply(e.EndContact(giver, contact.id, "transferred"), now_ms)
        engine.carry_out(ended, now_ms)
        values = {**contact.values, **contact.state.values}
        contact.script, contact.state = side.script, side.state._replace(values=values)
        went_on(engine, contact, now_ms)
        redial(engine, contact, now_ms)
    _finish(engine, side, "joined", now_ms)


def ends_by_putting_through(engine: Engine, contact: Live, now_ms: int) -> bool:
    """An agent who leaves a talk of three leaves the others to each other.

    Raises:
        EventRefused: they are still asking somebody.
    """
    refuse("end", contact.talk, facts(engine, contact))
    if contact.talk.joined:
        _put_through(engine, contact, now_ms)
        return True
    return False


def end_side(engine: Engine, body: Body, now_ms: int) -> None:
    """Let go of whoever was asked, and go back to the caller."""
    contact = _may(engine, body, "end_side")
    side = engine.contacts.get(contact.talk.side)
    if side is not None:
        engine.hang_up(side, now_ms)
    if contact.talk.held:
        talk = contact.talk._replace(held=False)
        _told(engine, contact, talk, Kind.HELD, now_ms, on=False)


def _side_words(engine: Engine, contact: Live) -> str:
    """Who is at the other end of what an agent asks."""
    side = engine.contacts.get(contact.talk.side)
    if side is None:
        return ""
    known = engine.config.agents.get(side.agent)
    return known.name if known else side.script.flow_name.partition(": ")[2]


def _finish(engine: Engine, contact: Live, ending: str, now_ms: int) -> None:
    contact.state = contact.state._replace(phase="ended", ending="person", due_ms=None)
    closed(engine, contact)
    engine.emit(Kind.ENDED, now_ms, contact=contact.id, step=contact.state.step, ending=ending)


# Endings


def leg_ended(engine: Engine, contact: Live, by: str, now_ms: int) -> None:
    """An agent's part of a contact is over: it goes on elsewhere, is asked about, or ends."""
    if by not in GOES_ON:
        records_no_more(engine, contact, now_ms, "end")
    contact.let_go(by)
    if by in GOES_ON:
        return
    survey = _survey(engine, contact) if by == "agent" else None
    if survey is not None:
        go_on(engine, contact, survey, now_ms)
    else:
        engine.feed(contact, runner.PersonDone(), now_ms)


def _survey(engine: Engine, contact: Live) -> Script | None:
    """The survey that the contact's queue hands its callers to; a draft on trial has none."""
    queue = engine.config.queues.get(contact.home)
    script = engine.config.scripts.get(queue.survey) if queue is not None else None
    if script is None or contact.aside is not None or contact.back is not None:
        return None
    return script if script.machine.flow.channel == contact.script.machine.flow.channel else None


def over(engine: Engine, contact: Live, now_ms: int) -> None:
    """A contact has ended: its colleague's call with it, or the caller's is told."""
    side = engine.contacts.get(contact.talk.side)
    if side is not None:
        engine.hang_up(side, now_ms)
    of = engine.contacts.get(contact.aside.of) if contact.aside else None
    if of is not None and of.talk.side == contact.id:
        words = contact.script.flow_name.partition(": ")[2]
        talk = of.talk._replace(side="", purpose="", joined=False)
        _told(engine, of, talk, Kind.SIDE_OVER, now_ms, words=words)


# Keys, and going on in writing


def press_key(engine: Engine, body: Body, now_ms: int) -> None:
    """A key that the other end hears, of a contact or of whoever is asked."""
    contact = held_by(engine, body)
    key = str(body.get("key", ""))
    if len(key) != 1 or key not in KEYS:
        raise EventRefused("no-such-key", "A telephone has no such key.")
    outside = _outside_of(engine, contact)
    if outside:
        engine.outside.press(outside, key)
    engine.emit(
        Kind.KEYED, now_ms, contact=contact.id, agent=contact.agent, step=contact.state.step,
        key=key, by="agent",
    )  # fmt: skip


def _outside_of(engine: Engine, contact: Live) -> str:
    """The outside number that hears what an agent presses; empty where it is somebody else."""
    side = engine.contacts.get(contact.talk.side)
    if side is None:
        return contact.caller if contact.back is not None else ""
    step = side.script.machine.steps.get(side.state.step)
    return str(getattr(step, "number", "") or "")


def by_text(engine: Engine, body: Body, now_ms: int) -> None:
    """Write to the caller from the queue's text number; the call goes on until it ends."""
    contact = _may(engine, body, "by_text")
    queue = engine.config.queues[contact.home]
    flow = onward.onward(f"queue:{contact.home}", "", "text", contact.script.machine.flow.language)
    thread = new_contact(engine, contact, engine.config.loose(flow, "Text thread"), now_ms)
    thread.number, thread.begun = queue.text_number, contact.agent
    thread.queue = thread.home = contact.home
    thread.label, thread.entered_ms = contact.label, now_ms
    thread.taken_by(contact.agent)
    engine.contacts[thread.id] = thread
    thread.state, _ = thread.script.machine.start(now_ms, thread.values)
    engine.emit_arrival(thread, now_ms)
    begun = engine.router.apply(e.Begin(contact.agent, thread.id, contact.home), now_ms)
    engine.carry_out(begun, now_ms)
    engine.emit(
        Kind.ANSWERED, now_ms, contact=thread.id, agent=contact.agent, queue=contact.home,
        entered_ms=now_ms, begun=True,
    )  # fmt: skip
    engine.feed(thread, runner.Taken(), now_ms)
    engine.emit(
        Kind.TEXTED, now_ms, contact=thread.id, agent=contact.agent, by="agent",
        words=str(body["text"]),
    )  # fmt: skip


DEEDS: dict[str, Callable[[Engine, Body, int], None]] = {
    "hold": hold,
    "resume": resume,
    "transfer": transfer,
    "consult": consult,
    "help": help_call,
    "emergency": emergency,
    "join": join,
    "put_through": put_through,
    "end_side": end_side,
    "record": record,
    "stop_recording": stop_recording,
    "key": press_key,
    "by_text": by_text,
}
