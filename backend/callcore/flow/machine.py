"""The step machine: one contact's way through one flow.

`start` and `resume` are pure: state and event in, new state and effects out.
The state is plain data (`to_data`, `from_data`) that another process can pick
up. The machine never waits: `due_ms` of the state says when `Due` must be fed
if nothing else happens first.

No contact stays in a flow beyond its limit: every stop takes time (a prompt
lasts at least `SHORTEST_PLAY_MS`), and the limit is looked at on every event.
Steps that take none follow one another at most `MOST_DECISIONS` times, also where
an answer from outside comes at once (nobody is there, busy, no such flow): the state
itself counts them.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from callcore.errors import BrokenRule, EventRefused
from callcore.flow.definition import AnyPrompt, AnyStep, End, FaxCheck, Flow, Menu, Music, Say, TellWait
from callcore.flow.inputs import filled, said
from callcore.flow.parts import values_in
from callcore.flow.state import (
    NO_VALUES,
    NOTHING_AROUND,
    Effect,
    Ending,
    Environment,
    Event,
    Finish,
    HearFax,
    HungUp,
    Moved,
    Outcome,
    Phase,
    Play,
    PlayMusic,
    Role,
    RunState,
    StopRinging,
    Texted,
)
from callcore.speech.recogniser import Grammar

#: A prompt without sound still takes this long, so that no loop runs without time passing.
SHORTEST_PLAY_MS = 100

#: Steps that take no time follow one another at most this often.
MOST_DECISIONS = 50
#: How often a contact may be handed on from flow to flow.
MOST_FLOWS = 20
#: Prompts that are the last of a call: what ends with them.
_LAST: dict[str, Ending] = {
    "failure": "failed",
    "farewell": "ended",
    "thanks": "message",
    "booked": "callback",
}
#: Time with people, in queues, or between two flows is not time in the flow.
_WITHOUT_LIMIT = ("queued", "with_person", "outside", "going", "leaving")
#: A waiting plan ends when somebody answers, not by a limit: in ten years at the latest.
_NO_LIMIT_MS = 315_360_000_000
#: While these play, keys do nothing.
_NO_KEYS = (*_LAST, "greeting")


def _nothing(*_: Any) -> Any:
    raise BrokenRule("the behaviour of steps is in callcore.flow.runner")


@dataclass(slots=True)
class Behaviour:
    """What steps do, by kind of step, phase or event; `callcore.flow.runner` fills it in."""

    begin: dict[type, Callable[..., Outcome]] = field(default_factory=dict)
    decide: dict[type, Callable[..., Any]] = field(default_factory=dict)
    key: dict[type, Callable[..., Outcome]] = field(default_factory=dict)
    due: dict[type, Callable[..., Outcome]] = field(default_factory=dict)
    elsewhere: dict[str, Callable[..., Outcome]] = field(default_factory=dict)
    here: dict[type, Callable[..., Outcome]] = field(default_factory=dict)
    texted: Callable[..., Outcome] = _nothing
    in_plan: Callable[..., Outcome] = _nothing
    record: Callable[..., Outcome] = _nothing
    recorded: Callable[..., Outcome] = _nothing
    grammar: Callable[..., Grammar | None] = _nothing


BEHAVIOUR = Behaviour()


class Machine:
    """One definition made ready to run; shared by all contacts that run it, and never changed.

    Args:
        flow: the definition.
        length_ms: the length of a prompt in milliseconds.
        environment: what is asked while running. See `asking`.
    """

    __slots__ = ("_length_ms", "_limit_ms", "_spoken_values", "arms", "environment", "flow", "steps")

    def __init__(
        self, flow: Flow, length_ms: Callable[[AnyPrompt], int], environment: Environment = NOTHING_AROUND
    ) -> None:
        self.flow = flow
        self.environment = environment
        self.steps: dict[str, AnyStep] = {step.id: step for step in flow.steps}
        self._limit_ms = _NO_LIMIT_MS if flow.purpose == "plan" else flow.stay_limit_s * 1000
        # A text message is sent at once, whatever its length.
        self._length_ms = length_ms if flow.channel == "voice" else lambda _: 0
        self.arms = {
            step.id: {arm.key: arm for arm in step.arms} for step in flow.steps if isinstance(step, Menu)
        }
        #: Steps whose prompts hold values: the others are played as they stand.
        self._spoken_values = {step.id for step in flow.steps if any(values_in(p) for p in step.prompts())}

    def asking(self, environment: Environment) -> Machine:
        """The same machine, asking somebody else: whoever runs it says whose questions these are.

        Hours and mailboxes count as they are now, not as they were when a contact began.
        """
        machine = object.__new__(Machine)
        machine.flow, machine.steps, machine.arms = self.flow, self.steps, self.arms
        machine._limit_ms, machine._length_ms = self._limit_ms, self._length_ms
        machine._spoken_values = self._spoken_values
        machine.environment = environment
        return machine

    def start(
        self,
        now_ms: int,
        values: Mapping[str, Any] = NO_VALUES,
        flows: int = 0,
        queue: str = "",
        rush: int = 0,
    ) -> Outcome:
        """A contact arrives. A flow without a start ends by its failure rule.

        Args:
            values: what its number, or the flow before, hands over.
            flows: how many flows have handed it on.
            queue: of a waiting plan, the queue that the contact waits in.
            rush: steps that it entered elsewhere since time last passed for it.
        """
        begins = filled(self.flow.inputs, values) if values or self.flow.inputs else NO_VALUES
        origin = RunState("", "playing", "", now_ms, now_ms, None, 0, None, begins, flows)
        origin = origin._replace(rush=rush)
        if queue:
            origin = origin._replace(queue=queue)
        if flows > MOST_FLOWS:
            return self.fail(origin, "round_and_round", now_ms)
        return self.enter(origin, "", "start", self.flow.start, "arrived", "", now_ms)

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
        if state.phase not in _WITHOUT_LIMIT and now_ms >= state.began_ms + self._limit_ms:
            over = self._too_long(state, now_ms)
            if over is not None:
                return over
        if isinstance(event, Texted):
            return BEHAVIOUR.texted(self, state, event.text, now_ms)
        elsewhere = BEHAVIOUR.elsewhere.get(state.phase)
        if elsewhere is not None:
            return elsewhere(self, state, event, now_ms)
        here = BEHAVIOUR.here.get(type(event))
        if here is None:
            raise EventRefused("not-in-queue", "This call is not waiting in a queue.")
        return here(self, state, event, now_ms)

    def _too_long(self, state: RunState, now_ms: int) -> Outcome | None:
        """The longest stay has passed: last words may end, all else meets the failure rule."""
        if state.role in _LAST:
            return None
        if state.phase == "recording":
            return BEHAVIOUR.recorded(self, state, now_ms)
        if state.phase == "ringing":
            return self.fail(state, "stay_limit", now_ms, StopRinging(state.step))
        return self.fail(state, "stay_limit", now_ms)

    def _hung_up(self, state: RunState, now_ms: int) -> Outcome:
        if state.phase == "recording":
            return BEHAVIOUR.recorded(self, state, now_ms, gone=True)
        if state.phase == "leaving":
            return BEHAVIOUR.in_plan(self, state, HungUp(), now_ms)
        ending: Ending = "hung_up"
        if state.phase == "with_person":
            ending = "person"
        elif state.phase == "outside":
            ending = "elsewhere"
        elif state.role in ("thanks", "booked"):
            ending = _LAST[state.role]
        return self.finish(state, ending, ())

    def grammar(self, state: RunState) -> Grammar | None:
        """What may be said where a contact is, also in its waiting plan; None: nothing listens."""
        if state.inner is None:
            return BEHAVIOUR.grammar(self, state)
        plan = self.environment.plan_machine(state.plan)
        return plan.grammar(state.inner) if plan is not None else None

    def hears(self, state: RunState) -> bool:
        """Whether keys and words do something now."""
        return state.role not in _NO_KEYS

    def key(self, state: RunState, key: str, now_ms: int) -> Outcome:
        if state.phase == "recording":
            return BEHAVIOUR.recorded(self, state, now_ms) if key == "#" else (state, ())
        step = self.steps.get(state.step)
        press = BEHAVIOUR.key.get(type(step))
        if press is None or not self.hears(state):
            return state, ()
        return press(self, state, step, key, now_ms)

    def due(self, state: RunState, now_ms: int) -> Outcome:
        if state.due_ms is not None and now_ms < state.due_ms:
            return state, ()
        step = self.steps.get(state.step)
        if state.role in _LAST or step is None:
            return self.finish(state, _LAST.get(state.role, "ended"), ())
        if state.phase == "recording":
            return BEHAVIOUR.recorded(self, state, now_ms)
        if state.role == "greeting":
            return BEHAVIOUR.record(self, state, step, now_ms)
        due = BEHAVIOUR.due.get(type(step))
        if due is not None:
            return due(self, state, step, now_ms)
        if isinstance(step, Say | Music):
            return self.enter(state, step.id, "next", step.next, "heard", "", now_ms)
        if isinstance(step, TellWait):
            return self.enter(state, step.id, "next", step.next, "told", "", now_ms)
        if isinstance(step, FaxCheck):
            return self.enter(state, step.id, "no_fax", step.no_fax, "no_fax", "", now_ms)
        raise BrokenRule(f"nothing is due at a {step.kind} step")

    def fax(self, state: RunState, now_ms: int) -> Outcome:
        step = self.steps.get(state.step)
        if not isinstance(step, FaxCheck):
            return state, ()
        return self.enter(state, step.id, "fax", step.fax, "fax", "", now_ms)

    # Entering steps

    def enter(
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
        for rush in range(rushed(state, now_ms) + 1, MOST_DECISIONS + 1):
            step = self.steps.get(to) if to is not None else None
            if step is None:
                moved = Moved(at, exit_name, None, why, detail)
                return self.fail(state, "nowhere", now_ms, *before, moved)
            before = (*before, Moved(at, exit_name, step.id, why, detail))
            state = RunState(
                step.id,
                "playing",
                "",
                state.began_ms,
                now_ms,
                None,
                0,
                None,
                state.values,
                state.flows,
                "",
                state.counts,
                state.queue,
                "",
                None,
                state.told,
                rush,
            )
            begin = BEHAVIOUR.begin.get(type(step))
            if begin is not None:
                return begin(self, state, step, before, now_ms)
            decided = BEHAVIOUR.decide[type(step)](step, state, self.environment, now_ms)
            state, before = decided.state, (*before, *decided.effects)
            if not decided.exit:
                return self.fail(state, decided.why, now_ms, *before)
            at, why, detail = step.id, decided.why, decided.detail
            exit_name, to = decided.exit, decided.to
        return self.fail(state, "round_and_round", now_ms, *before)

    def begin_music(self, state: RunState, step: Music, before: tuple[Effect, ...], now_ms: int) -> Outcome:
        state = self.at(state, "playing", "music", now_ms + step.seconds * 1000)
        assert state.due_ms is not None
        return state, (*before, PlayMusic(step.id, state.due_ms))

    def begin_fax(self, state: RunState, step: FaxCheck, before: tuple[Effect, ...], now_ms: int) -> Outcome:
        state = self.at(state, "listening", "", now_ms + step.seconds * 1000)
        assert state.due_ms is not None
        return state, (*before, HearFax(step.id, state.due_ms))

    def begin_end(self, state: RunState, step: End, before: tuple[Effect, ...], now_ms: int) -> Outcome:
        if step.prompt is None:
            return self.finish(state, "ended", before)
        return self.play(state, step.id, "farewell", step.prompt, now_ms, before)

    # Playing and finishing

    def play(
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
                return self.fail(state, "no_sound", now_ms, *before)
            prompt = heard
        length_ms = max(self._length_ms(prompt), SHORTEST_PLAY_MS)
        state = self.at(state, "playing", role, now_ms + length_ms)
        return state, (*before, Play(step, role, prompt, length_ms))

    def at(self, state: RunState, phase: Phase, role: Role, due_ms: int) -> RunState:
        """The contact stays until `due_ms` at the latest, or until the flow's limit."""
        if role not in _LAST:
            due_ms = min(due_ms, state.began_ms + self._limit_ms)
        return RunState(
            state.step,
            phase,
            role,
            state.began_ms,
            state.entered_ms,
            due_ms,
            state.tries,
            None,
            state.values,
            state.flows,
            state.typed,
            state.counts,
            state.queue,
            state.plan,
            state.inner,
            state.told,
            state.rush,
            state.wrong,
            state.rounds,
        )

    def fail(self, state: RunState, why: str, now_ms: int, *before: Effect) -> Outcome:
        moved = Moved(state.step, "failure", None, why, "")
        if self.flow.failure_prompt is None:
            return self.finish(state, "failed", (*before, moved))
        prompt = said(self.flow.failure_prompt, state.values) or self.flow.failure_prompt
        length_ms = max(self._length_ms(prompt), SHORTEST_PLAY_MS)
        failing = self.at(state, "playing", "failure", now_ms + length_ms)
        play = Play(state.step, "failure", prompt, length_ms)
        return failing, (*before, moved, play)

    def finish(self, state: RunState, ending: Ending, before: tuple[Effect, ...]) -> Outcome:
        over = state._replace(phase="ended", role="", due_ms=None, ending=ending)
        return over, (*before, Finish(state.step, ending))


def arriving(now_ms: int) -> RunState:
    """Where a contact is before its flow has begun."""
    return RunState("", "playing", "", now_ms, now_ms, None, 0, None)


def rushed(state: RunState, now_ms: int) -> int:
    """How many steps a contact has entered since time last passed for it."""
    return state.rush if now_ms - state.entered_ms < SHORTEST_PLAY_MS else 0
