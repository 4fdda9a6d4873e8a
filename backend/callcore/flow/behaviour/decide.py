"""Steps that decide or note something, and take no time."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, NamedTuple

from callcore.flow import conditions, periods
from callcore.flow.inputs import resolved, said
from callcore.flow.parts import SpokenText
from callcore.flow.state import Effect, Environment, Labelled, RunState
from callcore.flow.steps import CheckHours, CheckQueue, Fork, Label, Repeat, SetValue, Times


class Decided(NamedTuple):
    """The exit that is taken, where it leads, why, and what changed on the way.

    An empty `exit` is a failure, with its reason in `why`.
    """

    state: RunState
    exit: str
    to: str | None
    why: str
    detail: str = ""
    effects: tuple[Effect, ...] = ()


def failed(state: RunState, why: str) -> Decided:
    """The failure rule is taken."""
    return Decided(state, "", None, why)


def hours(step: CheckHours, state: RunState, around: Environment, now_ms: int) -> Decided:
    """Open or closed."""
    reference = resolved(step.hours, state.values)
    answered = around.open_at(reference, now_ms) if reference else None
    if answered is None:
        return failed(state, "no_hours")
    exit_name, to = ("open", step.open) if answered[0] else ("closed", step.closed)
    return Decided(state, exit_name, to, "hours", answered[1])


def times(step: Times, state: RunState, around: Environment, now_ms: int) -> Decided:
    """The first arm whose periods hold the moment."""
    local = periods.local_time(now_ms, step.time_zone)
    when = f"{periods.DAYS[local.weekday()]} {local:%H:%M}"
    for arm in step.arms:
        if any(period.holds(local) for period in arm.periods):
            return Decided(state, f"arm:{arm.id}", arm.next, "times", when)
    return Decided(state, "otherwise", step.otherwise, "times", when)


def fork(step: Fork, state: RunState, around: Environment, now_ms: int) -> Decided:
    """The first arm whose condition holds."""
    for arm in step.arms:
        if conditions.holds(arm.when, state.values):
            detail = conditions.words(arm.when)
            return Decided(state, f"arm:{arm.id}", arm.next, "fork", detail)
    return Decided(state, "otherwise", step.otherwise, "fork", "nothing else holds")


def check_queue(step: CheckQueue, state: RunState, around: Environment, now_ms: int) -> Decided:
    """A live figure against its limit."""
    queue = None if step.whole_centre else resolved(step.queue, state.values) or state.queue or None
    if queue is None and not step.whole_centre:
        return failed(state, "no_queue")
    figure = around.figure(queue, step.figure)
    if figure is None:
        # Nothing to compare yet (no service level today): neither good nor bad is "no".
        return Decided(state, "no", step.no, "figure", "no figure yet")
    held = figure >= step.limit if step.how == "at_least" else figure < step.limit
    exit_name, to = ("yes", step.yes) if held else ("no", step.no)
    return Decided(state, exit_name, to, "figure", f"{figure:g}")


def set_value(step: SetValue, state: RunState, around: Environment, now_ms: int) -> Decided:
    """A value from now on."""
    value = state.values.get(step.copy_of) if step.copy_of else step.to
    state = state._replace(values={**state.values, step.value: value})
    return Decided(state, "next", step.next, "set", f"{step.value} = {shown(value)}")


def label(step: Label, state: RunState, around: Environment, now_ms: int) -> Decided:
    """What agents read from now on."""
    text = said(SpokenText(text=step.label), state.values)
    assert isinstance(text, SpokenText)
    asks = tuple((asked.skill, asked.least) for asked in step.skills)
    effect = Labelled(step.id, text.text, step.priority, asks, step.language)
    return Decided(state, "next", step.next, "label", text.text, (effect,))


def repeat(step: Repeat, state: RunState, around: Environment, now_ms: int) -> Decided:
    """Again, until it has been often enough."""
    gone = state.counts.get(step.id, 0) + 1
    if gone > step.times:
        state = state._replace(counts={**state.counts, step.id: 0})
        return Decided(state, "done", step.done, "repeat", str(step.times))
    state = state._replace(counts={**state.counts, step.id: gone})
    return Decided(state, "again", step.again, "repeat", str(gone))


def shown(value: Any) -> str:
    """A value as the trace shows it."""
    if value is None or value == "":
        return "nothing"
    return ("yes" if value else "no") if isinstance(value, bool) else str(value)


Decide = Callable[[Any, RunState, Environment, int], Decided]
DECIDE: dict[type, Decide] = {
    CheckHours: hours,
    Times: times,
    Fork: fork,
    CheckQueue: check_queue,
    SetValue: set_value,
    Label: label,
    Repeat: repeat,
}
