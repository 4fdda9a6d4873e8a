"""The checker: what would go wrong for a caller, before one meets it.

Each rule is a generator over a `Walk` of the flow; `check` runs all of them
and sorts worst first. Every rule is linear in the number of exits.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import cached_property

from callcore.flow import describe
from callcore.flow.definition import (
    CheckHours,
    End,
    Exit,
    Flow,
    LibrarySound,
    Menu,
    Queue,
    Say,
    SpokenText,
    exits,
    prompts,
)
from callcore.flow.findings import SEVERITIES, Finding, Fix, end_here, position
from callcore.flow.spoken_keys import offered_keys
from callcore.flow.world import World

MANY_CHOICES = 5
MANY_LEVELS = 3
LATE_CHOICE_S = 25


class Walk:
    """A flow with what several rules need to know of it."""

    def __init__(self, flow: Flow, world: World) -> None:
        self.flow = flow
        self.world = world
        self.steps = {step.id: step for step in flow.steps}
        self.exits: dict[str, tuple[Exit, ...]] = {s.id: exits(s) for s in flow.steps}

    @cached_property
    def reached(self) -> set[str]:
        """Every step that a caller can come to."""
        seen: set[str] = set()
        todo = [self.flow.start] if self.flow.start in self.steps else []
        while todo:
            at = todo.pop()
            assert at is not None
            if at in seen:
                continue
            seen.add(at)
            todo.extend(e.to for e in self.exits[at] if e.to in self.steps)
        return seen

    def leads(self, way: Exit) -> bool:
        """Whether an exit leads to a step."""
        return way.to in self.steps


def check(flow: Flow, world: World) -> list[Finding]:
    """Every finding, worst first, in the order of the flow's steps."""
    walk = Walk(flow, world)
    found = [finding for rule in RULES for finding in rule(walk)]
    order = {step.id: i for i, step in enumerate(flow.steps)}
    return sorted(found, key=lambda f: (SEVERITIES.index(f.severity), order.get(f.step, -1)))


def blocking(findings: list[Finding]) -> list[Finding]:
    """The findings that keep a flow from being published."""
    return [f for f in findings if f.severity == "blocks"]


def _no_start(walk: Walk) -> Iterator[Finding]:
    if walk.flow.start in walk.steps:
        return
    fix = None
    if walk.flow.steps:
        first = walk.flow.steps[0].id
        fix = Fix("Begin at the first stop", ({"op": "add", "path": "/start", "value": first},))
    yield Finding(
        "no-start", "blocks", "", "",
        "The flow has no beginning: callers would be cut off at once.",
        "Choose the stop that callers come to first.", fix,
    )  # fmt: skip


def _open_exits(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        for way in walk.exits[step.id]:
            if walk.leads(way):
                continue
            label = describe.exit_label(step, way.name)
            fix = end_here(walk.flow, step.id, way.name)
            if way.to is not None:
                yield Finding(
                    "missing-target", "blocks", step.id, way.name,
                    f"“{label}” leads to a stop that does not exist: callers would be cut off.",
                    "Choose another stop, or end the call there.", fix,
                )  # fmt: skip
            elif way.failure:
                yield Finding(
                    "default-failure", "warns", step.id, way.name,
                    f"“{label}” leads nowhere of its own: callers meet the flow's failure rule "
                    "and the call ends.",
                    "Say where these callers go.", fix,
                )  # fmt: skip
            else:
                yield Finding(
                    "open-exit", "blocks", step.id, way.name,
                    f"“{label}” leads nowhere: callers would be cut off.",
                    "Choose the stop that comes next, or end the call there.", fix,
                )  # fmt: skip


def _queues(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        if not isinstance(step, Queue):
            continue
        facts = walk.world.queues.get(step.queue) if step.queue else None
        if step.queue is None:
            yield Finding(
                "missing-queue", "blocks", step.id, "",
                "No queue is chosen: callers would wait for nobody.", "Choose a queue.",
            )  # fmt: skip
        elif facts is None:
            yield Finding(
                "missing-queue", "blocks", step.id, "",
                "This stop's queue does not exist any more: callers would wait for nobody.",
                "Choose another queue.",
            )  # fmt: skip
        elif not facts.finished:
            yield Finding(
                "unfinished-queue", "blocks", step.id, "",
                f"Queue “{facts.name}” is only a name so far: callers would wait for nobody.",
                "Set the queue up.", Fix(f"Set up {facts.name}…", goto=step.queue),
            )  # fmt: skip
        elif not facts.members:
            yield Finding(
                "empty-queue", "warns", step.id, "",
                f"Nobody is a member of “{facts.name}”: callers would wait and never be answered.",
                "Add agents to the queue.", Fix(f"Open {facts.name}…", goto=step.queue),
            )  # fmt: skip


def _hours(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        if not isinstance(step, CheckHours):
            continue
        facts = walk.world.hours.get(step.hours) if step.hours else None
        if facts is None:
            what = "These hours do not exist any more" if step.hours else "No hours are chosen"
            yield Finding(
                "missing-hours", "blocks", step.id, "",
                f"{what}: callers would meet the failure rule.", "Choose opening hours.",
            )  # fmt: skip
        elif not facts.ever_open:
            assert step.hours is not None
            yield Finding(
                "never-open", "warns", step.id, "",
                f"“{facts.name}” is never open: no caller takes the way “open”.",
                "Paint the hours.", Fix(f"Open {facts.name}…", goto=step.hours),
            )  # fmt: skip


def _silent_prompts(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        for prompt in prompts(step):
            if isinstance(prompt, SpokenText) and not prompt.text:
                yield Finding(
                    "empty-text", "blocks", step.id, "",
                    "Nothing is said here: callers would hear silence.", "Type what is said.",
                )  # fmt: skip
            elif isinstance(prompt, LibrarySound) and prompt.sound not in walk.world.sounds:
                yield Finding(
                    "missing-sound", "blocks", step.id, "",
                    "The sound of this stop does not exist any more: callers would hear silence.",
                    "Choose another sound, or type a text.",
                )  # fmt: skip


def _menu_arms(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        if not isinstance(step, Menu):
            continue
        if not step.arms:
            yield Finding(
                "menu-without-arm", "blocks", step.id, "",
                "The menu has no keys: whatever callers press is wrong.", "Add a key.",
            )  # fmt: skip
        if len(step.arms) > MANY_CHOICES:
            yield Finding(
                "many-choices", "hints", step.id, "",
                f"{len(step.arms)} choices at once: callers forget the first before the last "
                "is said.",
                "Split the menu in two.",
            )  # fmt: skip
        yield from _menu_text(walk, step)


def _menu_text(walk: Walk, menu: Menu) -> Iterator[Finding]:
    text = walk.world.words(menu.prompt)
    offered = offered_keys(text)
    arms = {arm.key: arm for arm in menu.arms}
    at = position(walk.flow, menu.id)
    for key, topic in offered.items():
        if key in arms:
            continue
        named = f" for {topic[0].lower()}{topic[1:]}" if topic else ""
        value = {"key": key, "label": topic, "next": None}
        yield Finding(
            "key-without-arm", "warns", menu.id, f"key:{key}",
            f"The text offers {key}{named}; a caller who presses {key} has pressed a wrong key.",
            "Add the key, or take it out of the text.",
            Fix(f"Add key {key}" + (f": {topic}" if topic else ""),
                ({"op": "add", "path": f"/steps/{at}/arms/-", "value": value},)),
        )  # fmt: skip
    if not text:
        return
    for arm in menu.arms:
        if arm.key not in offered:
            yield _arm_not_named(menu, arm.key, arm.label, at)


def _arm_not_named(menu: Menu, key: str, label: str, at: int) -> Finding:
    fix = None
    if isinstance(menu.prompt, SpokenText) and menu.prompt.language == "en":
        said = {"*": "star", "#": "hash"}.get(key, key)
        topic = f"{label[0].lower()}{label[1:]}" if label else "this choice"
        text = f"{menu.prompt.text.rstrip()} For {topic}, press {said}."
        patch = {"op": "replace", "path": f"/steps/{at}/prompt/text", "value": text}
        fix = Fix(f"Say “For {topic}, press {said}”", (patch,))
    return Finding(
        "arm-not-named", "warns", menu.id, f"key:{key}",
        f"Key {key}{f' ({label})' if label else ''} is never named in the text: "
        "callers cannot know of it.",
        "Name the key in the text.", fix,
    )  # fmt: skip


def _silence(walk: Walk) -> Iterator[Finding]:
    """Where a caller who never presses a key goes round until the stay limit ends it."""
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
                yield _endless_silence(walk, menus[0], minutes)
        done.update(path)


def _endless_silence(walk: Walk, menu_id: str, minutes: str) -> Finding:
    menu = walk.steps[menu_id]
    assert isinstance(menu, Menu)
    at = position(walk.flow, menu_id)
    if menu.tries is None:
        fix = Fix("Ask three times", ({"op": "add", "path": f"/steps/{at}/tries", "value": 3},))
        mend = "Limit how often the menu asks."
    else:
        fix = end_here(walk.flow, menu_id, "no_key")
        mend = "Let silence lead out of the loop."
    return Finding(
        "no-silence-limit", "warns", menu_id, "no_key",
        f"A silent caller, or a robot, stays here until the flow's limit of {minutes}: "
        "at your cost.",
        mend, fix,
    )  # fmt: skip


def _no_way_out(walk: Walk) -> Iterator[Finding]:
    into: dict[str, list[str]] = {step_id: [] for step_id in walk.steps}
    leaves: list[str] = []
    for step_id, step in walk.steps.items():
        ways = walk.exits[step_id]
        if isinstance(step, Queue | End) or any(not walk.leads(way) for way in ways):
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
        name = describe.stop(walk.steps[trapped[0]], walk.world).name
        yield Finding(
            "no-way-out", "blocks", trapped[0], "",
            f"From “{name}” callers go round {len(trapped)} "
            f"{'stop' if len(trapped) == 1 else 'stops'} and can never leave.",
            "Give the loop an exit that leads to an ending.",
        )  # fmt: skip


def _not_reached(walk: Walk) -> Iterator[Finding]:
    if not walk.reached:
        return
    for at, step in enumerate(walk.flow.steps):
        if step.id not in walk.reached:
            yield Finding(
                "not-reached", "hints", step.id, "",
                "Nothing leads to this stop: no caller will ever hear it.",
                "Lead an exit to it, or remove it.",
                Fix("Remove it", ({"op": "remove", "path": f"/steps/{at}"},)),
            )  # fmt: skip


def _late_choice(walk: Walk) -> Iterator[Finding]:
    spent_ms = 0
    at = walk.flow.start
    seen: set[str] = set()
    while at in walk.steps and at not in seen:
        seen.add(at)
        step = walk.steps[at]
        if isinstance(step, Menu) and spent_ms > LATE_CHOICE_S * 1000:
            yield Finding(
                "late-choice", "hints", at, "",
                f"{describe.duration(spent_ms / 1000)} pass before the first choice: "
                "callers grow impatient.",
                "Shorten what is said before the menu.",
            )  # fmt: skip
        if isinstance(step, Say):
            spent_ms += walk.world.length_ms(step.prompt)
            at = step.next
        elif isinstance(step, CheckHours):
            at = step.open
        else:
            return


def _deep_menus(walk: Walk) -> Iterator[Finding]:
    if walk.flow.start not in walk.steps:
        return
    level: dict[str, int] = {walk.flow.start: 0}
    todo = [walk.flow.start]
    for at in todo:
        here = level[at] + isinstance(walk.steps[at], Menu)
        if isinstance(walk.steps[at], Menu) and here == MANY_LEVELS + 1:
            yield Finding(
                "deep-menu", "hints", at, "",
                f"This is the {here}th menu in a row: callers get lost.", "Join two menus in one.",
            )  # fmt: skip
        for way in walk.exits[at]:
            if way.to in walk.steps and way.to not in level:
                level[way.to] = here
                todo.append(way.to)


RULES: tuple[Callable[[Walk], Iterator[Finding]], ...] = (
    _no_start,
    _open_exits,
    _queues,
    _hours,
    _silent_prompts,
    _menu_arms,
    _silence,
    _no_way_out,
    _not_reached,
    _late_choice,
    _deep_menus,
)
