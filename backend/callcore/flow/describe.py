"""Steps, exits and decisions in plain words, as a caller lives through them."""

from __future__ import annotations

from typing import NamedTuple

from callcore.flow.definition import (
    AnyStep,
    CheckHours,
    Flow,
    LibrarySound,
    Menu,
    Queue,
    Say,
    SpokenText,
)
from callcore.flow.runner import Moved
from callcore.flow.world import World

_SAMPLE = 46


class StopWords(NamedTuple):
    """A stop in words: its kind with its measure, and its sentence."""

    title: str
    sentence: str
    name: str


def duration(seconds: float) -> str:
    """`6 s`, `1:05` or `1:02:03`."""
    whole = round(seconds)
    if whole < 60:
        return f"{whole} s"
    minutes, rest = divmod(whole, 60)
    hours, minutes = divmod(minutes, 60)
    return f"{hours}:{minutes:02}:{rest:02}" if hours else f"{minutes}:{rest:02}"


def sample(text: str) -> str:
    """The beginning of a text, cut at a word."""
    text = " ".join(text.split())
    if len(text) <= _SAMPLE:
        return text
    return text[:_SAMPLE].rsplit(" ", 1)[0].rstrip(",.;:") + "…"


def prompt_words(prompt: SpokenText | LibrarySound, world: World) -> str:
    """What a prompt says, or the name of its sound."""
    words = world.words(prompt)
    if words:
        return sample(words)
    if isinstance(prompt, LibrarySound):
        facts = world.sounds.get(prompt.sound)
        return facts.name if facts else "a sound that is gone"
    return "nothing yet"


def queue_name(ref: str | None, world: World) -> str:
    """The name of a queue, or that there is none."""
    if ref is None:
        return "no queue chosen yet"
    facts = world.queues.get(ref)
    return facts.name if facts else "a queue that is gone"


def stop(step: AnyStep, world: World) -> StopWords:
    """A step in the caller's terms."""
    if isinstance(step, Say):
        words = prompt_words(step.prompt, world)
        return StopWords(f"Says · {duration(world.length_ms(step.prompt) / 1000)}", words, words)
    if isinstance(step, Menu):
        count = len(step.arms)
        keys = "no keys" if not count else "1 key" if count == 1 else f"{count} keys"
        name = step.name or "Menu"
        return StopWords(f"Menu · {name}", f"{keys}, waits {duration(step.wait_s)}", name)
    if isinstance(step, CheckHours):
        hours = world.hours.get(step.hours or "")
        name = hours.name if hours else "no hours chosen yet"
        return StopWords("Open?", name, name)
    if isinstance(step, Queue):
        name = queue_name(step.queue, world)
        return StopWords("Queue", name, name)
    name = step.label or (prompt_words(step.prompt, world) if step.prompt else "Call ends")
    if step.prompt is None:
        return StopWords("Ends", name, name)
    return StopWords(f"Says · {duration(world.length_ms(step.prompt) / 1000)}", "then ends", name)


def exit_label(step: AnyStep, name: str) -> str:
    """The condition that an arm is drawn with."""
    if isinstance(step, Menu):
        if name == "no_key":
            return "no key" if step.tries is None else f"no key ×{step.tries}"
        for arm in step.arms:
            if name == f"key:{arm.key}":
                return arm.label or f"key {arm.key}"
    return {"next": "then", "waited": "waited too long", "answered": "answered"}.get(name, name)


_WHY = {
    "arrived": "the call was answered",
    "heard": "heard to the end",
    "waited_out": "the queue's longest wait has passed",
    "answered": "a person answered",
    "nowhere": "the exit leads nowhere → failure rule",
    "no_queue": "no queue is chosen → failure rule",
    "queue_gone": "the queue is gone",
    "no_hours": "there are no such hours → failure rule",
    "round_and_round": "decisions go round in a circle → failure rule",
}


def why(moved: Moved, flow: Flow) -> str:
    """Why a contact took an exit, for the transcript of a call."""
    step = next((s for s in flow.steps if s.id == moved.step), None)
    label = exit_label(step, moved.exit) if step else ""
    match moved.why:
        case "key":
            return f"key {moved.detail} → {label}"
        case "hours":
            return f"{moved.detail} → {label}"
        case "no_key" | "wrong_key" if moved.exit == "no_key":
            return f"no valid key in {moved.detail} tries → {label}"
        case "no_key":
            return f"no key in time, try {moved.detail} → asked again"
        case "wrong_key":
            return f"key {moved.detail} is not a choice → asked again"
        case "stay_limit":
            return f"longer in the flow than {duration(flow.stay_limit_s)} → failure rule"
        case other:
            return _WHY.get(other, other)
