"""Menus that callers cannot follow."""

from __future__ import annotations

from collections.abc import Iterator

from callcore.flow import describe
from callcore.flow.definition import CheckHours, Menu, MenuArm, Say, SpokenText
from callcore.flow.findings import Finding, Fix
from callcore.flow.rules.walk import Walk
from callcore.flow.spoken_keys import offered_keys, offered_words
from callcore.speech.recogniser import plain

MANY_CHOICES = 5
MANY_LEVELS = 3
LATE_CHOICE_S = 25


def _menu_arms(walk: Walk) -> Iterator[Finding]:
    for step in walk.flow.steps:
        if not isinstance(step, Menu):
            continue
        if not step.arms:
            yield Finding(
                "menu-without-arm",
                "blocks",
                step.id,
                "",
                "The menu has no keys: whatever callers press is wrong.",
                "Add a key.",
            )
        if len(step.arms) > MANY_CHOICES:
            yield Finding(
                "many-choices",
                "hints",
                step.id,
                "",
                f"{len(step.arms)} choices at once: callers forget the first before the last is said.",
                "Split the menu in two.",
            )
        if walk.flow.channel == "voice":
            yield from _menu_text(walk, step)


def _menu_text(walk: Walk, menu: Menu) -> Iterator[Finding]:
    text = walk.catalogue.words(menu.prompt)
    offered = offered_keys(text)
    arms = {arm.key: arm for arm in menu.arms}
    at = walk.positions[menu.id]
    for key, topic in offered.items():
        if key in arms:
            continue
        named = f" for {topic[0].lower()}{topic[1:]}" if topic else ""
        value = MenuArm(key=key, label=topic).model_dump(mode="json")
        yield Finding(
            "key-without-arm",
            "warns",
            menu.id,
            f"key:{key}",
            f"The text offers {key}{named}; a caller who presses {key} has pressed a wrong key.",
            "Add the key, or take it out of the text.",
            Fix(
                f"Add key {key}" + (f": {topic}" if topic else ""),
                ({"op": "add", "path": f"/steps/{at}/arms/-", "value": value},),
            ),
        )
    if not text:
        return
    said = {key for before in _said_before(walk, menu) for key in offered_keys(before)}
    invited = {plain(words) for words in offered_words(text)} if menu.listens else set()
    for arm in menu.arms:
        known = arm.key in offered or arm.key in said or arm.hidden
        if not known and invited.isdisjoint(plain(phrase) for phrase in arm.spoken()):
            yield _arm_not_named(menu, arm.key, arm.label, at)


def _said_before(walk: Walk, menu: Menu) -> Iterator[str]:
    """What callers hear at the stops that lead straight to a menu."""
    for step in walk.said_before.get(menu.id, ()):
        yield walk.catalogue.words(step.prompt)


def _arm_not_named(menu: Menu, key: str, label: str, at: int) -> Finding:
    fix = None
    if isinstance(menu.prompt, SpokenText) and menu.prompt.language == "en":
        said = {"*": "star", "#": "hash"}.get(key, key)
        topic = f"{label[0].lower()}{label[1:]}" if label else "this choice"
        text = f"{menu.prompt.text.rstrip()} For {topic}, press {said}."
        patch = {"op": "replace", "path": f"/steps/{at}/prompt/text", "value": text}
        fix = Fix(f"Say “For {topic}, press {said}”", (patch,))
    return Finding(
        "arm-not-named",
        "warns",
        menu.id,
        f"key:{key}",
        f"Key {key}{f' ({label})' if label else ''} is never named in the text: callers cannot know of it.",
        "Name the key in the text, or say at the key that it is hidden.",
        fix,
    )


def _late_choice(walk: Walk) -> Iterator[Finding]:
    if walk.flow.channel == "text":
        return
    spent_ms = 0
    at = walk.flow.start
    seen: set[str] = set()
    while at in walk.steps and at not in seen:
        seen.add(at)
        step = walk.steps[at]
        if isinstance(step, Menu) and spent_ms > LATE_CHOICE_S * 1000:
            yield Finding(
                "late-choice",
                "hints",
                at,
                "",
                f"{describe.duration(spent_ms / 1000)} pass before the first choice: callers grow impatient.",
                "Shorten what is said before the menu.",
            )
        if isinstance(step, Say):
            spent_ms += walk.catalogue.length_ms(step.prompt)
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
                "deep-menu",
                "hints",
                at,
                "",
                f"This is the {here}th menu in a row: callers get lost.",
                "Join two menus in one.",
            )
        for way in walk.exits[at]:
            if way.to in walk.steps and way.to not in level:
                level[way.to] = here
                todo.append(way.to)


RULES = (_menu_arms, _late_choice, _deep_menus)
