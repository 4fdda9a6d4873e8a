"""Handling rules in layers. A value runs from the centre to the team to the agent until one of
them sets its own; clearing that falls back."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal, NamedTuple

from callcore.routing.events import HandlingRule

Layer = Literal["centre", "team", "agent"]
LAYERS: tuple[Layer, ...] = ("centre", "team", "agent")


class Setting(NamedTuple):
    """One rule: its value where nobody sets it, and what it may be.

    `choices` for one of several; `least` and `most` for a number; neither for a text.
    """

    name: str
    default: Any
    choices: tuple[str, ...] = ()
    least: int = 0
    most: int = 0
    unit: str = ""


SETTINGS: tuple[Setting, ...] = (
    Setting("ring_s", 20, least=5, most=120, unit="s"),
    Setting("answers", "by_hand", ("by_hand", "at_once")),
    Setting("missed", "stays", ("stays", "away")),
    Setting("wrap_up", "optional", ("none", "optional", "required")),
    Setting("target_wrap_s", 30, least=5, most=3600, unit="s"),
    Setting("longest_wrap_s", 60, least=5, most=3600, unit="s"),
)
BY_NAME = {setting.name: setting for setting in SETTINGS}
#: The reason for which an agent who missed a ring is set away.
MISSED = "Missed a ring"


class Counted(NamedTuple):
    """The value that counts, and the layer that it comes from."""

    value: Any
    layer: Layer


def resolve(layers: Mapping[Layer, Mapping[str, Any]]) -> dict[str, Counted]:
    """What counts for each setting; the nearest layer that sets it wins."""
    found: dict[str, Counted] = {}
    for setting in SETTINGS:
        counted = Counted(setting.default, "centre")
        for layer in LAYERS:
            value = layers.get(layer, {}).get(setting.name)
            if value is not None:
                counted = Counted(value, layer)
        found[setting.name] = counted
    return found


def wrong(name: str, value: Any) -> str | None:
    """Why a value does not fit a setting, in words; None where it does. None clears."""
    setting = BY_NAME.get(name)
    if setting is None:
        return "There is no such rule."
    if value is None:
        return None
    if setting.choices:
        return None if value in setting.choices else "This is not one of the choices."
    whole = isinstance(value, int) and not isinstance(value, bool)
    if not whole or not setting.least <= value <= setting.most:
        return f"A whole number from {setting.least} to {setting.most} is needed."
    return None


def handling(counted: Mapping[str, Counted]) -> HandlingRule:
    """The rules as the router takes them."""
    return HandlingRule(
        ring_ms=counted["ring_s"].value * 1000,
        wrap_up=counted["wrap_up"].value,
        longest_wrap_ms=counted["longest_wrap_s"].value * 1000,
        missed_away=MISSED if counted["missed"].value == "away" else "",
        answers=counted["answers"].value,
    )
