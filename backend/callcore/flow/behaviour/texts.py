"""What a text message does: it chooses at a menu, answers a question, or is only kept."""

from __future__ import annotations

from callcore.flow.behaviour import keys
from callcore.flow.machine import Machine
from callcore.flow.state import Outcome, RunState
from callcore.flow.steps import Digits, Menu
from callcore.speech.recogniser import plain

#: The value that holds the last message.
MESSAGE = "message"
_YES = frozenset({"1", "y", "yes", "ok", "ie", "iawn"})
_SHOWN = 40


def chosen(menu: Menu, text: str) -> str | None:
    """The key of the arm that a message means: its key, its label, or one of its words."""
    said = plain(text)
    for arm in menu.arms:
        if said in {plain(word) for word in (arm.key, *arm.spoken())}:
            return arm.key
    return None


def texted(m: Machine, state: RunState, text: str, now_ms: int) -> Outcome:
    """A message of the contact's, wherever it is; out of a queue's line nothing moves it."""
    state = state._replace(values={**state.values, MESSAGE: text})
    step = m.steps.get(state.step)
    if state.phase not in ("playing", "listening"):
        return state, ()
    if isinstance(step, Menu):
        key = chosen(step, text)
        return keys.menu_chosen(m, state, step, key or "", key or text[:_SHOWN], now_ms)
    if isinstance(step, Digits):
        return _figures(m, state, step, text, now_ms)
    return state, ()


def _figures(m: Machine, state: RunState, step: Digits, text: str, now_ms: int) -> Outcome:
    if state.role == "confirm":
        return keys.digits_key(m, state, step, "1" if plain(text) in _YES else "2", now_ms)
    figures = "".join(c for c in text if c.isdecimal() and c.isascii())
    return keys.digits_at_once(m, state, step, figures, text[:_SHOWN], now_ms)
