"""Dialling an extension: one numbering plan, read digit by digit."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Literal, NamedTuple


class Dialled(NamedTuple):
    """What the digits so far mean: `found` with whose it is, `more` needed, or `none`.

    `open_ended`: the digits are an extension, and others go on from them, so a caller
    must be given a moment to go on.
    """

    kind: Literal["found", "more", "none"]
    target: str
    open_ended: bool


class Clash(NamedTuple):
    """Two things with one extension, or one that hides behind another's first digits."""

    extension: str
    first: str
    second: str


def dial(plan: Mapping[str, str], digits: str) -> Dialled:
    """Who the digits reach.

    Args:
        plan: whose each extension is.
    """
    longer = any(extension != digits and extension.startswith(digits) for extension in plan)
    if digits in plan:
        return Dialled("found", plan[digits], longer)
    return Dialled("more" if digits and longer else "none", "", False)


def clashes(entries: Iterable[tuple[str, str]]) -> list[Clash]:
    """Every extension that two things share, in order.

    Args:
        entries: extension and whose it is.
    """
    taken: dict[str, str] = {}
    found = []
    for extension, target in sorted(entries):
        if extension in taken:
            found.append(Clash(extension, taken[extension], target))
        else:
            taken[extension] = target
    return found
