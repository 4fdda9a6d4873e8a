"""The step machine: one contact's way through one flow.

`start` and `resume` are pure: state and event in, new state and effects out.
The state is plain data (`to_data`, `from_data`) that another process can pick
up. The machine never waits: `due_ms` of the state says when `Due` must be fed
if nothing else happens first.

No contact stays in a flow beyond its limit: every stop takes time (a prompt
lasts at least `SHORTEST_PLAY_MS`), and the limit is looked at on every event.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from callcore.errors import BrokenRule, EventRefused
from callcore.flow.definition import (
    AnyPrompt,
    AnyStep,
    CheckHours,
    End,
    Flow,
    GoOn,
    Menu,
    Message,
    Queue,
    Ring,
    Say,
)
from callcore.flow.inputs import filled, resolved, said
from callcore.flow.parts import values_in
from callcore.flow.state import (
    NO_VALUES,
    NOTHING_AROUND,
    Around,
    Dial,
    Due,
    Effect,
    Ending,
    Event,
    Finish,
    HandOver,
    HungUp,
    JoinQueue,
    Key,
    Listen,
    MailboxRule,
    MessageLeft,
    Moved,
    NowhereToGo,
    Outcome,
    PersonDone,
    Phase,
    Play,
    Record,
    Role,
    Rung,
    RunState,
    Taken,
    WaitedOut,
    from_data,
    to_data,
)

__all__ = [
    "NOTHING_AROUND",
    "NO_VALUES",
    "Around",
    "Dial",
    "Due",
    "Effect",
    "Ending",
    "Event",
    "Finish",
    "HandOver",
    "HungUp",
    "JoinQueue",
    "Key",
    "Listen",
    "Machine",
    "MailboxRule",
    "MessageLeft",
    "Moved",
    "NowhereToGo",
    "Outcome",
    "PersonDone",
    "Phase",
    "Play",
    "Record",
    "Role",
    "RunState",
    "Rung",
    "Taken",
    "WaitedOut",
    "from_data",
    "to_data",
]

#: A prompt without sound still takes this long, so that no loop runs without time passing.
SHORTEST_PLAY_MS = 100

#: Decisions that take no time follow one another at most this often.
MOST_DECISIONS = 50
#: A message shorter than this is a caller who hung up.
SHORTEST_MESSAGE_MS = 1_000
#: How often a contact may be handed on from flow to flow.
MOST_FLOWS = 20
#: Prompts that are the last of a call: what ends with them.
_LAST: dict[str, Ending] = {"failure": "failed", "farewell": "ended", "thanks": "message"}


class Machine:
    """One definition made ready to run; shared by all contacts that run it.

    Args:
        flow: the definition.
        length_ms: the length of a prompt in milliseconds.
        around: what is asked while running. It may be exchanged while contacts are
            under way: hours and mailboxes count as they are now, not as they were.
    """

    def __init__(
        self,
        flow: Flow,
        length_ms: Callable[[AnyPrompt], int],
        around: Around = NOTHING_AROUND,
    ) -> None:
        self.flow = flow
        self.around = around
        self.steps: dict[str, AnyStep] = {step.id: step for step in flow.steps}
        self._limit_ms = flow.stay_limit_s * 1000
        self._length_ms = length_ms
        self._arms = {
            step.id: {arm.key: arm for arm in step.arms}
            for step in flow.steps
            if isinstance(step, Menu)
        }
        #: Steps whose prompts hold values: the others are played as they stand.
        self._spoken_values = {
            step.id for step in flow.steps if any(values_in(p) for p in step.prompts())
        }

    def start(self, now_ms: int, values: Mapping[str, Any] = NO_VALUES, flows: int = 0) -> Outcome:
        """A contact arrives. A flow without a start ends by its failure rule.

        Args:
            values: what its number, or the flow before, hands over.
            flows: how many flows have handed it on.
        """
        begins = filled(self.flow.inputs, values) if values or self.flow.inputs else NO_VALUES
        origin = RunState("", "playing", "", now_ms, now_ms, None, 0, None, begins, flows)
        if flows > MOST_FLOWS:
            return self._fail(origin, "round_and_round", now_ms)
        return self._enter(origin, "", "start", self.flow.start, "arrived", "", now_ms)

    def resume(self, state: RunState, event: Event, now_ms: int) -> Outcome:
        """What `event` does to a contact.

        Raises:
            EventRefused: the event cannot happen here (the contact is over, or
                not in a queue). A key where none is asked for is not refused; it
                does nothing.
        """
        if state.phase == "ended":
            raise EventRefused("contact-ended", "This call is over.")
        if isinstance(event, HungUp):
            return self._hung_up(state, now_ms)
        away = _AWAY.get(state.phase)
        if away is not None:
            return away(self, state, event, now_ms)
        if now_ms >= state.began_ms + self._limit_ms and state.role not in _LAST:
            if state.phase == "recording":
                return self._recorded(state, now_ms)
            return self._fail(state, "stay_limit", now_ms)
        if isinstance(event, Key):
            return self._key(state, event.key, now_ms)
        if isinstance(event, Due):
            return self._due(state, now_ms)
        raise EventRefused("not-in-queue", "This call is not waiting in a queue.")

    def _hung_up(self, state: RunState, now_ms: int) -> Outcome:
        if state.phase == "recording":
            return self._recorded(state, now_ms, gone=True)
        ending: Ending = "hung_up"
        if state.phase == "with_person":
            ending = "person"
        elif state.phase == "outside":
            ending = "elsewhere"
        elif state.role == "thanks":
            ending = "message"
        return self._finish(state, ending, ())

    def _key(self, state: RunState, key: str, now_ms: int) -> Outcome:
        if state.phase == "recording":
            return self._recorded(state, now_ms) if key == "#" else (state, ())
        arms = self._arms.get(state.step)
        if arms is None or state.role == "failure":
            return state, ()
        arm = arms.get(key)
        if arm is None:
            return self._missed(state, "wrong_key", key, now_ms)
        return self._enter(state, state.step, f"key:{key}", arm.next, "key", key, now_ms)

    def _due(self, state: RunState, now_ms: int) -> Outcome:
        if state.due_ms is not None and now_ms < state.due_ms:
            return state, ()
        step = self.steps.get(state.step)
        if state.role in _LAST or step is None:
            return self._finish(state, _LAST.get(state.role, "ended"), ())
        if isinstance(step, Say):
            return self._enter(state, step.id, "next", step.next, "heard", "", now_ms)
        if isinstance(step, Menu):
            if state.phase == "listening":
                return self._missed(state, "no_key", "", now_ms)
            if state.role in ("no_key", "wrong_key"):
                return self._play(state, step.id, "prompt", step.prompt, now_ms)
            until_ms = now_ms + step.wait_s * 1000
            return self._at(state, "listening", "", until_ms), (Listen(step.id, until_ms),)
        if isinstance(step, Message):
            if state.phase == "recording":
                return self._recorded(state, now_ms)
            return self._record(state, step, now_ms)
        raise BrokenRule(f"nothing is due at a {step.kind} step")

    def _missed(self, state: RunState, why: Role, key: str, now_ms: int) -> Outcome:
        """Silence or a wrong key at a menu: ask again, or leave by `no_key`."""
        step = self.steps[state.step]
        assert isinstance(step, Menu)
        tries = state.tries + 1
        if step.tries is not None and tries >= step.tries:
            return self._enter(state, step.id, "no_key", step.no_key, why, str(tries), now_ms)
        state = state._replace(tries=tries)
        extra = step.no_key_prompt if why == "no_key" else step.wrong_key_prompt
        moved = Moved(step.id, why, step.id, why, key or str(tries))
        if extra is not None:
            return self._play(state, step.id, why, extra, now_ms, (moved,))
        return self._play(state, step.id, "prompt", step.prompt, now_ms, (moved,))

    # Phases in which the contact is with somebody or something else

    def _queued(self, state: RunState, event: Event, now_ms: int) -> Outcome:
        if isinstance(event, Taken):
            moved = Moved(state.step, "answered", None, "answered", "")
            return state._replace(phase="with_person", due_ms=None), (moved,)
        if isinstance(event, WaitedOut):
            step = self.steps.get(state.step)
            to = step.waited if isinstance(step, Queue) else None
            state = state._replace(began_ms=state.began_ms + now_ms - state.entered_ms)
            return self._enter(state, state.step, "waited", to, event.why, "", now_ms)
        return state, ()

    def _with_person(self, state: RunState, event: Event, now_ms: int) -> Outcome:
        if isinstance(event, PersonDone):
            return self._finish(state, "person", ())
        return state, ()

    def _ringing(self, state: RunState, event: Event, now_ms: int) -> Outcome:
        step = self.steps[state.step]
        assert isinstance(step, Ring)
        if isinstance(event, Rung) and event.result == "answered":
            moved = Moved(step.id, "answered", None, "answered_outside", step.number)
            return state._replace(phase="outside", due_ms=None), (moved,)
        if isinstance(event, Rung) and event.result in ("busy", "failed"):
            to = step.busy if event.result == "busy" else step.failed
            return self._enter(state, step.id, event.result, to, event.result, "", now_ms)
        if isinstance(event, Due) and state.due_ms is not None and now_ms >= state.due_ms:
            seconds = str(step.ring_s)
            return self._enter(
                state, step.id, "no_answer", step.no_answer, "no_answer", seconds, now_ms
            )
        return state, ()

    def _outside(self, state: RunState, event: Event, now_ms: int) -> Outcome:
        if isinstance(event, Rung):
            return self._finish(state, "elsewhere", ())
        return state, ()

    def _going(self, state: RunState, event: Event, now_ms: int) -> Outcome:
        if isinstance(event, NowhereToGo):
            step = self.steps[state.step]
            assert isinstance(step, GoOn)
            return self._enter(state, step.id, "failed", step.failed, "no_flow", "", now_ms)
        return state, ()

    # Entering steps

    def _enter(
        self,
        state: RunState,
        at: str,
        exit_name: str,
        to: str | None,
        why: str,
        detail: str,
        now_ms: int,
        before: tuple[Effect, ...] = (),
    ) -> Outcome:
        """Take an exit and begin the step it leads to, past decisions that take no time."""
        if len(before) > MOST_DECISIONS:
            return self._fail(state, "round_and_round", now_ms, *before)
        for _ in range(MOST_DECISIONS):
            step = self.steps.get(to) if to is not None else None
            if step is None:
                moved = Moved(at, exit_name, None, why, detail)
                return self._fail(state, "nowhere", now_ms, *before, moved)
            before = (*before, Moved(at, exit_name, step.id, why, detail))
            state = RunState(
                step.id, "playing", "", state.began_ms, now_ms, None, 0, None, state.values,
                state.flows,
            )  # fmt: skip
            if not isinstance(step, CheckHours):
                return _BEGIN[type(step)](self, state, step, before, now_ms)
            hours = resolved(step.hours, state.values)
            answered = self.around.open_at(hours, now_ms) if hours else None
            if answered is None:
                return self._fail(state, "no_hours", now_ms, *before)
            at, why = step.id, "hours"
            exit_name, to = ("open", step.open) if answered[0] else ("closed", step.closed)
            detail = answered[1]
        return self._fail(state, "round_and_round", now_ms, *before)

    def _begin_prompt(
        self, state: RunState, step: Say | Menu, before: tuple[Effect, ...], now_ms: int
    ) -> Outcome:
        return self._play(state, step.id, "prompt", step.prompt, now_ms, before)

    def _begin_queue(
        self, state: RunState, step: Queue, before: tuple[Effect, ...], now_ms: int
    ) -> Outcome:
        queue = resolved(step.queue, state.values)
        if queue is None:
            return self._fail(state, "no_queue", now_ms, *before)
        return state._replace(phase="queued"), (*before, JoinQueue(step.id, queue))

    def _begin_ring(
        self, state: RunState, step: Ring, before: tuple[Effect, ...], now_ms: int
    ) -> Outcome:
        if not step.number:
            return self._enter(
                state, step.id, "failed", step.failed, "no_number", "", now_ms, before
            )
        state = self._at(state, "ringing", "", now_ms + step.ring_s * 1000)
        assert state.due_ms is not None
        return state, (*before, Dial(step.id, step.number, state.due_ms))

    def _begin_message(
        self, state: RunState, step: Message, before: tuple[Effect, ...], now_ms: int
    ) -> Outcome:
        reference = resolved(step.mailbox, state.values)
        mailbox = self.around.mailbox(reference) if reference else None
        if mailbox is None:
            return self._enter(
                state, step.id, "failed", step.failed, "no_mailbox", "", now_ms, before
            )
        if mailbox.greeting is None:
            return self._record(state, step, now_ms, before)
        return self._play(state, step.id, "greeting", mailbox.greeting, now_ms, before)

    def _begin_go(
        self, state: RunState, step: GoOn, before: tuple[Effect, ...], now_ms: int
    ) -> Outcome:
        if step.flow is None:
            return self._enter(state, step.id, "failed", step.failed, "no_flow", "", now_ms, before)
        return state._replace(phase="going"), (*before, HandOver(step.id, step.flow))

    def _begin_end(
        self, state: RunState, step: End, before: tuple[Effect, ...], now_ms: int
    ) -> Outcome:
        if step.prompt is None:
            return self._finish(state, "ended", before)
        return self._play(state, step.id, "farewell", step.prompt, now_ms, before)

    # Messages

    def _record(
        self, state: RunState, step: Message, now_ms: int, before: tuple[Effect, ...] = ()
    ) -> Outcome:
        reference = resolved(step.mailbox, state.values)
        mailbox = self.around.mailbox(reference) if reference else None
        if reference is None or mailbox is None:
            return self._enter(
                state, step.id, "failed", step.failed, "no_mailbox", "", now_ms, before
            )
        state = self._at(state._replace(entered_ms=now_ms), "recording", "", now_ms
                         + mailbox.longest_ms)  # fmt: skip
        assert state.due_ms is not None
        return state, (*before, Record(step.id, reference, state.due_ms))

    def _recorded(self, state: RunState, now_ms: int, *, gone: bool = False) -> Outcome:
        """The recording is over: by a key, the caller hanging up, or its time."""
        step = self.steps[state.step]
        assert isinstance(step, Message)
        length_ms = min(now_ms, state.due_ms or now_ms) - state.entered_ms
        reference = resolved(step.mailbox, state.values)
        if length_ms < SHORTEST_MESSAGE_MS or reference is None:
            return self._finish(state, "hung_up" if gone else "ended", ())
        left = MessageLeft(step.id, reference, length_ms)
        if gone or step.thanks is None:
            return self._finish(state, "message", (left,))
        return self._play(state, step.id, "thanks", step.thanks, now_ms, (left,))

    # Playing and finishing

    def _play(
        self,
        state: RunState,
        step: str,
        role: Role,
        prompt: AnyPrompt,
        now_ms: int,
        before: tuple[Effect, ...] = (),
    ) -> Outcome:
        if step in self._spoken_values:
            heard = said(prompt, state.values)
            if heard is None:
                return self._fail(state, "no_sound", now_ms, *before)
            prompt = heard
        length_ms = max(self._length_ms(prompt), SHORTEST_PLAY_MS)
        state = self._at(state, "playing", role, now_ms + length_ms)
        return state, (*before, Play(step, role, prompt, length_ms))

    def _at(self, state: RunState, phase: Phase, role: Role, due_ms: int) -> RunState:
        if role not in _LAST:
            due_ms = min(due_ms, state.began_ms + self._limit_ms)
        return RunState(
            state.step, phase, role, state.began_ms, state.entered_ms, due_ms, state.tries, None,
            state.values, state.flows,
        )  # fmt: skip

    def _fail(self, state: RunState, why: str, now_ms: int, *before: Effect) -> Outcome:
        moved = Moved(state.step, "failure", None, why, "")
        if self.flow.failure_prompt is None:
            return self._finish(state, "failed", (*before, moved))
        prompt = said(self.flow.failure_prompt, state.values) or self.flow.failure_prompt
        length_ms = max(self._length_ms(prompt), SHORTEST_PLAY_MS)
        failing = self._at(state, "playing", "failure", now_ms + length_ms)
        play = Play(state.step, "failure", prompt, length_ms)
        return failing, (*before, moved, play)

    def _finish(self, state: RunState, ending: Ending, before: tuple[Effect, ...]) -> Outcome:
        over = state._replace(phase="ended", role="", due_ms=None, ending=ending)
        return over, (*before, Finish(state.step, ending))


_BEGIN: dict[type, Callable[..., Outcome]] = {
    Say: Machine._begin_prompt,
    Menu: Machine._begin_prompt,
    Queue: Machine._begin_queue,
    Ring: Machine._begin_ring,
    Message: Machine._begin_message,
    GoOn: Machine._begin_go,
    End: Machine._begin_end,
}
_AWAY: dict[str, Callable[[Machine, RunState, Event, int], Outcome]] = {
    "queued": Machine._queued,
    "with_person": Machine._with_person,
    "ringing": Machine._ringing,
    "outside": Machine._outside,
    "going": Machine._going,
}
