"""Typed inputs of a flow, and the values that a contact carries through it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any, Literal

from pydantic import model_validator

from callcore.flow.parts import (
    LONGEST_TEXT,
    PLACE,
    AnyPrompt,
    Language,
    LibrarySound,
    Part,
    ShortText,
    ValueName,
    named,
)
from callcore.speech import values as speech

ValueType = Literal["queue", "hours", "sound", "mailbox", "yes_no", "text", "number", "duration"]
Value = str | int | bool | None
Values = Mapping[str, Any]

TYPE_WORDS: dict[str, str] = {
    "queue": "a queue",
    "hours": "opening hours",
    "sound": "a sound",
    "mailbox": "a mailbox",
    "yes_no": "yes or no",
    "text": "a text",
    "number": "a whole number",
    "duration": "a number of seconds",
}
_REFERENCES = ("queue", "hours", "sound", "mailbox")
#: Values that every contact has: who calls, what they called, and the last text message.
ALWAYS: dict[str, ValueType] = {"caller": "text", "dialled": "text", "message": "text"}


def misfit(kind: ValueType, value: Any) -> str | None:
    """Why a value does not fit a type, in words; None where it does, or is left open."""
    if value is None:
        return None
    if kind in _REFERENCES:
        fits = isinstance(value, str) and value.partition(":")[0] == kind and len(value) <= 80
    elif kind == "yes_no":
        fits = isinstance(value, bool)
    elif kind == "text":
        fits = isinstance(value, str) and len(value) <= LONGEST_TEXT
    else:
        whole = isinstance(value, int) and not isinstance(value, bool)
        fits = whole and (0 if kind == "duration" else -speech.LARGEST) <= value <= speech.LARGEST
    return None if fits else f"{TYPE_WORDS[kind]} is needed here"


class Input(Part):
    """A value that a number hands to the flow; `default` counts where it hands none."""

    name: ValueName
    label: ShortText = ""
    type: ValueType = "text"
    default: Value = None

    @model_validator(mode="after")
    def _default_fits(self) -> Input:
        if self.name in ALWAYS:
            raise ValueError(f"every contact has a value {self.name} already")
        words = misfit(self.type, self.default)
        if words:
            raise ValueError(f"the default does not fit: {words}")
        return self


def filled(inputs: Iterable[Input], given: Values) -> dict[str, Any]:
    """The values that a contact begins with: what is given and fits, else the defaults."""
    result: dict[str, Any] = {name: given.get(name, "") for name in ALWAYS}
    for declared in inputs:
        value = given.get(declared.name)
        fits = value is not None and misfit(declared.type, value) is None
        result[declared.name] = value if fits else declared.default
    return result


def misfits(inputs: Iterable[Input], given: Values) -> dict[str, str]:
    """What is wrong with given values, by name: unknown ones, and those of a wrong type."""
    known = {declared.name: declared for declared in inputs}
    found = {}
    for name, value in given.items():
        declared = known.get(name)
        words = misfit(declared.type, value) if declared else "the flow has no such input"
        if words:
            found[name] = words
    return found


def resolved(reference: str | None, values: Values) -> str | None:
    """A reference as it counts for a contact; None where nothing stands there."""
    for name in named(reference):
        value = values.get(name)
        return value if isinstance(value, str) and value else None
    return reference


def said(prompt: AnyPrompt, values: Values) -> AnyPrompt | None:
    """A prompt with the values of a contact in it; None where its sound is left open."""
    if isinstance(prompt, LibrarySound):
        sound = resolved(prompt.sound, values)
        return LibrarySound(sound=sound) if sound else None
    text = PLACE.sub(lambda m: _spoken(values.get(m[1]), m[2] or "", prompt.language), prompt.text)
    return prompt.model_copy(update={"text": text})


#: The ways in which a value can be said: `{wait:duration}`.
_WAYS: dict[str, Callable[[int, str], tuple[str, ...]]] = {
    "number": speech.whole,
    "ordinal": speech.ordinal,
    "duration": speech.duration,
    "wait": speech.about,
}
WAYS = (*_WAYS, "digits")


def _spoken(value: Any, way: str, language: Language) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return {"en": ("no", "yes"), "cy": ("na", "ie")}[language][value]
    if way == "digits":
        return ", ".join(speech.digits(str(value), language))
    text = str(value)
    if way in _WAYS and text.lstrip("-").isdecimal() and len(text) <= 10:
        try:
            return " ".join(_WAYS[way](int(text), language))
        except ValueError:
            return text
    return text
