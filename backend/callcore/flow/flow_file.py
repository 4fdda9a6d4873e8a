"""One flow with everything it refers to as one file: JSON, with a published JSON Schema.

References in the file are its own; `things` says what each is called and what it is made of,
so that another centre can match them by name or make them new.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import Field, StringConstraints, ValidationError

from callcore.errors import DefinitionError, Problem
from callcore.flow.definition import Flow, dump, load
from callcore.flow.parts import MAX_TEXT, Language, Part, SpokenText
from callcore.hours.plan import Hours
from callcore.lookups.table import ColumnType

FORMAT = "hazeridge-flow"
MOST_THINGS = 500


Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80)]


class _Thing(Part):
    """Something that a flow refers to, by its name; `content` is what it is made of."""

    ref: Annotated[str, StringConstraints(max_length=80)]
    name: Name


class Nothing(Part):
    """A name is all there is to tell."""


class QueueThing(_Thing):
    """A queue: it comes as a name, and is set up where it arrives."""

    kind: Literal["queue"] = "queue"
    content: Nothing = Nothing()


class HoursThing(_Thing):
    """Opening hours with their plan and exceptions; a closure by hand stays at home."""

    kind: Literal["hours"] = "hours"
    content: Hours


class Recording(Part):
    """One language of a sound: its words and the speed in words a minute."""

    language: Language
    text: Annotated[str, StringConstraints(max_length=MAX_TEXT)] = ""
    speed: Annotated[int, Field(ge=80, le=300)] = 155


class SoundContent(Part):
    """The words of a sound; recordings of voices stay at home."""

    recordings: tuple[Recording, ...] = Field(default=(), max_length=2)


class SoundThing(_Thing):
    """A sound of the library."""

    kind: Literal["sound"] = "sound"
    content: SoundContent


class MailboxContent(Part):
    """A mailbox's typed greeting and longest message (s)."""

    greeting: SpokenText | None = None
    longest_s: Annotated[int, Field(ge=5, le=600)] = 120


class MailboxThing(_Thing):
    """A mailbox."""

    kind: Literal["mailbox"] = "mailbox"
    content: MailboxContent


class ColumnContent(Part):
    """A column of a lookup table."""

    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60)]
    type: ColumnType


class TableContent(Part):
    """A lookup table's columns; its rows stay at home."""

    columns: tuple[ColumnContent, ...] = Field(min_length=1, max_length=30)


class TableThing(_Thing):
    """A lookup table."""

    kind: Literal["table"] = "table"
    content: TableContent


class AgentThing(_Thing):
    """A person: found by name, never made."""

    kind: Literal["agent"] = "agent"
    content: Nothing = Nothing()


class SkillThing(_Thing):
    """A skill: a name is all there is to it."""

    kind: Literal["skill"] = "skill"
    content: Nothing = Nothing()


class GroupThing(_Thing):
    """A ring group: found by name, never made: its people stay at home."""

    kind: Literal["group"] = "group"
    content: Nothing = Nothing()


class FlowContent(Part):
    """Another flow: a shared block, or one that contacts go on in."""

    definition: Flow


class FlowThing(_Thing):
    """Another flow."""

    kind: Literal["flow"] = "flow"
    content: FlowContent


AnyThing = (
    QueueThing
    | HoursThing
    | SoundThing
    | MailboxThing
    | TableThing
    | AgentThing
    | SkillThing
    | GroupThing
    | FlowThing
)
THINGS: dict[str, type[AnyThing]] = {
    "queue": QueueThing,
    "hours": HoursThing,
    "sound": SoundThing,
    "mailbox": MailboxThing,
    "table": TableThing,
    "agent": AgentThing,
    "skill": SkillThing,
    "group": GroupThing,
    "flow": FlowThing,
}


class FlowFile(Part):
    """The file."""

    format: Literal["hazeridge-flow"] = "hazeridge-flow"
    version: Literal[1] = 1
    name: Name
    definition: Flow
    things: tuple[Annotated[AnyThing, Field(discriminator="kind")], ...] = Field(
        default=(), max_length=MOST_THINGS
    )


def write(file: FlowFile) -> dict[str, Any]:
    """The file as plain data."""
    return file.model_dump(mode="json")


def read(data: Any) -> FlowFile:
    """Read a file.

    Raises:
        DefinitionError: it is none, with every place that is wrong.
    """
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise DefinitionError([Problem(("file",), "This file holds no flow of this format.")])
    load(data.get("definition"))
    try:
        return FlowFile.model_validate(data)
    except ValidationError as error:
        problems = [
            Problem(("file", *row["loc"]), f"{'.'.join(map(str, row['loc']))}: {row['msg']}")
            for row in error.errors()
        ]
        raise DefinitionError(problems) from None


def json_schema() -> dict[str, Any]:
    """The JSON Schema of the file."""
    return FlowFile.model_json_schema(mode="serialization")


def with_references(flow: Flow, references: Mapping[str, str | None]) -> Flow:
    """The same flow with its references exchanged; None leaves the place open."""
    return load(_exchanged(dump(flow), references))


def _exchanged(value: Any, references: Mapping[str, str | None]) -> Any:
    if isinstance(value, dict):
        return {name: _exchanged(item, references) for name, item in value.items()}
    if isinstance(value, list):
        items = [_exchanged(item, references) for item in value]
        gone = [
            item in references and references[item] is None if isinstance(item, str) else False
            for item in value
        ]
        return [item for item, drop in zip(items, gone, strict=True) if not drop]
    if isinstance(value, str) and value in references:
        return references[value]
    return value
