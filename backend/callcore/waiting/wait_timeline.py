"""The caller's clock: what happens to a contact in a queue, from entering it to the latest way out.

Nothing of a waiting plan is written down a second time here: the plan is run, as for a real
caller for whom nobody becomes free, and what it does is noted with its time.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from typing import Literal, NamedTuple

from callcore.flow.catalogue import Catalogue
from callcore.flow.describe import prompt_words
from callcore.flow.runner import Machine
from callcore.flow.state import (
    BookCallback,
    Due,
    Effect,
    Finish,
    LeaveQueue,
    MadeUp,
    Place,
    Play,
    PlayMusic,
    RunState,
)
from callcore.flow.steps import Message, OfferCallback, TellWait
from callcore.routing.events import QueueRule

MarkKind = Literal["heard", "music", "told", "callback", "widens", "prefers", "message", "leaves"]

#: A wait without end is followed this far, in milliseconds.
FURTHEST_MS = 15 * 60_000
#: A plan that does more than this is noted no further.
_MOST_MARKS = 120
#: The place, and the wait ahead in seconds, of the caller whom the clock follows.
_STANDS = (3, 180.0)
_TOLD = "their place, and the wait where it is known well enough"


class Mark(NamedTuple):
    """What happens at a moment, in milliseconds since entering the queue.

    `until_ms` is later than `at_ms` where it takes its time.
    """

    at_ms: int
    until_ms: int
    kind: MarkKind
    words: str


class Clock(NamedTuple):
    """Everything on one line. `leaves`: whether the line ends because the queue lets go.
    `at_once`: the ways (`nobody`, `closed`) by which it would let a caller go at any moment, and
    what comes then."""

    marks: tuple[Mark, ...]
    end_ms: int
    leaves: bool
    at_once: tuple[tuple[str, str], ...] = ()


def clock(
    rule: QueueRule,
    plan: Machine | None,
    catalogue: Catalogue,
    then: str = "the flow goes on",
    team_names: Callable[[int], str] = lambda _step: "other teams",
    at_once: Iterable[tuple[str, str]] = (),
) -> Clock:
    """What a caller meets for whom nobody becomes free.

    Args:
        rule: the queue's settings.
        plan: its waiting plan, ready to run; None is music only.
        catalogue: names and lengths, for words.
        then: what comes after the longest wait, in words.
        team_names: the teams that a step of the widening lets in, by its place.
        at_once: see `Clock`.
    """
    longest_ms = rule.longest_wait_ms
    end_ms = longest_ms if longest_ms is not None else FURTHEST_MS
    marks = list(_planned(plan, catalogue, end_ms)) if plan else [Mark(0, end_ms, "music", "Music")]
    gone = next((mark for mark in marks if mark.kind == "message"), None)
    if gone is not None:
        end_ms = gone.at_ms
    for number, step in enumerate(rule.widening):
        words = [f"skills may be {step.lower} lower"] if step.lower else []
        words += [f"{team_names(number)} may answer"] if step.agents else []
        if step.after_ms < end_ms and words:
            marks.append(Mark(step.after_ms, step.after_ms, "widens", ", ".join(words)))
    if 0 < rule.prefer_ms < end_ms:
        words_ = "everybody who can"
        marks.append(Mark(rule.prefer_ms, rule.prefer_ms, "prefers", words_))
    leaves = longest_ms is not None and gone is None
    if leaves:
        marks.append(Mark(end_ms, end_ms, "leaves", then))
    marks.sort(key=lambda mark: mark.at_ms)
    return Clock(tuple(marks), end_ms, leaves, tuple(at_once))


def _figure(queue: str | None, name: str) -> float | None:
    """A queue in which one waits a while: some are before, and everybody is busy."""
    del queue
    position, wait_s = _STANDS
    busy = {"signed_in": 4, "available": 0, "waiting": position + 1, "longest_wait": wait_s}
    return {**busy, "position": position, "expected_wait": wait_s}.get(name)


def _planned(plan: Machine, catalogue: Catalogue, end_ms: int) -> Iterator[Mark]:
    """The marks of a waiting plan, until the end or until it leads out of the queue."""
    around = MadeUp(place=lambda _: Place(*_STANDS), figure=_figure)
    shown = Machine(plan.flow, catalogue.length_ms, around)
    state, effects = shown.start(0, queue="queue:")
    now_ms = 0
    for _ in range(_MOST_MARKS):
        for effect in effects:
            mark = _mark(shown, effect, now_ms, state, catalogue, end_ms)
            if mark is not None:
                yield mark
                if mark.kind == "message":
                    return
        if state.phase == "ended":
            yield Mark(now_ms, end_ms, "music", "Music")
            return
        if state.due_ms is None or state.due_ms >= end_ms:
            return
        now_ms = state.due_ms
        state, effects = shown.resume(state, Due(), now_ms)


def _mark(
    plan: Machine, effect: Effect, now_ms: int, state: RunState, catalogue: Catalogue, end_ms: int
) -> Mark | None:
    if isinstance(effect, Finish | BookCallback | LeaveQueue):
        return None
    step = plan.steps.get(effect.step)
    if isinstance(step, Message):
        return Mark(now_ms, now_ms, "message", "leaves a message")
    if isinstance(effect, PlayMusic):
        return Mark(now_ms, min(effect.until_ms, end_ms), "music", "Music")
    if not isinstance(effect, Play):
        return None
    until_ms = min(now_ms + effect.length_ms, end_ms)
    if isinstance(step, TellWait):
        return Mark(now_ms, until_ms, "told", _TOLD)
    if isinstance(step, OfferCallback):
        return Mark(now_ms, until_ms, "callback", "a callback is offered")
    return Mark(now_ms, until_ms, "heard", prompt_words(effect.prompt, catalogue))
