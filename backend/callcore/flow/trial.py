"""Trial calls on paper: a flow run with a clock of its own and whatever is pretended.

The same machine as on the exchange; only what answers it is made up here, from the trial's
setup. A pretended value belongs to the trial: a flow has no place to keep one.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any, NamedTuple

from callcore.errors import DefinitionError, Problem
from callcore.flow import describe
from callcore.flow.blocks import plain, way_out
from callcore.flow.catalogue import Catalogue
from callcore.flow.definition import AnyStep, Flow, SetValue
from callcore.flow.onward import onward
from callcore.flow.runner import (
    BookCallback,
    Dial,
    Due,
    Event,
    FaxTone,
    Finish,
    HandOver,
    HearFax,
    JoinQueue,
    Key,
    Labelled,
    Listen,
    Looked,
    LookUp,
    Machine,
    MadeUp,
    MessageLeft,
    Moved,
    NowhereToGo,
    PersonDone,
    Play,
    PlayMusic,
    Record,
    RingPerson,
    Rung,
    RunState,
    Spoken,
    Taken,
    Texted,
    WaitedOut,
    rushed,
)
from callcore.flow.state import WITHIN
from callcore.flow.trial_setup import Setup, pretended, pretended_rows, with_failures
from callcore.flow.why import why
from callcore.speech.recogniser import TypedSpeech

#: After so many events a trial is given up: it goes round.
MOST_EVENTS = 2_000
#: What a pretended caller does where nothing is said: a message and a talk of this length.
MESSAGE_MS, TALK_MS, KEY_AFTER_MS = 8_000, 60_000, 1_000

#: How words that a caller says stand among the keys.
SAYS = "say:"
_KEY = re.compile(rf"[0-9*#]|wait|{SAYS}.*\S.*", re.S)


class Line(NamedTuple):
    """One line of the transcript: when, at which stop, what happens, and why."""

    at_ms: int
    kind: str
    step: str
    exit: str
    to: str
    words: str
    why: str


class Leg(NamedTuple):
    """A flow that a call is in: as its author wrote it, with its blocks laid in, and how its stops
    are told from those of the flow that is tried."""

    written: Flow
    machine: Machine
    prefix: str
    steps: Mapping[str, AnyStep]


class Result(NamedTuple):
    """How a trial went. `open` says what a call that is not over waits for (`key`, `queue`).

    `stops` and `step` are ids of the flow that was tried, or `reference/id` in flows that it went
    on in; `names` tells what the latter are called. `listens`: words are understood there now.
    """

    lines: list[Line]
    stops: list[str]
    heard: list[str]
    ending: str
    place: str
    seconds: float
    open: str
    phase: str
    step: str
    names: dict[str, str]
    listens: bool = False


class Trial:
    """One run.

    Args:
        written: the flow as its author wrote it.
        flow: the same with its shared blocks laid in.
        around: what really is: hours, mailboxes, extensions, people.
        look_up: a row of a table, for those that are not pretended.
        now_ms: the moment of a trial that names none.
        elsewhere: a flow that is in force, as it was written and with its blocks laid in.
    """

    def __init__(
        self,
        written: Flow,
        flow: Flow,
        catalogue: Catalogue,
        setup: Setup,
        around: MadeUp,
        look_up: Callable[[str, str], Mapping[str, Any] | None],
        now_ms: int,
        elsewhere: Callable[[str], tuple[Flow, Flow] | None] = lambda _: None,
    ) -> None:
        self._catalogue = catalogue
        self._setup = setup
        self._real = around
        self._look_up = look_up
        self._elsewhere = elsewhere
        self._pretended = pretended(setup.pretend, around, catalogue)
        tried = with_failures(flow, setup.pretend, setup.start)
        self._leg = self._begin_leg(written, tried, "")
        self._rows = pretended_rows(setup.pretend, catalogue)
        self._begins = round(setup.at.timestamp() * 1000) if setup.at else now_ms
        self._text = written.channel == "text"
        self._keys = list(setup.keys)
        if not self._text and any(not _KEY.fullmatch(key) for key in self._keys):
            raise DefinitionError([Problem(("setup", "keys"), "A telephone has no such key.")])
        self._now = self._begins
        self._asked: LookUp | None = None
        self._plan = ""
        self._queue = ""
        self._going = ""
        self._lines: list[Line] = []
        self._stops: list[str] = []
        self._heard: list[str] = []
        self._names: dict[str, str] = {}
        self._finish: Finish | None = None

    @property
    def _machine(self) -> Machine:
        return self._leg.machine

    def run(self, *, hold: bool = False) -> Result:
        """From the start to the end; with `hold` only until the next key is needed."""
        given = {**self._setup.values, "caller": self._setup.caller, "dialled": self._setup.dialled}
        if self._text:
            given["message"] = self._keys.pop(0) if self._keys else ""
        state, effects = self._machine.start(self._begins, given)
        self._take(effects, state)
        waits_for = ""
        for _ in range(MOST_EVENTS):
            if state.phase == "ended":
                break
            if state.phase == "going" and self._goes_on():
                state, effects = self._machine.start(
                    self._now, {**given, **state.values}, state.flows + 1, rush=rushed(state, self._now)
                )
                self._take(effects, state)
                continue
            event = self._next(state, hold)
            if event is None:
                phase = state.inner.phase if state.inner else state.phase
                waits_for = "key" if phase in ("listening", "recording") else state.phase
                break
            state, effects = self._machine.resume(state, event, self._now)
            self._take(effects, state)
        return self._result(state, waits_for)

    # What happens next

    def _next(self, state: RunState, hold: bool) -> Event | None:
        if state.phase in ("listening", "recording"):
            return self._pressed(state, hold)
        if state.phase == "playing":
            return self._due(state)
        if state.phase == "queued":
            return self._queued(state, hold)
        if state.phase == "leaving":
            return self._in_plan(state, hold)
        return _NEXT[state.phase](self, state)

    def _due(self, state: RunState) -> Event:
        self._now = max(self._now, state.due_ms or self._now)
        return Due()

    def _pressed(self, state: RunState, hold: bool, machine: Machine | None = None) -> Event | None:
        """The next key; `machine` is that of the waiting plan, where the caller is in one."""
        step = self._machine.steps.get(state.step)
        if step is not None and step.kind == "fax":
            if self._setup.pretend.fax:
                self._now += KEY_AFTER_MS
                return FaxTone()
            return self._due(state)
        if self._keys:
            key = self._keys.pop(0)
            if key == "wait":
                return self._due(state)
            self._now += MESSAGE_MS if state.phase == "recording" else KEY_AFTER_MS
            if self._text:
                self._line("text", state.step, f"Writes “{key}”")
                return Texted(key)
            if key.startswith(SAYS):
                return self._says(machine or self._machine, state, key.removeprefix(SAYS).strip())
            self._line("key", state.step, f"Presses {key}")
            return Key(key)
        if hold:
            return None
        if state.phase == "recording":
            self._now += MESSAGE_MS
            return Key("#")
        return self._due(state)

    def _says(self, machine: Machine, state: RunState, words: str) -> Event:
        grammar = machine.grammar(state)
        meant = TypedSpeech().understood(words, grammar) if grammar else ""
        nobody = "" if grammar else "nothing listens for words here"
        self._line("speech", state.step, f"Says “{words}”", nobody)
        return Spoken(words, meant)

    def _queued(self, state: RunState, hold: bool) -> Event | None:
        pretended = self._setup.pretend.waits
        facts = self._catalogue.queues.get(self._queue)
        step = self._machine.steps.get(state.step)
        longest_s = getattr(step, "longest_wait_s", None) or (facts.longest_wait_s if facts else None)
        if self._queue in self._setup.pretend.queues:
            return WaitedOut(self._setup.pretend.queues[self._queue])
        wait_s = pretended.get(self._queue, 0)
        answered = wait_s is not None and (longest_s is None or wait_s < longest_s)
        over_s = wait_s if answered else longest_s
        over_ms = None if over_s is None else state.entered_ms + over_s * 1000
        if self._plan_first(state, over_ms):
            return self._in_plan(state, hold)
        if answered:
            assert over_ms is not None
            self._now = over_ms
            self._line("person", state.step, "A person answers", f"after {wait_s} s, pretended")
            return Taken()
        if longest_s is None:
            return None
        assert over_ms is not None
        self._now = over_ms
        return WaitedOut()

    def _plan_first(self, state: RunState, over_ms: int | None) -> bool:
        """Whether something happens in the waiting plan before the wait is over."""
        if state.inner is None or state.due_ms is None:
            return False
        due_ms = state.due_ms
        if state.inner.phase == "listening" and self._keys and self._keys[0] != "wait":
            due_ms = self._now + KEY_AFTER_MS
        return over_ms is None or due_ms < over_ms

    def _in_plan(self, state: RunState, hold: bool) -> Event | None:
        """The waiting plan goes on, also where it leads out of the queue."""
        inner = state.inner
        if inner is not None and inner.phase in ("listening", "recording"):
            return self._pressed(inner, hold, self._pretended.plan_machine(state.plan))
        return self._due(state)

    def _with_person(self, state: RunState) -> Event:
        self._now += TALK_MS
        return PersonDone()

    def _ringing(self, state: RunState) -> Event:
        step: Any = self._machine.steps.get(state.step)
        result = self._setup.pretend.rings.get(self._leg.prefix + state.step, "answered")
        if result == "no_answer":
            return self._due(state)
        self._now += 4 * KEY_AFTER_MS
        outside = getattr(step, "number", "") and not getattr(step, "people", ())
        return Taken() if result == "answered" and not outside else Rung(result)

    def _outside(self, state: RunState) -> Event:
        self._now += TALK_MS
        return Rung("done")

    def _asking(self, state: RunState) -> Event:
        assert self._asked is not None
        if self._asked.table in self._rows:
            return Looked(self._rows[self._asked.table])
        return Looked(self._look_up(self._asked.table, self._asked.key))

    def _goes_on(self) -> bool:
        """Whether the call went on in another flow, or in what a queue says then."""
        here = self._leg.written
        if self._going.startswith("flow:"):
            facts = self._catalogue.flows.get(self._going)
            found = self._elsewhere(self._going) if facts is not None and facts.in_force else None
        else:
            then = onward(self._going, "", here.channel, here.language)
            found = (then, then)
        if found is None:
            return False
        written, flow = found
        tried = with_failures(flow, self._setup.pretend, None)
        self._leg = self._begin_leg(written, tried, f"{self._going}/")
        return True

    def _begin_leg(self, written: Flow, flow: Flow, prefix: str) -> Leg:
        machine = Machine(flow, self._catalogue.length_ms, self._pretended)
        return Leg(written, machine, prefix, {step.id: step for step in written.steps})

    def _go_on(self, state: RunState) -> Event | None:
        facts = self._catalogue.flows.get(self._going)
        return None if facts is not None and facts.in_force else NowhereToGo()

    # Writing down

    def _take(self, effects: tuple[Any, ...], state: RunState) -> None:
        self._plan = state.plan or self._plan
        for effect in effects:
            take = _TAKE.get(type(effect))
            if take is not None:
                take(self, effect)

    def _line(
        self, kind: str, step: str, words: str, reason: str = "", exit_name: str = "", to: str = ""
    ) -> None:
        at_ms = self._now - self._begins
        here = self._leg.prefix
        to = here + to if to else ""
        self._lines.append(Line(at_ms, kind, here + step, exit_name, to, plain(words), plain(reason)))

    def _moved(self, moved: Moved) -> None:
        if moved.to is not None and "." not in moved.to:
            self._stops.append(self._leg.prefix + moved.to)
        step, exit_name = way_out(self._leg.written, moved.step, moved.exit, moved.to)
        target = self._leg.steps.get(moved.to or "")
        if target is None and moved.to is not None:
            inner = self._inner_step(moved.to)
            target = None if isinstance(inner, SetValue) else inner
        said = describe.stop(target, self._catalogue) if target is not None else None
        if said is not None and self._leg.prefix and moved.to is not None:
            self._names[self._leg.prefix + moved.to] = said.name
        reason = why(*self._where(moved))
        if moved.step in self._setup.pretend.failing:
            reason = "this step is pretended to fail"
        words = f"{said.title}: {said.sentence}" if said else ""
        self._line("moved", step, words, reason, exit_name, moved.to or "")

    def _inner_step(self, step_id: str) -> AnyStep | None:
        """A stop of a shared block, or of the waiting plan."""
        _, within, rest = step_id.partition(WITHIN)
        if not within:
            return self._machine.steps.get(step_id)
        plan = self._real.plan_machine(self._plan)
        return plan.steps.get(rest) if plan else None

    def _where(self, moved: Moved) -> tuple[Moved, Flow]:
        """A move with the flow that it happened in: this one, or the waiting plan."""
        _, within, rest = moved.step.partition(WITHIN)
        plan = self._real.plan_machine(self._plan) if within else None
        if plan is None:
            return moved, self._machine.flow
        to = moved.to.partition(WITHIN)[2] if moved.to else None
        return moved._replace(step=rest, to=to), plan.flow

    def _booked(self, booked: BookCallback) -> None:
        number = self._catalogue.national.get(booked.number, booked.number)
        self._line("callback", booked.step, f"A callback to {number} is booked")

    def _played(self, play: Play) -> None:
        words = self._catalogue.words(play.prompt) or describe.prompt_words(play.prompt, self._catalogue)
        self._heard.append(words)
        self._line("heard", play.step, f"{'Reads' if self._text else 'Hears'} “{words}”")

    def _joined(self, join: JoinQueue) -> None:
        self._queue = join.queue
        facts = self._catalogue.queues.get(join.queue)
        music = "" if self._text else ", music"
        self._line("queue", join.step, f"Waits in {facts.name if facts else 'the queue'}{music}")

    def _rang(self, ring: Dial | RingPerson) -> None:
        if isinstance(ring, Dial):
            name = self._catalogue.national.get(ring.number, ring.number)
        else:
            name = ", ".join(self._catalogue.agents.get(p, "somebody") for p in ring.people)
            group = self._catalogue.groups.get(ring.group)
            name = f"{group.name} ({name})" if group else name
        self._line("ring", ring.step, f"Rings {name}")

    def _looks_up(self, asked: LookUp) -> None:
        self._asked = asked
        facts = self._catalogue.tables.get(asked.table)
        self._line("lookup", asked.step, f"Looks {asked.key} up in {facts.name if facts else 'it'}")

    def _handed_over(self, over: HandOver) -> None:
        self._going = over.flow
        found = (self._catalogue.flows, self._catalogue.queues, self._catalogue.mailboxes)
        names = [known[over.flow].name for known in found if over.flow in known]
        self._line("going", over.step, f"Goes on in {names[0] if names else 'another flow'}")

    def _finished(self, finish: Finish) -> None:
        self._finish = finish

    def _result(self, state: RunState, waits_for: str) -> Result:
        ending = self._finish.ending if self._finish else ""
        if not ending and state.phase == "going":
            ending, waits_for = "elsewhere", ""
        step = (self._finish.step if self._finish else state.step).partition(".")[0]
        step = step.partition(WITHIN)[0]
        found = self._leg.steps.get(step)
        place = describe.stop(found, self._catalogue).name if found is not None else ""
        seconds = round((self._now - self._begins) / 1000, 1)
        return Result(
            self._lines,
            self._stops,
            self._heard,
            ending,
            place,
            seconds,
            waits_for,
            state.phase,
            self._leg.prefix + step,
            self._names,
            self._machine.grammar(state) is not None,
        )


_NEXT: dict[str, Callable[[Trial, RunState], Event | None]] = {
    "with_person": Trial._with_person,
    "ringing": Trial._ringing,
    "outside": Trial._outside,
    "asking": Trial._asking,
    "going": Trial._go_on,
}
_TAKE: dict[type, Callable[[Trial, Any], None]] = {
    Moved: Trial._moved,
    Play: Trial._played,
    JoinQueue: Trial._joined,
    BookCallback: Trial._booked,
    Dial: Trial._rang,
    RingPerson: Trial._rang,
    LookUp: Trial._looks_up,
    HandOver: Trial._handed_over,
    Finish: Trial._finished,
    Listen: lambda t, e: t._line("listens", e.step, "Waits for an answer" if t._text else "Waits for a key"),
    HearFax: lambda t, e: t._line("listens", e.step, "Listens for a fax tone"),
    PlayMusic: lambda t, e: t._line("music", e.step, "Hears music"),
    Record: lambda t, e: t._line("record", e.step, "Is recorded"),
    MessageLeft: lambda t, e: t._line("message", e.step, "A message is left"),
    Labelled: lambda t, e: t._line("label", e.step, f"Labelled “{e.label}”"),
}
