"""The step machine: one contact's way through one flow.

`start` and `resume` are pure: state and event in, new state and effects out.
The state is plain data (`to_data`, `from_data`) that another process can pick
up. The machine never waits: `due_ms` of the state says when `Due` must be fed
if nothing else happens first.

No contact stays in a flow beyond its limit: every stop takes time (a prompt
lasts at least `SHORTEST_PLAY_MS`), and the limit is looked at on every event.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal, NamedTuple

from callcore.errors import BrokenRule, EventRefused
from callcore.flow.definition import (
    AnyStep,
    CheckHours,
    End,
    Flow,
    LibrarySound,
    Menu,
    Queue,
    Say,
    SpokenText,
)

#: A prompt without sound still takes this long, so that no loop runs without time passing.
SHORTEST_PLAY_MS = 100

AnyPrompt = SpokenText | LibrarySound
#: Open or closed at a moment (ms), and why; None where there are no such hours.
OpenAt = Callable[[str, int], "tuple[bool, str] | None"]
#: Decisions that take no time follow one another at most this often.
MOST_DECISIONS = 50
Phase = Literal["playing", "listening", "queued", "with_person", "ended"]
#: Which prompt of a step is playing.
Role = Literal["prompt", "no_key", "wrong_key", "farewell", "failure", ""]
Ending = Literal["person", "ended", "hung_up", "failed"]


class RunState(NamedTuple):
    """Where a contact is. Times are milliseconds of the driver's clock.

    `began_ms` is moved forward by the time spent in queues, so that
    `began_ms + limit` is always the end of the contact's stay in the flow.
    """

    step: str
    phase: Phase
    role: Role
    began_ms: int
    entered_ms: int
    due_ms: int | None
    tries: int
    ending: Ending | None


class Key(NamedTuple):
    """The caller pressed a key."""

    key: str


class Due(NamedTuple):
    """The time in `due_ms` has come."""


class Taken(NamedTuple):
    """A person answered the waiting contact."""


class WaitedOut(NamedTuple):
    """The queue lets the contact go: its longest wait has passed, or the queue is gone."""

    why: str = "waited_out"


class PersonDone(NamedTuple):
    """The person who had the contact ended it."""


class HungUp(NamedTuple):
    """The caller hung up."""


Event = Key | Due | Taken | WaitedOut | PersonDone | HungUp


class Play(NamedTuple):
    """Let the caller hear a prompt; it replaces what is playing."""

    step: str
    role: Role
    prompt: AnyPrompt
    length_ms: int


class Listen(NamedTuple):
    """The prompt is over; wait for a key until `until_ms`."""

    step: str
    until_ms: int


class JoinQueue(NamedTuple):
    """Put the contact into a queue (a `queue:` reference)."""

    step: str
    queue: str


class Moved(NamedTuple):
    """The contact took `exit` of `step`; `to` is None where it ends. `why` is a reason code."""

    step: str
    exit: str
    to: str | None
    why: str
    detail: str


class Finish(NamedTuple):
    """The contact is over."""

    step: str
    ending: Ending


Effect = Play | Listen | JoinQueue | Moved | Finish
Outcome = tuple[RunState, tuple[Effect, ...]]


def to_data(state: RunState) -> list[Any]:
    """The state as a JSON list."""
    return list(state)


def from_data(data: list[Any]) -> RunState:
    """The state that `to_data` wrote."""
    return RunState(*data)


class Machine:
    """One definition made ready to run; shared by all contacts that run it.

    Args:
        flow: the definition.
        length_ms: the length of a prompt in milliseconds.
        open_at: asked by Check hours. It may be exchanged while contacts are
            under way: hours count as they are now, not as they were.
    """

    def __init__(
        self,
        flow: Flow,
        length_ms: Callable[[AnyPrompt], int],
        open_at: OpenAt = lambda _ref, _now_ms: None,
    ) -> None:
        self.flow = flow
        self.open_at = open_at
        self.steps: dict[str, AnyStep] = {step.id: step for step in flow.steps}
        self._limit_ms = flow.stay_limit_s * 1000
        self._length_ms = length_ms
        self._arms = {
            step.id: {arm.key: arm for arm in step.arms}
            for step in flow.steps
            if isinstance(step, Menu)
        }

    def start(self, now_ms: int) -> Outcome:
        """A contact arrives. A flow without a start ends by its failure rule."""
        origin = RunState("", "playing", "", now_ms, now_ms, None, 0, None)
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
            return self._finish(state, "hung_up" if state.phase != "with_person" else "person", ())
        if state.phase == "with_person":
            return self._with_person(state, event)
        if state.phase == "queued":
            return self._queued(state, event, now_ms)
        if now_ms >= state.began_ms + self._limit_ms and state.role not in ("failure", "farewell"):
            return self._fail(state, "stay_limit", now_ms)
        if isinstance(event, Key):
            return self._key(state, event.key, now_ms)
        if isinstance(event, Due):
            return self._due(state, now_ms)
        raise EventRefused("not-in-queue", "This call is not waiting in a queue.")

    def _key(self, state: RunState, key: str, now_ms: int) -> Outcome:
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
        if state.role in ("failure", "farewell") or step is None:
            return self._finish(state, "failed" if state.role == "failure" else "ended", ())
        if isinstance(step, Say):
            return self._enter(state, step.id, "next", step.next, "heard", "", now_ms)
        if isinstance(step, Menu):
            if state.phase == "listening":
                return self._missed(state, "no_key", "", now_ms)
            if state.role in ("no_key", "wrong_key"):
                return self._play(state, step.id, "prompt", step.prompt, now_ms)
            until_ms = now_ms + step.wait_s * 1000
            return self._at(state, "listening", "", until_ms), (Listen(step.id, until_ms),)
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

    def _with_person(self, state: RunState, event: Event) -> Outcome:
        if isinstance(event, PersonDone):
            return self._finish(state, "person", ())
        return state, ()

    def _enter(
        self,
        state: RunState,
        at: str,
        exit_name: str,
        to: str | None,
        why: str,
        detail: str,
        now_ms: int,
    ) -> Outcome:
        """Take an exit and begin the step it leads to, past decisions that take no time."""
        before: tuple[Effect, ...] = ()
        for _ in range(MOST_DECISIONS):
            step = self.steps.get(to) if to is not None else None
            if step is None:
                moved = Moved(at, exit_name, None, why, detail)
                return self._fail(state, "nowhere", now_ms, *before, moved)
            before = (*before, Moved(at, exit_name, step.id, why, detail))
            state = RunState(step.id, "playing", "", state.began_ms, now_ms, None, 0, None)
            if not isinstance(step, CheckHours):
                return self._begin(state, step, before, now_ms)
            answered = self.open_at(step.hours, now_ms) if step.hours else None
            if answered is None:
                return self._fail(state, "no_hours", now_ms, *before)
            at, why = step.id, "hours"
            exit_name, to = ("open", step.open) if answered[0] else ("closed", step.closed)
            detail = answered[1]
        return self._fail(state, "round_and_round", now_ms, *before)

    def _begin(
        self, state: RunState, step: AnyStep, before: tuple[Effect, ...], now_ms: int
    ) -> Outcome:
        """Begin a step at which the contact stays for a while."""
        if isinstance(step, Queue):
            if step.queue is None:
                return self._fail(state, "no_queue", now_ms, *before)
            return state._replace(phase="queued"), (*before, JoinQueue(step.id, step.queue))
        if isinstance(step, End):
            if step.prompt is None:
                return self._finish(state, "ended", before)
            return self._play(state, step.id, "farewell", step.prompt, now_ms, before)
        assert isinstance(step, Say | Menu)
        return self._play(state, step.id, "prompt", step.prompt, now_ms, before)

    def _play(
        self,
        state: RunState,
        step: str,
        role: Role,
        prompt: AnyPrompt,
        now_ms: int,
        before: tuple[Effect, ...] = (),
    ) -> Outcome:
        length_ms = max(self._length_ms(prompt), SHORTEST_PLAY_MS)
        state = self._at(state, "playing", role, now_ms + length_ms)
        return state, (*before, Play(step, role, prompt, length_ms))

    def _at(self, state: RunState, phase: Phase, role: Role, due_ms: int) -> RunState:
        if role not in ("failure", "farewell"):
            due_ms = min(due_ms, state.began_ms + self._limit_ms)
        return RunState(
            state.step, phase, role, state.began_ms, state.entered_ms, due_ms, state.tries, None
        )

    def _fail(self, state: RunState, why: str, now_ms: int, *before: Effect) -> Outcome:
        moved = Moved(state.step, "failure", None, why, "")
        if self.flow.failure_prompt is None:
            return self._finish(state, "failed", (*before, moved))
        return self._play(
            state, state.step, "failure", self.flow.failure_prompt, now_ms, (*before, moved)
        )

    def _finish(self, state: RunState, ending: Ending, before: tuple[Effect, ...]) -> Outcome:
        over = state._replace(phase="ended", role="", due_ms=None, ending=ending)
        return over, (*before, Finish(state.step, ending))
