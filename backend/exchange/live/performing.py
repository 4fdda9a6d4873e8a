"""Carrying out what the runner wants for a contact: each effect becomes events and deeds."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from agents.services import LANGUAGE
from callcore.events import Kind
from callcore.flow import describe, runner
from callcore.flow.blocks import plain, way_out
from callcore.flow.definition import SpokenText
from callcore.flow.state import WITHIN
from callcore.flow.why import why
from callcore.routing import events as e
from callcore.talk.onward import onward
from exchange.live import asking, callbacks
from exchange.live.configuration import Script
from exchange.live.contact import Live
from exchange.live.music import music_of
from exchange.stand_ins.fax import tone_after_ms
from numbers_app.plan import national

if TYPE_CHECKING:
    from exchange.live.engine import Engine

#: How many contacts that are over can still be looked at, newest last.
KEPT_OVER = 500


def perform(engine: Engine, contact: Live, effects: tuple[runner.Effect, ...], now_ms: int) -> None:
    """Carry out effects in their order, and look after what is due next."""
    engine.timers.set(contact.state.due_ms, "contact", contact.id)
    state = contact.state
    for effect in effects:
        if contact.state is not state:
            # An effect led on at once (a queue that is gone): the rest is overtaken.
            return
        _EFFECTS[type(effect)](engine, contact, effect, now_ms)


def _listen(engine: Engine, contact: Live, listen: runner.Listen, now_ms: int) -> None:
    contact.playing = None
    engine.emit(
        Kind.LISTENS, now_ms, contact=contact.id, step=listen.step,
        until_ms=listen.until_ms, run=runner.to_data(contact.state),
    )  # fmt: skip


def _moved(engine: Engine, contact: Live, moved: runner.Moved, now_ms: int) -> None:
    script, move = _where(engine, contact, moved)
    words = plain(why(move, script.machine.flow))
    step, exit_name = moved.step, moved.exit
    if script is contact.script and script.written is not None:
        step, exit_name = way_out(script.written, moved.step, moved.exit, moved.to)
    name = script.step_words(move.to or "")
    engine.emit(
        Kind.MOVED, now_ms, contact=contact.id, step=step, exit=exit_name, to=moved.to,
        why=moved.why, words=words, title=name.title if name else "",
        sentence=name.sentence if name else "", run=runner.to_data(contact.state),
        **({"plan": script.flow_id} if script is not contact.script else {}),
    )  # fmt: skip


def _where(engine: Engine, contact: Live, moved: runner.Moved) -> tuple[Script, runner.Moved]:
    """A move with the script that it happened in: the contact's, or its waiting plan."""
    _, within, step = moved.step.partition(WITHIN)
    plan = engine.plans.get(contact.state.plan or contact.plan) if within else None
    if plan is None:
        return contact.script, moved
    to = moved.to.partition(WITHIN)[2] if moved.to else None
    return plan, moved._replace(step=step, to=to)


def _play(engine: Engine, contact: Live, play: runner.Play, now_ms: int) -> None:
    if contact.text:
        engine.emit(
            Kind.HEARD, now_ms, contact=contact.id, step=play.step, role=play.role, take=None,
            length_ms=0, words=contact.script.world.words(play.prompt),
            run=runner.to_data(contact.state),
        )  # fmt: skip
        return
    take = contact.script.takes.get(play.prompt)
    plan = engine.plans.get(contact.state.plan)
    if take is None and plan is not None:
        take = plan.takes.get(play.prompt)
    words = describe.prompt_words(play.prompt, contact.script.world)
    contact.playing = {
        "take": take, "since_ms": now_ms, "length_ms": play.length_ms, "step": play.step,
        "spoken": _unspoken(play.prompt) if take is None else None,
    }  # fmt: skip
    engine.emit(
        Kind.HEARD, now_ms, contact=contact.id, step=play.step, role=play.role, take=take,
        length_ms=play.length_ms, words=words, spoken=contact.playing["spoken"],
        run=runner.to_data(contact.state),
    )  # fmt: skip


def _join(engine: Engine, contact: Live, join: runner.JoinQueue, now_ms: int) -> None:
    contact.playing = None
    contact.queue = contact.home = join.queue.partition(":")[2]
    contact.entered_ms = now_ms
    contact.plan = contact.state.plan
    engine.emit(
        Kind.QUEUED, now_ms, contact=contact.id, queue=contact.queue, step=join.step,
        staff=engine.router.at_work_for(contact.queue, contact.asks),
        run=runner.to_data(contact.state),
    )  # fmt: skip
    refused = asking.refuses(engine, contact.queue, contact.text, now_ms)
    if refused:
        left = e.LeftQueue(contact.id, contact.queue, now_ms, refused)
        engine.carry_out([left], now_ms)
        return
    joined = engine.joining(contact, now_ms)
    engine.carry_out(engine.router.apply(joined, now_ms), now_ms)
    engine.watch_wait(contact)


def _leave_queue(engine: Engine, contact: Live, left: runner.LeaveQueue, now_ms: int) -> None:
    if contact.id in engine.router.contacts:
        engine.carry_out(engine.router.apply(e.Leave(contact.id, left.why), now_ms), now_ms)


def _finish(engine: Engine, contact: Live, finish: runner.Finish, now_ms: int) -> None:
    records_no_more(engine, contact, now_ms, "end")
    closed(engine, contact)
    ending = "person" if contact.served and not contact.sent_on else finish.ending
    engine.emit(Kind.ENDED, now_ms, contact=contact.id, step=finish.step, ending=ending)
    engine.is_over(contact, now_ms)


def records_no_more(engine: Engine, contact: Live, now_ms: int, by: str) -> None:
    """A recording, or what leads to one, is over."""
    recorded = contact.talk.recording
    contact.talk = contact.talk._replace(recording=False, notice=False)
    if recorded:
        engine.emit(
            Kind.RECORDS_TALK, now_ms, contact=contact.id, agent=contact.agent, on=False,
            told="nothing", by=by, talk=list(contact.talk),
        )  # fmt: skip


def closed(engine: Engine, contact: Live) -> None:
    """A contact is under way no more; it can still be looked at for a while."""
    contact.playing = None
    engine.contacts.pop(contact.id, None)
    engine.over[contact.id] = contact
    while len(engine.over) > KEPT_OVER:
        engine.over.pop(next(iter(engine.over)))


def _dial(engine: Engine, contact: Live, dial: runner.Dial, now_ms: int) -> None:
    contact.playing = None
    contact.rings += 1
    engine.emit(
        Kind.RINGS_OUT, now_ms, contact=contact.id, step=dial.step, number=dial.number,
        until_ms=dial.until_ms, words=national(dial.number), run=runner.to_data(contact.state),
    )  # fmt: skip
    prospect = engine.outside.ring(dial.number)
    if prospect is not None:
        due_ms = now_ms + prospect.after_ms
        engine.timers.set(due_ms, prospect.result, f"{contact.id} {contact.rings}")
        if prospect.result == "answered":
            done_ms = due_ms + prospect.talk_ms
            engine.timers.set(done_ms, "done", f"{contact.id} {contact.rings}")


def _record(engine: Engine, contact: Live, record: runner.Record, now_ms: int) -> None:
    contact.playing = None
    mailbox = engine.config.mailboxes.get(record.mailbox.partition(":")[2])
    engine.emit(
        Kind.RECORDS, now_ms, contact=contact.id, step=record.step, mailbox=record.mailbox,
        words=mailbox.name if mailbox else "", until_ms=record.until_ms,
        run=runner.to_data(contact.state),
    )  # fmt: skip


def _message_left(engine: Engine, contact: Live, left: runner.MessageLeft, now_ms: int) -> None:
    mailbox = left.mailbox.partition(":")[2]
    known = engine.config.mailboxes.get(mailbox)
    if known is not None:
        engine.config.mailboxes[mailbox] = known._replace(new=known.new + 1)
    engine.emit(
        Kind.MESSAGE_LEFT, now_ms, contact=contact.id, step=left.step, mailbox=mailbox,
        words=known.name if known else "", length_ms=left.length_ms,
    )  # fmt: skip


def _hand_over(engine: Engine, contact: Live, over: runner.HandOver, now_ms: int) -> None:
    kind, _, identity = over.flow.partition(":")
    script = engine.config.scripts.get(identity)
    if kind in ("queue", "mailbox"):
        flow = contact.script.machine.flow
        script = engine.config.loose(
            onward(over.flow, "", flow.channel, flow.language), "What the queue says then"
        )
    if script is None:
        engine.feed(contact, runner.NowhereToGo(), now_ms)
        return
    go_on(engine, contact, script, now_ms)


def go_on(engine: Engine, contact: Live, script: Script, now_ms: int) -> None:
    """Let a contact go on in another script, with its values."""
    contact.script = script
    engine.start(
        contact, now_ms, contact.state.flows + 1, runner.rushed(contact.state, now_ms)
    )  # fmt: skip


def went_on(engine: Engine, contact: Live, now_ms: int) -> None:
    """Write down in which script a contact is now."""
    script = contact.script
    engine.emit(
        Kind.WENT_ON, now_ms, contact=contact.id, flow=script.flow_id,
        flow_name=script.flow_name, version=script.number, version_id=script.version_id,
        words=script.flow_name, blocks=script.blocks, definition=script.loose_definition(),
        run=runner.to_data(contact.state),
    )  # fmt: skip


def _ring_person(engine: Engine, contact: Live, ring: runner.RingPerson, now_ms: int) -> None:
    contact.playing = None
    agents = tuple(person.partition(":")[2] for person in ring.people)
    names = [engine.config.agents[agent].name for agent in agents if agent in engine.config.agents]
    engine.emit(
        Kind.RINGS_PERSON, now_ms, contact=contact.id, step=ring.step, people=list(ring.people),
        words=_ring_words(engine, ring, names), until_ms=ring.until_ms,
        run=runner.to_data(contact.state), **({"group": ring.group} if ring.group else {}),
    )  # fmt: skip
    decisions = engine.router.ring_directly(
        contact.id, agents, ring.until_ms - now_ms, now_ms, text=contact.text,
        inner=contact.aside is not None,
    )  # fmt: skip
    if decisions is None:
        here = any(engine.router.signed_in(agent) for agent in agents)
        engine.feed(contact, runner.Rung("busy" if here else "away"), now_ms)
        return
    contact.queue, contact.entered_ms = engine.router.contacts[contact.id].queue, now_ms
    engine.carry_out(decisions, now_ms)


def _ring_words(engine: Engine, ring: runner.RingPerson, names: list[str]) -> str:
    group = engine.config.groups.get(ring.group.partition(":")[2])
    return f"{group.name} ({', '.join(names)})" if group else ", ".join(names)


def _stop_ringing(engine: Engine, contact: Live, stop: runner.StopRinging, now_ms: int) -> None:
    if contact.id in engine.router.contacts:
        engine.carry_out(engine.router.apply(e.Leave(contact.id, "waited_out"), now_ms), now_ms)


def _music(engine: Engine, contact: Live, music: runner.PlayMusic, now_ms: int) -> None:
    contact.playing = None
    sound = engine.config.world.sounds.get(music_of(engine, contact))
    engine.emit(
        Kind.MUSIC, now_ms, contact=contact.id, step=music.step, until_ms=music.until_ms,
        words=sound.name if sound else "", run=runner.to_data(contact.state),
    )  # fmt: skip


def _hear_fax(engine: Engine, contact: Live, hear: runner.HearFax, now_ms: int) -> None:
    _listen(engine, contact, runner.Listen(hear.step, hear.until_ms), now_ms)
    after_ms = tone_after_ms(contact.caller) if engine.faxes else None
    if after_ms is not None:
        engine.timers.set(now_ms + after_ms, "fax", contact.id)


def _look_up(engine: Engine, contact: Live, asked: runner.LookUp, now_ms: int) -> None:
    contact.playing = None
    table = asked.table.partition(":")[2]
    engine.asked.append((contact.id, table, asked.key))
    engine.emit(
        Kind.LOOKS_UP, now_ms, contact=contact.id, step=asked.step, table=table, key=asked.key,
        run=runner.to_data(contact.state),
    )  # fmt: skip


def _labelled(engine: Engine, contact: Live, labelled: runner.Labelled, now_ms: int) -> None:
    contact.label = labelled.label
    if labelled.priority is not None:
        contact.priority = labelled.priority
    asks = dict(contact.asks)
    asks |= {skill.partition(":")[2]: least for skill, least in labelled.asks}
    if labelled.language is not None:
        asks = {skill: least for skill, least in asks.items() if not skill.startswith(LANGUAGE)}
        asks[LANGUAGE + labelled.language] = 1
    contact.asks = tuple(asks.items())
    engine.emit(
        Kind.LABELLED, now_ms, contact=contact.id, step=labelled.step, label=contact.label,
        priority=contact.priority, asks=[list(asked) for asked in contact.asks],
    )  # fmt: skip


def outside_due(engine: Engine, result: str, identity: str, now_ms: int) -> None:
    """The outside line says something about a ringing; an old one says nothing any more."""
    contact_id, _, ring = identity.partition(" ")
    contact = engine.contacts.get(contact_id)
    if contact is None or str(contact.rings) != ring:
        return
    if contact.back is not None:
        callbacks.rung(engine, contact, result, now_ms)
        return
    if contact.state.phase == ("outside" if result == "done" else "ringing"):
        engine.emit(
            Kind.RANG_OUT, now_ms, contact=contact.id, step=contact.state.step, result=result
        )
        engine.feed(contact, runner.Rung(result), now_ms)
        engine.is_answered(contact, now_ms)


def redial(engine: Engine, contact: Live, now_ms: int) -> None:
    """The outside line forgot its calls: ring again, or let the talk go on as long as talks do."""
    step = contact.script.machine.steps.get(contact.state.step)
    if contact.state.phase == "ringing" and not (
        contact.state.rounds or getattr(step, "number", "")
    ):
        # Written before a list of people was kept: it goes on as if nobody had answered.
        engine.feed(contact, runner.Rung("no_answer"), now_ms)
        return
    if contact.state.phase == "ringing" and contact.state.rounds:
        due_ms, people = contact.state.due_ms or now_ms, contact.state.rounds[0]
        _ring_person(engine, contact, runner.RingPerson(contact.state.step, people, due_ms), now_ms)
        return
    number = getattr(step, "number", "")
    prospect = engine.outside.ring(number)
    if prospect is None:
        return
    contact.rings += 1
    identity = f"{contact.id} {contact.rings}"
    if contact.state.phase == "outside":
        engine.timers.set(now_ms + prospect.talk_ms, "done", identity)
        return
    engine.timers.set(now_ms + prospect.after_ms, prospect.result, identity)
    if prospect.result == "answered":
        engine.timers.set(now_ms + prospect.after_ms + prospect.talk_ms, "done", identity)


def _unspoken(prompt: runner.AnyPrompt) -> dict[str, str] | None:
    """Words that were never spoken: whoever listens has them spoken then."""
    if isinstance(prompt, SpokenText) and prompt.text:
        return {"language": prompt.language, "text": prompt.text}
    return None


_EFFECTS: dict[type, Callable[[Engine, Live, Any, int], None]] = {
    runner.Moved: _moved,
    runner.Play: _play,
    runner.Listen: _listen,
    runner.JoinQueue: _join,
    runner.LeaveQueue: _leave_queue,
    runner.BookCallback: callbacks.book,
    runner.Dial: _dial,
    runner.RingPerson: _ring_person,
    runner.StopRinging: _stop_ringing,
    runner.PlayMusic: _music,
    runner.HearFax: _hear_fax,
    runner.LookUp: _look_up,
    runner.Labelled: _labelled,
    runner.Record: _record,
    runner.MessageLeft: _message_left,
    runner.HandOver: _hand_over,
    runner.Finish: _finish,
}
