"""The parts that flow definitions are made of: references, prompts, values."""

from __future__ import annotations

import re
from typing import Annotated, Literal, NamedTuple

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, StringConstraints

KEYS = "1234567890*#"
MAX_TEXT = 2000

#: What each kind of reference is called in words.
REFERENCE_WORDS = {
    "queue": "a queue",
    "sound": "a sound",
    "hours": "opening hours",
    "mailbox": "a mailbox",
    "flow": "a flow",
    "table": "a lookup table",
    "agent": "a person",
    "skill": "a skill",
    "group": "a ring group",
}
#: A reference to whatever one of the flow's values holds.
FROM_VALUE = "value:"
#: A value spoken inside of a text: `{port}`, or in a certain way: `{order:digits}`.
PLACE = re.compile(r"\{([a-z][a-z0-9_]{0,63})(?::([a-z]+))?\}")


def _reference_to(kind: str) -> AfterValidator:
    def check(value: str) -> str:
        found, _, identity = value.partition(":")
        if found in (kind, "value") and identity:
            return value
        wanted = REFERENCE_WORDS[kind]
        actual = REFERENCE_WORDS.get(found)
        if actual is None:
            raise ValueError(f"{value!r} does not refer to anything; {wanted} is needed here")
        raise ValueError(f"this refers to {actual}, where {wanted} is needed")

    return AfterValidator(check)


_Reference = StringConstraints(max_length=80)
StepId = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$")]
ValueName = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]*$", max_length=30)]
LONGEST_TEXT = 200
#: What somebody types to be kept in a value or compared with one.
TypedValue = Annotated[str, StringConstraints(max_length=LONGEST_TEXT)] | int | bool | None
QueueRef = Annotated[str, _Reference, _reference_to("queue")]
HoursRef = Annotated[str, _Reference, _reference_to("hours")]
SoundRef = Annotated[str, _Reference, _reference_to("sound")]
MailboxRef = Annotated[str, _Reference, _reference_to("mailbox")]
TableRef = Annotated[str, _Reference, _reference_to("table")]
AgentRef = Annotated[str, _Reference, _reference_to("agent")]
SkillRef = Annotated[str, _Reference, _reference_to("skill")]
GroupRef = Annotated[str, _Reference, _reference_to("group")]
FlowRef = Annotated[str, _Reference, _reference_to("flow")]
Language = Literal["en", "cy"]
LANGUAGES: dict[str, str] = {"en": "English", "cy": "Welsh"}
ShortText = Annotated[str, StringConstraints(strip_whitespace=True, max_length=80)]


class Part(BaseModel):
    """Base of all parts of a definition: frozen, and strict about unknown fields."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class SpokenText(Part):
    """Text typed on the spot, spoken by the speech engine. May hold values (`PLACE`)."""

    kind: Literal["text"] = "text"
    text: Annotated[str, StringConstraints(strip_whitespace=True, max_length=MAX_TEXT)] = ""
    language: Language = "en"


class LibrarySound(Part):
    """A sound of the library (None: not chosen yet), in the flow's language where it has that."""

    kind: Literal["sound"] = "sound"
    sound: SoundRef | None = None


AnyPrompt = SpokenText | LibrarySound
Prompt = Annotated[AnyPrompt, Field(discriminator="kind")]


class Exit(NamedTuple):
    """A way out of a step. A failure exit may stay open: it falls to the flow's failure rule."""

    name: str
    to: str | None
    failure: bool


def values_in(prompt: AnyPrompt) -> frozenset[str]:
    """The names of the values that a prompt speaks or plays."""
    if isinstance(prompt, LibrarySound):
        return frozenset(named(prompt.sound))
    return frozenset(match[1] for match in PLACE.finditer(prompt.text))


def named(reference: str | None) -> tuple[str, ...]:
    """The value that a reference is taken from, if it is."""
    if reference is None or not reference.startswith(FROM_VALUE):
        return ()
    return (reference.removeprefix(FROM_VALUE),)
