"""Steps that hand the contact, or a question, to something else."""

from __future__ import annotations

from typing import Any

from callcore.flow.behaviour.decide import shown
from callcore.flow.behaviour.waiting import join, taken
from callcore.flow.inputs import resolved
from callcore.flow.machine import Machine
from callcore.flow.state import (
    Dial,
    Due,
    Effect,
    Event,
    HandOver,
    Looked,
    LookUp,
    MessageLeft,
    Moved,
    NowhereToGo,
    Outcome,
    PersonDone,
    Record,
    RingPerson,
    Rung,
    RunState,
    StopRinging,
    Taken,
)
from callcore.flow.steps import GoOn, Lookup, Message, Ring

#: A message shorter than this is a caller who hung up.
SHORTEST_MESSAGE_MS = 1_000
#: A look-up that has no answer by then has failed.
LOOK_UP_MS = 5_000

Before = tuple[Effect, ...]


# Queues and people


def with_person(m: Machine, state: RunState, event: Event, now_ms: int) -> Outcome:
    """Until the person ends it."""
    if isinstance(event, PersonDone):
        return m.finish(state, "person", ())
    return state, ()


def begin_ring(m: Machine, state: RunState, step: Ring, before: Before, now_ms: int) -> Outcome:
    """Ring the group, the first person, or the outside number."""
    if step.group:
        return ring_group(m, state, step, step.group, before, now_ms)
    if step.people:
        people = tuple(p for p in (resolved(who, state.values) for who in step.people) if p)
        if not people:
            # Whoever the looked-up row should name is not there.
            return m.enter(state, step.id, "failed", step.failed, "no_person", "", now_ms, before)
        rounds = (people,) if step.at_once else tuple((person,) for person in people)
        return _ring_people(m, state._replace(rounds=rounds), step.ring_s, now_ms, before)
    if not step.number:
        return m.enter(state, step.id, "failed", step.failed, "no_number", "", now_ms, before)
    state = m.at(state, "ringing", "", now_ms + step.ring_s * 1000)
    assert state.due_ms is not None
    return state, (*before, Dial(step.id, step.number, state.due_ms))


def ring_group(m: Machine, state: RunState, step: Any, group: str, before: Before, now_ms: int) -> Outcome:
    """Ring whom a group rings now, those first who come first."""
    reference = resolved(group, state.values)
    rule = m.environment.group(reference) if reference else None
    if reference is None or rule is None or not rule.rounds:
        exit_name = "failed" if isinstance(step, Ring) else "none"
        to = getattr(step, exit_name)
        return m.enter(state, step.id, exit_name, to, "no_group", "", now_ms, before)
    state = state._replace(typed=reference, rounds=rule.rounds)
    if rule.busy:
        return _not_reached(m, state._replace(rounds=()), "busy", now_ms, before)
    return _ring_people(m, state, rule.ring_s, now_ms, before, reference)


def _ring_people(
    m: Machine, state: RunState, ring_s: int, now_ms: int, before: Before = (), group: str = ""
) -> Outcome:
    state = m.at(state, "ringing", "", now_ms + ring_s * 1000)
    assert state.due_ms is not None
    return state, (*before, RingPerson(state.step, state.rounds[0], state.due_ms, group))


def ringing(m: Machine, state: RunState, event: Event, now_ms: int) -> Outcome:
    """Answered, busy, out of reach, or nobody in time."""
    step = m.steps[state.step]
    if isinstance(event, Taken):
        return taken(state)
    over = isinstance(event, Due) and state.due_ms is not None and now_ms >= state.due_ms
    if isinstance(step, Ring) and step.number and not state.rounds:
        return _outside_rung(m, state, step, event, over, now_ms)
    if over:
        return _not_reached(m, state, "no_answer", now_ms, (StopRinging(state.step),))
    if isinstance(event, Rung) and event.result in ("busy", "away", "failed", "no_answer"):
        return _not_reached(m, state, event.result, now_ms)
    return state, ()


def _outside_rung(m: Machine, state: RunState, step: Ring, event: Event, over: bool, now_ms: int) -> Outcome:
    if isinstance(event, Rung) and event.result == "answered":
        moved = Moved(step.id, "answered", None, "answered_outside", step.number)
        return state._replace(phase="outside", due_ms=None), (moved,)
    if isinstance(event, Rung) and event.result in ("busy", "failed"):
        to = step.busy if event.result == "busy" else step.failed
        return m.enter(state, step.id, event.result, to, event.result, "", now_ms)
    if over:
        seconds = str(step.ring_s)
        return m.enter(state, step.id, "no_answer", step.no_answer, "no_answer", seconds, now_ms)
    return state, ()


def _not_reached(m: Machine, state: RunState, why: str, now_ms: int, before: Before = ()) -> Outcome:
    """The next ones of a list, or the exit for it."""
    step: Any = m.steps[state.step]
    rule = m.environment.group(state.typed) if state.typed.startswith("group:") else None
    ring_s = rule.ring_s if rule else step.ring_s
    if len(state.rounds) > 1:
        state = state._replace(tries=state.tries + 1, rounds=state.rounds[1:])
        moved = Moved(step.id, why, step.id, why, str(ring_s))
        return _ring_people(m, state, ring_s, now_ms, (*before, moved))
    exit_name = "no_answer"
    if isinstance(step, Ring):
        exit_name = "busy" if why == "away" and step.away is None else why
    to = getattr(step, exit_name)
    if to is None and rule is not None and rule.mailbox:
        moved = Moved(state.step, exit_name, None, why, "")
        state = state._replace(phase="going", due_ms=None)
        return state, (*before, moved, HandOver(state.step, rule.mailbox))
    return m.enter(state, step.id, exit_name, to, why, str(ring_s), now_ms, before)


def outside(m: Machine, state: RunState, event: Event, now_ms: int) -> Outcome:
    """Until whoever answered hangs up."""
    if isinstance(event, Rung):
        return m.finish(state, "elsewhere", ())
    return state, ()


def put_through(m: Machine, state: RunState, step: Any, target: str, now_ms: int) -> Outcome:
    """To whatever an extension or a spelled name leads to: agent, queue, mailbox or flow."""
    kind = target.partition(":")[0]
    moved = Moved(step.id, "through", step.id, f"through_{kind}", state.typed)
    if kind == "queue":
        return join(m, state, target, None, (moved,), now_ms)
    if kind == "flow":
        return state._replace(phase="going", due_ms=None), (moved, HandOver(step.id, target))
    if kind == "mailbox":
        mailbox = m.environment.mailbox(target)
        state = state._replace(typed=target)
        if mailbox is None:
            return m.enter(state, step.id, "none", step.none, "no_mailbox", "", now_ms)
        if mailbox.greeting is None:
            return record(m, state, step, now_ms, (moved,))
        return m.play(state, step.id, "greeting", mailbox.greeting, now_ms, (moved,))
    if kind == "group":
        return ring_group(m, state, step, target, (moved,), now_ms)
    state = state._replace(typed=target, rounds=((target,),))
    return _ring_people(m, state, step.ring_s, now_ms, (moved,))


# Mailboxes


def _mailbox(state: RunState, step: Any) -> str | None:
    if isinstance(step, Message):
        return resolved(step.mailbox, state.values)
    return state.typed if state.typed.startswith("mailbox:") else None


def begin_message(m: Machine, state: RunState, step: Message, before: Before, now_ms: int) -> Outcome:
    """Greet, then record."""
    reference = _mailbox(state, step)
    mailbox = m.environment.mailbox(reference) if reference else None
    if mailbox is None:
        return m.enter(state, step.id, "failed", step.failed, "no_mailbox", "", now_ms, before)
    if mailbox.greeting is None:
        return record(m, state, step, now_ms, before)
    return m.play(state, step.id, "greeting", mailbox.greeting, now_ms, before)


def record(m: Machine, state: RunState, step: Any, now_ms: int, before: Before = ()) -> Outcome:
    """Begin the recording."""
    reference = _mailbox(state, step)
    mailbox = m.environment.mailbox(reference) if reference else None
    if reference is None or mailbox is None:
        exit_name = "failed" if isinstance(step, Message) else "none"
        to = getattr(step, exit_name)
        return m.enter(state, step.id, exit_name, to, "no_mailbox", "", now_ms, before)
    until_ms = now_ms + mailbox.longest_ms
    state = m.at(state._replace(entered_ms=now_ms), "recording", "", until_ms)
    assert state.due_ms is not None
    return state, (*before, Record(step.id, reference, state.due_ms))


def recorded(m: Machine, state: RunState, now_ms: int, *, gone: bool = False) -> Outcome:
    """The recording is over: by a key, the caller hanging up, or its time."""
    step = m.steps[state.step]
    length_ms = min(now_ms, state.due_ms or now_ms) - state.entered_ms
    reference = _mailbox(state, step)
    if length_ms < SHORTEST_MESSAGE_MS or reference is None:
        return m.finish(state, "hung_up" if gone else "ended", ())
    left = MessageLeft(step.id, reference, length_ms)
    thanks = step.thanks if isinstance(step, Message) else None
    if gone or thanks is None:
        return m.finish(state, "message", (left,))
    return m.play(state, step.id, "thanks", thanks, now_ms, (left,))


# Lookup tables and other flows


def begin_lookup(m: Machine, state: RunState, step: Lookup, before: Before, now_ms: int) -> Outcome:
    """Ask for the row."""
    if step.table is None:
        return m.enter(state, step.id, "failed", step.failed, "no_table", "", now_ms, before)
    key = state.values.get(step.key)
    if key is None or key == "":
        detail = f"{step.key} holds nothing"
        return m.enter(state, step.id, "not_found", step.not_found, "looked_up", detail, now_ms, before)
    state = m.at(state, "asking", "", now_ms + LOOK_UP_MS)
    return state, (*before, LookUp(step.id, step.table, str(key)))


def asking(m: Machine, state: RunState, event: Event, now_ms: int) -> Outcome:
    """The row is there, is not, or could not be had."""
    step = m.steps[state.step]
    assert isinstance(step, Lookup)
    late = isinstance(event, Due) and state.due_ms is not None and now_ms >= state.due_ms
    if late or (isinstance(event, Looked) and event.failed):
        return m.enter(state, step.id, "failed", step.failed, "look_up_failed", "", now_ms)
    if not isinstance(event, Looked):
        return state, ()
    key = shown(state.values.get(step.key))
    if event.row is None:
        detail = f"no row {key}"
        return m.enter(state, step.id, "not_found", step.not_found, "looked_up", detail, now_ms)
    taken = {take.into: event.row.get(take.column) for take in step.take}
    state = state._replace(values={**state.values, **taken})
    detail = ", ".join([f"row {key}", *(f"{name} = {shown(v)}" for name, v in taken.items())])
    return m.enter(state, step.id, "found", step.found, "looked_up", detail, now_ms)


def begin_go(m: Machine, state: RunState, step: GoOn, before: Before, now_ms: int) -> Outcome:
    """Hand the contact over."""
    flow = resolved(step.flow, state.values)
    if flow is None:
        return m.enter(state, step.id, "failed", step.failed, "no_flow", "", now_ms, before)
    return state._replace(phase="going"), (*before, HandOver(step.id, flow))


def going(m: Machine, state: RunState, event: Event, now_ms: int) -> Outcome:
    """The other flow is not there."""
    if not isinstance(event, NowhereToGo):
        return state, ()
    step: Any = m.steps[state.step]
    exit_name = "failed" if isinstance(step, GoOn) else "none"
    to = getattr(step, exit_name)
    return m.enter(state, step.id, exit_name, to, "no_flow", "", now_ms)
