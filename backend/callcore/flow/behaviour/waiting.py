"""Waiting in a queue: the waiting plan, what is told of the wait, and the offer to call back.

A plan runs within the contact's own state (`inner`): its effects are those of the contact, its
stops named after the queue's stop (`wait~music`). It ends at once when somebody answers.
"""

from __future__ import annotations

from callcore.flow.inputs import resolved
from callcore.flow.machine import Machine
from callcore.flow.parts import SpokenText
from callcore.flow.state import (
    QUEUE_WAYS,
    WITHIN,
    BookCallback,
    Effect,
    Event,
    Finish,
    HandOver,
    HungUp,
    JoinQueue,
    LeaveQueue,
    Listen,
    Moved,
    OtherPlan,
    Outcome,
    Play,
    Role,
    RunState,
    Taken,
    WaitedOut,
)
from callcore.flow.steps import Message, OfferCallback, TellWait, WaitInQueue
from callcore.flow.telling import tell

Before = tuple[Effect, ...]
#: How often a caller may type a number that is none.
_MOST_NUMBERS = 3
_OTHER = {
    "en": "Press hash to be called on this number. Or type another number, then hash.",
    "cy": "Pwyswch stwnsh i ni ffonio'r rhif hwn. Neu teipiwch rif arall, yna stwnsh.",
}


# The queue


def begin_queue(m: Machine, state: RunState, step: WaitInQueue, before: Before, now_ms: int) -> Outcome:
    """Join the queue."""
    queue = resolved(step.queue, state.values)
    if queue is None:
        return m.fail(state, "no_queue", now_ms, *before)
    return join(m, state, queue, step.plan, before, now_ms)


def join(m: Machine, state: RunState, queue: str, plan: str | None, before: Before, now_ms: int) -> Outcome:
    """Join a queue, and begin its waiting plan."""
    before = (*before, JoinQueue(state.step, queue))
    # A text can wait without being entertained.
    key = m.environment.plan(queue, plan) if m.flow.channel == "voice" else ""
    state = state._replace(
        phase="queued", entered_ms=now_ms, due_ms=None, role="", queue=queue, plan=key, inner=None
    )
    return _planned(m, state, key, before, now_ms)


def _planned(m: Machine, state: RunState, key: str, before: Before, now_ms: int) -> Outcome:
    """Begin a waiting plan, if there is one."""
    machine = m.environment.plan_machine(key) if key else None
    if machine is None:
        return state, before
    inner, effects = machine.start(now_ms, state.values, queue=state.queue)
    return _within(m, machine, state._replace(plan=key), inner, before, effects)


def queued(m: Machine, state: RunState, event: Event, now_ms: int) -> Outcome:
    """Taken by a person, let go by the queue, or going on in the waiting plan."""
    if isinstance(event, Taken):
        return taken(state)
    if isinstance(event, OtherPlan):
        return _planned(m, state, event.key, (), now_ms)
    if isinstance(event, WaitedOut):
        exit_name, to, then = _way_out(m, state, event.why)
        state = state._replace(began_ms=state.began_ms + now_ms - state.entered_ms, queue="")
        if then:
            moved = Moved(state.step, exit_name, None, event.why, "")
            return state._replace(phase="going", due_ms=None, plan="", inner=None), (
                moved,
                HandOver(state.step, then),
            )
        return m.enter(state, state.step, exit_name, to, event.why, "", now_ms)
    return in_plan(m, state, event, now_ms)


def _way_out(m: Machine, state: RunState, why: str) -> tuple[str, str | None, str]:
    """The exit that a queue's letting go takes, the step it leads to, or where the queue sends
    them: the flow's own word first, and where nothing is said of a way, as after the longest
    wait."""
    step = m.steps.get(state.step)
    if not isinstance(step, WaitInQueue):
        to = getattr(step, "no_answer", None)
        return "no_answer", to, "" if to else m.environment.overflow(state.queue, "waited")
    way = QUEUE_WAYS.get(why, "waited")
    for name in dict.fromkeys((way, "waited")):
        to = getattr(step, name)
        then = "" if to else m.environment.overflow(state.queue, name)
        if to or then:
            return name, to, then
    return "waited", None, ""


def taken(state: RunState) -> Outcome:
    """A person answered; whatever was going on ends."""
    moved = Moved(state.step, "answered", None, "answered", "")
    return state._replace(phase="with_person", due_ms=None, plan="", inner=None), (moved,)


def in_plan(m: Machine, state: RunState, event: Event, now_ms: int) -> Outcome:
    """What happens in the waiting plan, also while it leads out of the queue."""
    machine = m.environment.plan_machine(state.plan) if state.inner is not None else None
    if machine is None or state.inner is None:
        if isinstance(event, HungUp):
            return m.finish(state, "hung_up", ())
        return state._replace(inner=None, due_ms=None), ()
    inner, effects = machine.resume(state.inner, event, now_ms)
    return _within(m, machine, state, inner, (), effects)


def _within(
    m: Machine, machine: Machine, state: RunState, inner: RunState, before: Before, effects: Before
) -> Outcome:
    """The outer state and effects after the plan has moved."""
    named = [_named(effect, state.step) for effect in effects if not isinstance(effect, Finish)]
    if state.phase == "queued":
        if any(isinstance(effect, BookCallback) for effect in named):
            state = state._replace(phase="leaving")
        elif inner.phase != "ended" and isinstance(machine.steps.get(inner.step), Message):
            state = state._replace(phase="leaving")
            named.insert(0, LeaveQueue(state.step, "message"))
    all_effects = (*before, *named)
    if inner.phase != "ended":
        return state._replace(inner=inner, due_ms=inner.due_ms), all_effects
    state = state._replace(inner=None, due_ms=None)
    if state.phase == "leaving":
        return m.finish(state, inner.ending or "ended", all_effects)
    return state, all_effects


def _named(effect: Effect, stop: str) -> Effect:
    """An effect of the plan under the name of the queue's stop."""
    if isinstance(effect, Moved) and effect.to is not None:
        effect = effect._replace(to=f"{stop}{WITHIN}{effect.to}")
    return effect._replace(step=f"{stop}{WITHIN}{effect.step}")


# Telling the wait


def begin_tell(m: Machine, state: RunState, step: TellWait, before: Before, now_ms: int) -> Outcome:
    """Say what is known, or go on at once."""
    queue = resolved(step.queue, state.values) or state.queue
    place = m.environment.place(queue) if queue else None
    if place is None:
        return m.enter(state, step.id, "next", step.next, "not_told", "", now_ms, before)
    text, told = tell(place, state.told, m.flow.language, position=step.position, wait=step.wait)
    if not text:
        return m.enter(state, step.id, "next", step.next, "not_told", "", now_ms, before)
    prompt = SpokenText(text=text, language=m.flow.language)
    state, effects = m.play(state._replace(told=told), step.id, "prompt", prompt, now_ms, before)
    told_s = told[1] if step.wait and place.expected_s is not None else None
    return state, tuple(e._replace(told_s=told_s) if isinstance(e, Play) else e for e in effects)


# Offering to call back


def begin_callback(m: Machine, state: RunState, step: OfferCallback, before: Before, now_ms: int) -> Outcome:
    """Offer it."""
    if not (resolved(step.queue, state.values) or state.queue):
        return m.enter(state, step.id, "failed", step.failed, "no_queue", "", now_ms, before)
    return m.play(state, step.id, "prompt", step.prompt, now_ms, before)


def callback_key(m: Machine, state: RunState, step: OfferCallback, key: str, now_ms: int) -> Outcome:
    """1 takes the offer; then figures of another number, and hash."""
    if state.role == "other_number":
        if key in "#*":
            return _book(m, state, step, now_ms)
        return _listen(m, state._replace(typed=state.typed + key), step, now_ms)
    if key != "1":
        return m.enter(state, step.id, "declined", step.declined, "declined", key, now_ms)
    if not step.other_number:
        return _book(m, state, step, now_ms)
    return _ask_number(m, state, step, now_ms)


def callback_due(m: Machine, state: RunState, step: OfferCallback, now_ms: int) -> Outcome:
    """The prompt is over, or nothing was pressed."""
    if state.phase != "listening":
        return _listen(m, state, step, now_ms)
    if state.role == "other_number":
        return _book(m, state, step, now_ms)
    return m.enter(state, step.id, "declined", step.declined, "declined", "", now_ms)


def _listen(m: Machine, state: RunState, step: OfferCallback, now_ms: int) -> Outcome:
    until_ms = now_ms + step.wait_s * 1000
    role: Role = "other_number" if state.role == "other_number" else ""
    return m.at(state, "listening", role, until_ms), (Listen(step.id, until_ms),)


def _ask_number(
    m: Machine, state: RunState, step: OfferCallback, now_ms: int, before: Before = ()
) -> Outcome:
    prompt = SpokenText(text=_OTHER[m.flow.language], language=m.flow.language)
    state = state._replace(typed="")
    return m.play(state, step.id, "other_number", prompt, now_ms, before)


def _book(m: Machine, state: RunState, step: OfferCallback, now_ms: int) -> Outcome:
    """Keep the place, if there is a number that can be rung."""
    number = m.environment.outside(state.typed or str(state.values.get("caller") or ""))
    queue = resolved(step.queue, state.values) or state.queue
    if number is None:
        tries = state.tries + 1
        if not step.other_number or tries >= _MOST_NUMBERS:
            return m.enter(state, step.id, "failed", step.failed, "no_such_number", "", now_ms)
        moved = Moved(step.id, "no_such_number", step.id, "no_such_number", state.typed)
        return _ask_number(m, state._replace(tries=tries), step, now_ms, (moved,))
    moved = Moved(step.id, "booked", None, "booked", number)
    booked = BookCallback(step.id, queue, number, step.attempts, step.retry_s * 1000)
    if step.thanks is None:
        return m.finish(state, "callback", (moved, booked))
    return m.play(state, step.id, "booked", step.thanks, now_ms, (moved, booked))
