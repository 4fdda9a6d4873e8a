"""Steps at which keys are pressed: menus, figures, extensions, names."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from callcore.directory.names import Person, match
from callcore.flow.behaviour import away, waiting
from callcore.flow.machine import Machine
from callcore.flow.parts import SpokenText
from callcore.flow.state import Effect, Listen, Moved, Outcome, Role, RunState
from callcore.flow.steps import Digits, Directory, Extension, Menu, OfferCallback

#: No extension and no spelled name is longer.
MOST_KEYS = 20


def begin(m: Machine, state: RunState, step: Any, before: tuple[Effect, ...], now_ms: int) -> Outcome:
    """Ask."""
    return m.play(state, step.id, "prompt", step.prompt, now_ms, before)


def listen(m: Machine, state: RunState, step: Any, now_ms: int) -> Outcome:
    """Wait for a key, or the next one."""
    until_ms = now_ms + step.wait_s * 1000
    role: Role = state.role if state.role in ("confirm", "choices") else ""
    return m.at(state, "listening", role, until_ms), (Listen(step.id, until_ms),)


def asked_again(
    m: Machine, state: RunState, step: Any, exit_name: str, why: str, key: str, now_ms: int
) -> Outcome:
    """A try is over: ask again, or leave by the exit for it."""
    tries = state.tries + 1
    if step.tries is not None and tries >= step.tries:
        to = getattr(step, exit_name)
        return m.enter(state, step.id, exit_name, to, why, str(tries), now_ms)
    state = state._replace(tries=tries, typed="", role="")
    moved = Moved(step.id, why, step.id, why, key or str(tries))
    return m.play(state, step.id, "prompt", step.prompt, now_ms, (moved,))


# Menu


def menu_key(m: Machine, state: RunState, step: Menu, key: str, now_ms: int) -> Outcome:
    """An arm, or a wrong key."""
    return menu_chosen(m, state, step, key, key, now_ms)


def menu_chosen(m: Machine, state: RunState, step: Menu, key: str, given: str, now_ms: int) -> Outcome:
    """The arm of the key that was pressed, written or said (`given`); without one, a wrong key."""
    arm = m.arms[step.id].get(key)
    if arm is None:
        return menu_missed(m, state, step, "wrong_key", given, now_ms)
    return m.enter(state, step.id, f"key:{key}", arm.next, "key", given, now_ms)


def menu_due(m: Machine, state: RunState, step: Menu, now_ms: int) -> Outcome:
    """The prompt is over, or the time for a key."""
    if state.phase == "listening":
        return menu_missed(m, state, step, "no_key", "", now_ms)
    if state.role in ("no_key", "wrong_key"):
        return m.play(state, step.id, "prompt", step.prompt, now_ms)
    return listen(m, state, step, now_ms)


def menu_missed(m: Machine, state: RunState, step: Menu, why: Role, key: str, now_ms: int) -> Outcome:
    """Silence or a wrong key: say so where the author wants it, then ask again."""
    pressed = why == "wrong_key"
    silences, wrong = state.tries + (not pressed), state.wrong + pressed
    own = step.wrong_tries is not None
    count = str((wrong if pressed else silences) if own else silences + wrong)
    if step.over(silences, wrong, pressed=pressed):
        exit_name = "wrong_key" if pressed and step.wrong_key else "no_key"
        to = getattr(step, exit_name)
        if to is None and m.environment.silence_ends and m.flow.channel == "voice":
            moved = Moved(step.id, exit_name, None, "silence_ends", count)
            return m.finish(state, "ended", (moved,))
        return m.enter(state, step.id, exit_name, to, why, count, now_ms)
    state = state._replace(tries=silences, wrong=wrong, typed="", role="")
    moved = Moved(step.id, why, step.id, why, key or count)
    extra = step.wrong_key_prompt if pressed else step.no_key_prompt
    role, prompt = (why, extra) if extra is not None else ("prompt", step.prompt)
    return m.play(state, step.id, role, prompt, now_ms, (moved,))


# Ask for digits


def digits_key(m: Machine, state: RunState, step: Digits, key: str, now_ms: int) -> Outcome:
    """One more figure, the end key, or the answer to “is this right?”."""
    if state.role == "confirm":
        if key == "1":
            return _taken(m, state, step, now_ms)
        return asked_again(m, state, step, "no_digits", "not_confirmed", key, now_ms)
    if key == step.end_key:
        return typed(m, state, step, now_ms)
    if not key.isdigit():
        return asked_again(m, state, step, "no_digits", "wrong_key", key, now_ms)
    state = state._replace(typed=state.typed + key)
    if len(state.typed) >= step.most:
        return typed(m, state, step, now_ms)
    return listen(m, state, step, now_ms)


def digits_due(m: Machine, state: RunState, step: Digits, now_ms: int) -> Outcome:
    """The prompt is over, or no further figure came."""
    if state.phase != "listening":
        return listen(m, state, step, now_ms)
    if state.role == "confirm":
        return asked_again(m, state, step, "no_digits", "not_confirmed", "", now_ms)
    return typed(m, state, step, now_ms)


def digits_at_once(
    m: Machine, state: RunState, step: Digits, digits: str, given: str, now_ms: int
) -> Outcome:
    """All digits in one, after those typed before: out of what was written or said (`given`)."""
    digits = state.typed + digits
    if len(digits) > step.most or not digits:
        return asked_again(m, state, step, "no_digits", "wrong_key", given, now_ms)
    return typed(m, state._replace(typed=digits), step, now_ms)


def typed(m: Machine, state: RunState, step: Digits, now_ms: int) -> Outcome:
    if len(state.typed) < step.least:
        why = "too_few" if state.typed else "no_key"
        return asked_again(m, state, step, "no_digits", why, state.typed, now_ms)
    state = state._replace(values={**state.values, step.into: state.typed})
    if step.confirm is None:
        return _taken(m, state, step, now_ms)
    return m.play(state, step.id, "confirm", step.confirm, now_ms)


def _taken(m: Machine, state: RunState, step: Digits, now_ms: int) -> Outcome:
    detail = f"{step.into} = {state.typed}"
    return m.enter(state, step.id, "next", step.next, "digits", detail, now_ms)


# Dial an extension


def extension_key(m: Machine, state: RunState, step: Extension, key: str, now_ms: int) -> Outcome:
    """One more figure: whose extension it is, if it can be told."""
    if key == "#":
        return _dialled(m, state, step, now_ms)
    state = state._replace(typed=state.typed + key)
    found = m.environment.dial(state.typed)
    if found.kind == "found" and not found.open_ended:
        return away.put_through(m, state, step, found.target, now_ms)
    if found.kind == "none" or len(state.typed) > MOST_KEYS:
        return asked_again(m, state, step, "none", "no_extension", state.typed, now_ms)
    return listen(m, state, step, now_ms)


def extension_due(m: Machine, state: RunState, step: Extension, now_ms: int) -> Outcome:
    """The prompt is over, or no further figure came."""
    if state.phase != "listening":
        return listen(m, state, step, now_ms)
    return _dialled(m, state, step, now_ms)


def _dialled(m: Machine, state: RunState, step: Extension, now_ms: int) -> Outcome:
    found = m.environment.dial(state.typed)
    if found.kind == "found":
        return away.put_through(m, state, step, found.target, now_ms)
    why = "no_extension" if state.typed else "no_key"
    return asked_again(m, state, step, "none", why, state.typed, now_ms)


# Name directory


def directory_key(m: Machine, state: RunState, step: Directory, key: str, now_ms: int) -> Outcome:
    """One more letter, or the number of one of the names that were read out."""
    if state.role == "choices":
        chosen = {str(i): p for i, p in enumerate(_found(m, state)[1], start=1)}.get(key)
        if chosen is None:
            return asked_again(m, state, step, "none", "wrong_key", key, now_ms)
        return away.put_through(m, state, step, chosen.id, now_ms)
    if key in "*#":
        return _spelled(m, state, step, now_ms)
    state = state._replace(typed=state.typed + key)
    kind, people = _found(m, state)
    if kind == "one":
        return away.put_through(m, state, step, people[0].id, now_ms)
    if kind == "none" or len(state.typed) > MOST_KEYS:
        return asked_again(m, state, step, "none", "no_name", state.typed, now_ms)
    return listen(m, state, step, now_ms)


def directory_due(m: Machine, state: RunState, step: Directory, now_ms: int) -> Outcome:
    """The prompt is over, or no further letter came."""
    if state.phase != "listening":
        return listen(m, state, step, now_ms)
    if state.role == "choices":
        return asked_again(m, state, step, "none", "no_key", "", now_ms)
    return _spelled(m, state, step, now_ms)


def _found(m: Machine, state: RunState) -> tuple[str, tuple[Person, ...]]:
    found = match(m.environment.people(), state.typed)
    return found.kind, found.people


def _spelled(m: Machine, state: RunState, step: Directory, now_ms: int) -> Outcome:
    """No more letters: read out who fits, if they are few."""
    kind, people = _found(m, state)
    if kind != "several":
        why = "no_name" if state.typed else "no_key"
        return asked_again(m, state, step, "none", why, state.typed, now_ms)
    lines = {"en": "For {}, press {}.", "cy": "Am {}, pwyswch {}."}[m.flow.language]
    names = " ".join(lines.format(person.name, i) for i, person in enumerate(people, start=1))
    prompt = SpokenText(text=names, language=m.flow.language)
    return m.play(state, step.id, "choices", prompt, now_ms)


Key = Callable[[Any, RunState, Any, str, int], Outcome]
KEY: dict[type, Key] = {
    Menu: menu_key,
    Digits: digits_key,
    Extension: extension_key,
    Directory: directory_key,
    OfferCallback: waiting.callback_key,
}
DUE: dict[type, Callable[[Any, RunState, Any, int], Outcome]] = {
    Menu: menu_due,
    Digits: digits_due,
    Extension: extension_due,
    Directory: directory_due,
    OfferCallback: waiting.callback_due,
}
