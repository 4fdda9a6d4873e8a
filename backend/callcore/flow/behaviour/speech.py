"""Stops that listen for words: what may be said there, and what comes of it."""

from __future__ import annotations

from callcore.flow.behaviour import keys
from callcore.flow.machine import Machine
from callcore.flow.state import Outcome, RunState, Spoken
from callcore.flow.steps import Digits, Menu
from callcore.speech.recogniser import NO, YES, Grammar

#: Answers of “is this right?”: what stands for yes, and for anything else.
_TAKES, _ASKS_AGAIN = "1", "2"


def grammar(m: Machine, state: RunState) -> Grammar | None:
    """What may be said where a contact is; None where nothing listens."""
    step = m.steps.get(state.step)
    if not isinstance(step, Menu | Digits) or not step.listens:
        return None
    if state.phase not in ("playing", "listening") or not m.hears(state):
        return None
    language = m.flow.language
    if isinstance(step, Menu):
        return Grammar(language, tuple((arm.key, arm.spoken()) for arm in step.arms))
    if state.role == "confirm":
        return Grammar(language, ((_TAKES, YES[language]), (_ASKS_AGAIN, NO[language])))
    return Grammar(language, digits=True)


def spoken(m: Machine, state: RunState, event: Spoken, now_ms: int) -> Outcome:
    """What was said chooses an arm, or is digits; what is not understood is a wrong key."""
    step = m.steps.get(state.step)
    if grammar(m, state) is None:
        return state, ()
    if isinstance(step, Menu):
        return keys.menu_chosen(m, state, step, event.meant, f"“{event.said}”", now_ms)
    assert isinstance(step, Digits)
    if state.role == "confirm":
        return keys.digits_key(m, state, step, event.meant or _ASKS_AGAIN, now_ms)
    return keys.digits_at_once(m, state, step, event.meant, f"“{event.said}”", now_ms)
