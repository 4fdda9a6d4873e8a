"""Steps, exits and decisions in plain words, as a caller lives through them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, NamedTuple

from callcore.flow.definition import (
    AnyStep,
    CheckHours,
    End,
    Flow,
    GoOn,
    LibrarySound,
    Menu,
    Message,
    Queue,
    Ring,
    Say,
    SpokenText,
)
from callcore.flow.parts import named
from callcore.flow.state import Moved
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
        return place_name(prompt.sound, world)
    return "nothing yet"


#: Where things are found in a world, and what an open or lost one is called.
_PLACES = {
    "queue": ("queues", "queue"),
    "hours": ("hours", "hours"),
    "mailbox": ("mailboxes", "mailbox"),
    "flow": ("flows", "flow"),
    "sound": ("sounds", "sound"),
}


def place_name(reference: str | None, world: World, kind: str = "sound") -> str:
    """The name of what a reference leads to, or that there is none."""
    for name in named(reference):
        return f"by the number: {name}"
    if reference is None:
        chosen = "hours" if kind == "hours" else kind
        return f"no {chosen} chosen yet"
    where, word = _PLACES[reference.partition(":")[0]]
    facts = getattr(world, where).get(reference)
    if facts is not None:
        return str(facts.name)
    return "hours that are gone" if word == "hours" else f"a {word} that is gone"


def stop(step: AnyStep, world: World) -> StopWords:
    """A step in the caller's terms."""
    return _STOPS[type(step)](step, world)


def _say(step: Say, world: World) -> StopWords:
    words = prompt_words(step.prompt, world)
    return StopWords(f"Says · {duration(world.length_ms(step.prompt) / 1000)}", words, words)


def _menu(step: Menu, world: World) -> StopWords:
    count = len(step.arms)
    keys = "no keys" if not count else "1 key" if count == 1 else f"{count} keys"
    name = step.name or "Menu"
    return StopWords(f"Menu · {name}", f"{keys}, waits {duration(step.wait_s)}", name)


def _hours(step: CheckHours, world: World) -> StopWords:
    name = place_name(step.hours, world, "hours")
    return StopWords("Open?", name, name)


def _queue(step: Queue, world: World) -> StopWords:
    name = place_name(step.queue, world, "queue")
    return StopWords("Queue", name, name)


def _ring(step: Ring, world: World) -> StopWords:
    number = world.national.get(step.number, step.number) or "no number yet"
    return StopWords(f"Rings · {duration(step.ring_s)}", number, number)


def _message(step: Message, world: World) -> StopWords:
    name = place_name(step.mailbox, world, "mailbox")
    return StopWords("Leaves a message", name, name)


def _go(step: GoOn, world: World) -> StopWords:
    name = place_name(step.flow, world, "flow")
    return StopWords("Goes on in", name, name)


def _end(step: End, world: World) -> StopWords:
    name = step.label or (prompt_words(step.prompt, world) if step.prompt else "Call ends")
    if step.prompt is None:
        return StopWords("Ends", name, name)
    return StopWords(f"Says · {duration(world.length_ms(step.prompt) / 1000)}", "then ends", name)


_STOPS: dict[type, Callable[[Any, World], StopWords]] = {
    Say: _say,
    Menu: _menu,
    CheckHours: _hours,
    Queue: _queue,
    Ring: _ring,
    Message: _message,
    GoOn: _go,
    End: _end,
}
_EXITS = {
    "next": "then",
    "waited": "waited too long",
    "answered": "answered",
    "no_answer": "no answer",
    "failed": "does not work",
}


def exit_label(step: AnyStep, name: str) -> str:
    """The condition that an arm is drawn with."""
    if isinstance(step, Menu):
        if name == "no_key":
            return "no key" if step.tries is None else f"no key ×{step.tries}"
        for arm in step.arms:
            if name == f"key:{arm.key}":
                return arm.label or f"key {arm.key}"
    return _EXITS.get(name, name)


_WHY = {
    "arrived": "the call was answered",
    "heard": "heard to the end",
    "waited_out": "the queue's longest wait has passed",
    "answered": "a person answered",
    "nowhere": "the exit leads nowhere → failure rule",
    "no_queue": "no queue is chosen → failure rule",
    "queue_gone": "the queue is gone",
    "answered_outside": "answered outside",
    "busy": "the number is busy",
    "failed": "the number cannot be reached",
    "no_number": "no number is given",
    "no_mailbox": "there is no such mailbox",
    "no_flow": "that flow is not in force",
    "no_sound": "there is no such sound → failure rule",
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
        case "no_answer":
            return f"nobody answered in {moved.detail} s → {label}"
        case "stay_limit":
            return f"longer in the flow than {duration(flow.stay_limit_s)} → failure rule"
        case other:
            return _WHY.get(other, other)
