"""Stops that listen for words which callers cannot know, or which cannot be told apart."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations

from callcore.flow.definition import Menu, MenuArm
from callcore.flow.findings import Finding
from callcore.flow.rules.walk import Walk
from callcore.flow.spoken_keys import offered_words
from callcore.speech.recogniser import plain, sounds_alike


def _listening(walk: Walk) -> Iterator[Finding]:
    if walk.flow.channel == "text":
        return
    for step in walk.flow.steps:
        if isinstance(step, Menu) and step.listens:
            yield from _alike(step)
            yield from _not_understood(walk, step)
            yield from (_without_words(step, arm) for arm in step.arms if not arm.spoken())


def _alike(menu: Menu) -> Iterator[Finding]:
    """The first pair of phrases of each two arms that can be taken for one another."""
    for one, two in combinations(menu.arms, 2):
        pairs = ((a, b) for a in one.spoken() for b in two.spoken() if sounds_alike(a, b))
        for first, second in pairs:
            yield Finding(
                "words-alike",
                "warns",
                menu.id,
                f"key:{two.key}",
                f"“{second}” (key {two.key}) sounds like “{first}” (key {one.key}): a caller who "
                "says one can be taken for saying the other.",
                "Choose words that sound different.",
            )
            break


def _not_understood(walk: Walk, menu: Menu) -> Iterator[Finding]:
    """Words that the text invites callers to say and no arm knows."""
    known = {plain(phrase) for arm in menu.arms for phrase in arm.spoken()}
    for words in offered_words(walk.catalogue.words(menu.prompt)):
        if plain(words) in known:
            continue
        yield Finding(
            "words-without-arm",
            "warns",
            menu.id,
            "",
            f"The text asks callers to say “{words}”, and no key knows it: whoever says so is not "
            "understood.",
            "Add it to the words of a key, or take it out of the text.",
        )


def _without_words(menu: Menu, arm: MenuArm) -> Finding:
    return Finding(
        "arm-without-words",
        "hints",
        menu.id,
        f"key:{arm.key}",
        f"Nothing can be said for key {arm.key}: it has neither a name nor words.",
        "Say what the key is for, or give it words.",
    )


RULES = (_listening,)
