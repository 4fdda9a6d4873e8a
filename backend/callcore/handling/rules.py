"""Handling rules in layers. A value runs from the centre to the team to the agent until one of
them sets its own; clearing that falls back."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any, Literal, NamedTuple

from callcore.routing.events import HandlingRule

SettingKind = Literal["choice", "number", "target", "reasons"]
Layer = Literal["centre", "team", "agent"]
LAYERS: tuple[Layer, ...] = ("centre", "team", "agent")


class Setting(NamedTuple):
    """One rule: its value where nobody sets it, and what it may be.

    `choices` for one of several; `least` and `most` for a number; `kind` for the rest: `target`
    is whom to call (an agent, a queue or a group as a reference, or an E.164 number; empty for
    nobody), `reasons` some of the centre's away reasons (none chosen: all of them).
    """

    name: str
    default: Any
    choices: tuple[str, ...] = ()
    least: int = 0
    most: int = 0
    unit: str = ""
    kind: SettingKind = "choice"


SETTINGS: tuple[Setting, ...] = (
    Setting("ring_s", 20, least=5, most=120, unit="s", kind="number"),
    Setting("answers", "by_hand", ("by_hand", "at_once")),
    Setting("missed", "stays", ("stays", "away")),
    Setting("wrap_up", "optional", ("none", "optional", "required")),
    Setting("target_wrap_s", 30, least=5, most=3600, unit="s", kind="number"),
    Setting("longest_wrap_s", 60, least=0, most=3600, unit="s", kind="number"),
    Setting("keypad_s", 60, least=5, most=3600, unit="s", kind="number"),
    Setting("screen_s", 3600, least=5, most=3600, unit="s", kind="number"),
    Setting("reminder_s", 0, least=0, most=3600, unit="s", kind="number"),
    Setting("texts", 3, least=1, most=12, unit="threads", kind="number"),
    Setting("reply_s", 0, least=0, most=86400, unit="s", kind="number"),
    Setting("help_to", "", kind="target"),
    Setting("help_how", "consult", ("consult", "straight")),
    Setting("emergency_to", "", kind="target"),
    Setting("emergency_how", "off", ("off", "alerts", "joins")),
    Setting("emergency_recorded", "yes", ("yes", "no")),
    Setting("line", "browser", ("browser", "dialled", "open")),
    Setting("away_reasons", [], kind="reasons"),
    Setting("sign_out", "plain", ("plain", "reason")),
)
BY_NAME = {setting.name: setting for setting in SETTINGS}
#: The reason for which an agent who missed a ring is set away.
MISSED = "Missed a ring"


_TARGET = re.compile(r"^((agent|queue|group):[0-9a-f-]{36}|\+[1-9][0-9]{6,14})?$")
_NO_TARGET = "An agent, a queue, a ring group or an outside number is needed, or nobody."


class DeskRule(NamedTuple):
    """The rules that count at the desk. Times in milliseconds; 0: never.

    `help_to` and `emergency_to` as in `Setting`. `emergency`: `off`, `alerts` (the floor is told)
    or `joins` (whoever is named is rung as well, and joins). `line`: where the agent speaks: in
    the browser, or by an outside number that is dialled for each contact, or kept open. `away`:
    reasons that they may give; empty for all of the centre's. `sign_out`: whether a `reason` is
    asked for when they end their work.
    """

    target_wrap_ms: int = 30_000
    keypad_ms: int = 60_000
    screen_ms: int = 3_600_000
    reminder_ms: int = 0
    help_to: str = ""
    help_how: str = "consult"
    emergency_to: str = ""
    emergency: str = "off"
    emergency_recorded: bool = True
    line: str = "browser"
    away: tuple[str, ...] = ()
    sign_out: str = "plain"


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
    if setting.kind == "target":
        return None if isinstance(value, str) and _TARGET.match(value) else _NO_TARGET
    if setting.kind == "reasons":
        texts = isinstance(value, list) and all(isinstance(v, str) and v for v in value)
        return None if texts else "A list of away reasons is needed."
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
        texts=counted["texts"].value,
        reply_ms=counted["reply_s"].value * 1000,
    )


def desk(counted: Mapping[str, Counted]) -> DeskRule:
    """The rules as the desk takes them."""
    return DeskRule(
        target_wrap_ms=counted["target_wrap_s"].value * 1000,
        keypad_ms=counted["keypad_s"].value * 1000,
        screen_ms=counted["screen_s"].value * 1000,
        reminder_ms=counted["reminder_s"].value * 1000,
        help_to=counted["help_to"].value,
        help_how=counted["help_how"].value,
        emergency_to=counted["emergency_to"].value,
        emergency=counted["emergency_how"].value,
        emergency_recorded=counted["emergency_recorded"].value == "yes",
        line=counted["line"].value,
        away=tuple(counted["away_reasons"].value),
        sign_out=counted["sign_out"].value,
    )
