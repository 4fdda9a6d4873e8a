"""Ways that lead nowhere, round and round, or are never taken."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping

from callcore.flow import describe
from callcore.flow.catalogue import QueueFacts
from callcore.flow.definition import AnyStep, Exit, Menu, Ring, Say, WaitInQueue
from callcore.flow.findings import Finding, Fix, end_here, position
from callcore.flow.rules.walk import Walk
from callcore.flow.times import longest_s

#: Steps at which a call can end, or leave the flow.
ENDINGS = ("queue", "ring", "message", "callback", "directory", "extension", "go", "end")


def _no_start(walk: Walk) -> Iterator[Finding]:
    if walk.flow.start in walk.steps:
        return
    fix = None
    if walk.flow.steps:
        first = walk.flow.steps[0].id
        fix = Fix("Begin at the first stop", ({"op": "add", "path": "/start", "value": first},))
    yield Finding(
        "no-start",
        "blocks",
        "",
        "",
        "The flow has no beginning: callers would be cut off at once.",
        "Choose the stop that callers come to first.",
        fix,
    )


def _said_elsewhere(walk: Walk, step: AnyStep, way: Exit) -> bool:
    """Whether somebody else says what becomes of callers who leave by an exit that leads nowhere:
    a stop's queue or ring group of those whom nobody takes, the centre of those without a key."""
    if isinstance(step, Menu):
        return way.failure and walk.catalogue.silence_ends and walk.flow.channel == "voice"
    if isinstance(step, Ring):
        group = walk.catalogue.groups.get(walk.counted(step.group) or "")
        return group is not None and bool(group.mailbox)
    if not isinstance(step, WaitInQueue):
        return False
    facts = walk.catalogue.queues.get(walk.counted(step.queue) or "")
    return facts is not None and bool(facts.overflow)


def _open_exits(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        for way in walk.exits[step.id]:
            if walk.leads(way):
                continue
            label = describe.exit_label(step, way.name)
            fix = end_here(walk.flow, step.id, way.name)
            if way.to is not None:
                yield Finding(
                    "missing-target",
                    "blocks",
                    step.id,
                    way.name,
                    f"“{label}” leads to a stop that does not exist: callers would be cut off.",
                    "Choose another stop, or end the call there.",
                    fix,
                )
            elif walk.flow.purpose == "plan" or _said_elsewhere(walk, step, way):
                continue
            elif way.failure:
                yield Finding(
                    "default-failure",
                    "warns",
                    step.id,
                    way.name,
                    f"“{label}” leads nowhere of its own: callers meet the flow's failure rule "
                    "and the call ends.",
                    "Say where these callers go.",
                    fix,
                )
            else:
                yield Finding(
                    "open-exit",
                    "blocks",
                    step.id,
                    way.name,
                    f"“{label}” leads nowhere: callers would be cut off.",
                    "Choose the stop that comes next, or end the call there.",
                    fix,
                )


def _silence(walk: Walk) -> Iterator[Finding]:
    """Where a caller who never presses a key goes round until the stay limit ends it."""
    if walk.flow.purpose == "plan":
        return
    after: dict[str, str | None] = {}
    for step in walk.flow.steps:
        if isinstance(step, Say):
            after[step.id] = step.next
        elif isinstance(step, Menu):
            after[step.id] = step.id if step.tries is None else step.no_key
    minutes = describe.duration(walk.flow.stay_limit_s)
    done: set[str] = set()
    for first in after:
        path: dict[str, None] = {}
        at: str | None = first
        while at is not None and at in after and at not in done and at not in path:
            path[at] = None
            at = after[at]
        if at is not None and at in path:
            loop = list(path)[list(path).index(at) :]
            menus = [i for i in loop if isinstance(walk.steps[i], Menu)]
            if menus:
                yield _endless_silence(walk, menus[0], minutes, after)
        done.update(path)


def _comes_back(menu: Menu, after: Mapping[str, str | None]) -> bool:
    """Whether silence leads from a menu, once it does not ask again, to the menu once more."""
    met: set[str] = set()
    at = menu.no_key
    while at is not None and at in after and at not in met and at != menu.id:
        met.add(at)
        at = after[at]
    return at == menu.id


def _endless_silence(walk: Walk, menu_id: str, minutes: str, after: Mapping[str, str | None]) -> Finding:
    menu = walk.steps[menu_id]
    assert isinstance(menu, Menu)
    fix, mend = end_here(walk.flow, menu_id, "no_key"), "Let silence lead out of the loop."
    if menu.tries is None:
        at, out = position(walk.flow, menu_id), fix.patch if _comes_back(menu, after) else ()
        thrice = {"op": "add", "path": f"/steps/{at}/tries", "value": 3}
        fix, mend = Fix("Ask three times", (thrice, *out)), "Limit how often the menu asks."
    return Finding(
        "no-silence-limit",
        "warns",
        menu_id,
        "no_key",
        f"A silent caller, or a robot, stays here until the flow's limit of {minutes}: at your cost.",
        mend,
        fix,
    )


def _no_way_out(walk: Walk) -> Iterator[Finding]:
    if walk.flow.purpose == "plan":
        return
    into: dict[str, list[str]] = {step_id: [] for step_id in walk.steps}
    leaves: list[str] = []
    for step_id, step in walk.steps.items():
        ways = walk.exits[step_id]
        if step.kind in ENDINGS or any(not walk.leads(way) for way in ways):
            leaves.append(step_id)
        for way in ways:
            if way.to in into:
                into[way.to].append(step_id)
    free: set[str] = set()
    while leaves:
        at = leaves.pop()
        if at not in free:
            free.add(at)
            leaves.extend(into[at])
    trapped = [i for i in walk.steps if i in walk.reached and i not in free]
    if trapped:
        name = describe.stop(walk.steps[trapped[0]], walk.catalogue).name
        # A way that something going wrong takes ends the round soonest; else the last one does. It is
        # one of the round itself: a way that leads into it lets nobody out.
        round_ = walk.onward(trapped[0])
        out = [(i, way) for i in trapped if i in round_ for way in walk.exits[i]]
        at, last = next(((i, way) for i, way in out if way.failure), out[-1])
        where = describe.stop(walk.steps[at], walk.catalogue).name
        said = describe.exit_label(walk.steps[at], last.name)
        yield Finding(
            "no-way-out",
            "blocks",
            trapped[0],
            "",
            f"From “{name}” callers go round {len(trapped)} "
            f"{'stop' if len(trapped) == 1 else 'stops'} and can never leave.",
            "Give the loop an exit that leads to an ending.",
            end_here(walk.flow, at, last.name, f"End the call after “{where}”: {said}"),
        )


#: Exits that a caller may take in the very moment in which they come to the stop, by its kind;
#: None stands for all of them.
_AT_ONCE: dict[str, tuple[str, ...] | None] = {
    "hours": None,
    "times": None,
    "fork": None,
    "check_queue": None,
    "set": None,
    "label": None,
    "repeat": None,
    "lookup": None,
    "go": None,
    "tell": ("next",),
    "message": ("failed",),
    "callback": ("failed",),
}


def _at_once(walk: Walk, step: AnyStep) -> list[Exit]:
    """The ways out of a stop that may take no time."""
    names = _AT_ONCE.get(step.kind, ())
    if isinstance(step, Ring):
        # Who is not there is busy at once; a number outside takes its time to say so.
        people = step.people or step.group
        names = ("failed",) if not people and not step.number else ()
        names = ("busy", "away", "failed", "no_answer") if people else names
    if isinstance(step, WaitInQueue):
        facts = walk.catalogue.queues.get(walk.counted(step.queue) or "")
        names = _let_go_by(step, facts) if facts is not None else ()
    return [e for e in walk.exits[step.id] if walk.leads(e) and (names is None or e.name in names)]


def _let_go_by(step: WaitInQueue, facts: QueueFacts) -> tuple[str, ...]:
    """The exits by which a queue may let somebody go in the moment in which they come."""
    ways = [way for way, on in (("nobody", facts.lets_go), ("closed", facts.closes)) if on]
    return tuple(way if getattr(step, way) or facts.sends(way) else "waited" for way in ways)


def _no_time(walk: Walk) -> Iterator[Finding]:
    """Rounds that can be gone without any time passing: the runner ends them by the failure rule.

    Stops that no such round goes through are peeled off; what is left holds one each.
    """
    ways = {step.id: _at_once(walk, step) for step in walk.flow.steps if step.id in walk.reached}
    into: dict[str, list[str]] = {step_id: [] for step_id in ways}
    for step_id, found in ways.items():
        for way in found:
            into[way.to or ""].append(step_id)
    left = {step_id: len(found) for step_id, found in ways.items()}
    peel = [step_id for step_id, count in left.items() if not count]
    while peel:
        for before in into[peel.pop()]:
            left[before] -= 1
            if not left[before]:
                peel.append(before)
    seen: set[str] = set()
    for first in ways:
        path: dict[str, Exit] = {}
        at = first
        while left[at] and at not in seen:
            seen.add(at)
            path[at] = next(way for way in ways[at] if left[way.to or ""])
            at = path[at].to or ""
        if at in path:
            loop = list(path)[list(path).index(at) :]
            yield _round_in_no_time(walk, loop, path)


def _round_in_no_time(walk: Walk, loop: list[str], path: dict[str, Exit]) -> Finding:
    kinds = {walk.steps[step_id].kind for step_id in loop}
    at = next((i for i in loop if walk.steps[i].kind in ("repeat", "queue", "ring")), loop[0])
    label = describe.exit_label(walk.steps[at], path[at].name)
    if "repeat" in kinds:
        message = (
            "The rounds take no time: callers hear nothing and wait for nothing between them, so "
            "the same is found each time."
        )
        mend = "Say something, play music or wait inside the rounds."
    else:
        message = (
            f"By “{label}” callers can come back here in the same moment, again and again: they "
            "would meet the flow's failure rule at once."
        )
        mend = "Lead this way somewhere else, or let something be heard on the way."
    return Finding(
        "no-time-loop",
        "warns" if kinds & {"repeat", "set", "tell"} else "blocks",
        at,
        path[at].name,
        message,
        mend,
    )


def _longer_than_the_limit(walk: Walk) -> Iterator[Finding]:
    """A way without rounds that takes longer than callers may stay; queues are not counted."""
    if walk.flow.purpose == "plan" or walk.flow.channel == "text":
        return
    longest: dict[str, float] = {}
    todo: list[tuple[str | None, bool]] = [(walk.flow.start, False)]
    open_steps: set[str] = set()
    while todo:
        at, done = todo.pop()
        step = walk.steps.get(at or "")
        if step is None or (not done and (step.id in longest or step.id in open_steps)):
            continue
        if not done:
            open_steps.add(step.id)
            todo.append((step.id, True))
            todo.extend((way.to, False) for way in walk.exits[step.id])
            continue
        open_steps.discard(step.id)
        longest[step.id] = max(
            (
                longest_s(step, way.name, walk.catalogue) + longest.get(way.to or "", 0.0)
                for way in walk.exits[step.id]
            ),
            default=longest_s(step, "", walk.catalogue),
        )
    needed = longest.get(walk.flow.start or "", 0.0)
    if needed > walk.flow.stay_limit_s:
        limit, long = describe.duration(walk.flow.stay_limit_s), describe.duration(needed)
        yield Finding(
            "longer-than-limit",
            "warns",
            "",
            "",
            f"The longest way takes {long}, and callers may stay {limit}: those who hear all of "
            "it meet the failure rule.",
            "Raise the longest stay, or shorten what is heard.",
            Fix(
                f"Let them stay {long}",
                (
                    {
                        "op": "replace",
                        "path": "/stay_limit_s",
                        "value": min(7200, math.ceil(needed / 60) * 60),
                    },
                ),
            ),
        )


def _not_reached(walk: Walk) -> Iterator[Finding]:
    if not walk.reached:
        return
    for at, step in enumerate(walk.flow.steps):
        if step.id not in walk.reached:
            yield Finding(
                "not-reached",
                "hints",
                step.id,
                "",
                "Nothing leads to this stop: no caller will ever hear it.",
                "Lead an exit to it, or remove it.",
                Fix("Remove it", ({"op": "remove", "path": f"/steps/{at}"},)),
            )


RULES = (_no_start, _open_exits, _silence, _no_way_out, _no_time, _longer_than_the_limit, _not_reached)
