"""What a call flow is: steps, their exits, inputs, and the settings of the whole.

A definition may be unfinished (an exit that leads nowhere, a queue that is not
chosen yet): that is for the checker. What is refused here is only what is not
a definition at all. Times are whole seconds in definitions, milliseconds in
everything that runs.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, StringConstraints, ValidationError, model_validator

from callcore.errors import DefinitionError, Problem
from callcore.flow.inputs import Input
from callcore.flow.parts import (
    FROM_VALUE,
    KEYS,
    AnyPrompt,
    Exit,
    Language,
    LibrarySound,
    Part,
    Prompt,
    SoundRef,
    SpokenText,
    StepId,
    ValueName,
)
from callcore.flow.steps import (
    STEP_KINDS,
    AnyStep,
    Block,
    CheckHours,
    CheckQueue,
    Digits,
    Directory,
    End,
    Extension,
    FaxCheck,
    Fork,
    ForkArm,
    GoOn,
    Label,
    Lookup,
    Menu,
    MenuArm,
    Message,
    Music,
    OfferCallback,
    Repeat,
    Ring,
    Say,
    SetValue,
    Step,
    TellWait,
    Times,
    TimesArm,
    WaitInQueue,
    references_of,
)

__all__ = [
    "KEYS",
    "Accepted",
    "AnyPrompt",
    "AnyStep",
    "Block",
    "CheckHours",
    "CheckQueue",
    "Digits",
    "Directory",
    "End",
    "Exit",
    "Extension",
    "FaxCheck",
    "Flow",
    "Fork",
    "ForkArm",
    "GoOn",
    "Input",
    "Label",
    "LibrarySound",
    "Lookup",
    "Menu",
    "MenuArm",
    "Message",
    "Music",
    "OfferCallback",
    "Repeat",
    "Ring",
    "Say",
    "SetValue",
    "SpokenText",
    "TellWait",
    "Times",
    "TimesArm",
    "WaitInQueue",
    "all_prompts",
    "dump",
    "exits",
    "json_schema",
    "load",
    "outside_numbers",
    "prompts",
    "references",
]

MAX_STEPS = 2000
MAX_INPUTS = 40


class Accepted(Part):
    """A warning that the author lets be, and why. It counts for that stop and exit only."""

    code: Annotated[str, StringConstraints(max_length=40)]
    step: Annotated[str, StringConstraints(max_length=40)] = ""
    exit: Annotated[str, StringConstraints(max_length=40)] = ""
    reason: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=200)]


class Flow(Part):
    """A whole flow for one channel.

    `stay_limit_s` is the longest time a caller may spend in the flow, queues not
    counted; the runner keeps it whatever the steps say. `failure_prompt` is heard
    when a failure exit leads nowhere or the limit is reached, then the call ends.

    A `plan` is what callers meet while they wait in a queue: an open exit or an ending of it
    leaves them waiting to music, an agent who is free ends it at once, and it has no limit.
    `music` is what its hold music is, where the stop says nothing.
    """

    channel: Literal["voice", "text"] = "voice"
    purpose: Literal["flow", "block", "plan"] = "flow"
    language: Language = "en"
    inputs: tuple[Input, ...] = Field(default=(), max_length=MAX_INPUTS)
    outputs: tuple[ValueName, ...] = Field(default=(), max_length=MAX_INPUTS)
    start: StepId | None = None
    steps: tuple[Step, ...] = Field(default=(), max_length=MAX_STEPS)
    stay_limit_s: Annotated[int, Field(ge=30, le=604_800)] = 900
    failure_prompt: Prompt | None = None
    music: SoundRef | None = None
    accepted: tuple[Accepted, ...] = Field(default=(), max_length=MAX_STEPS)

    @model_validator(mode="after")
    def _ids_are_unique(self) -> Flow:
        seen: set[str] = set()
        for step in self.steps:
            if step.id in seen:
                raise ValueError(f"two steps are called {step.id!r}")
            seen.add(step.id)
        return self

    @model_validator(mode="after")
    def _inputs_are_unique(self) -> Flow:
        names = [declared.name for declared in self.inputs]
        twice = sorted({name for name in names if names.count(name) > 1})
        if twice:
            raise ValueError(f"two inputs are called {twice[0]!r}")
        return self


def exits(step: AnyStep) -> tuple[Exit, ...]:
    """All ways out of a step that lead to another step, in the author's order."""
    return step.exits()


def prompts(step: AnyStep) -> tuple[AnyPrompt, ...]:
    """Everything a caller may hear at a step."""
    return step.prompts()


def all_prompts(flow: Flow) -> tuple[AnyPrompt, ...]:
    """Every prompt of a flow, the failure prompt last."""
    found = [prompt for step in flow.steps for prompt in prompts(step)]
    return (*found, flow.failure_prompt) if flow.failure_prompt else tuple(found)


def references(flow: Flow) -> frozenset[str]:
    """Every `kind:id` that a flow refers to, its inputs' defaults included."""
    found = {ref for step in flow.steps for ref in references_of(step)}
    if isinstance(flow.failure_prompt, LibrarySound) and flow.failure_prompt.sound:
        found.add(flow.failure_prompt.sound)
    if flow.music:
        found.add(flow.music)
    typed = ("queue", "hours", "sound", "mailbox")
    found |= {str(i.default) for i in flow.inputs if i.type in typed and i.default}
    return frozenset(ref for ref in found if not ref.startswith(FROM_VALUE))


def outside_numbers(flow: Flow) -> frozenset[str]:
    """Every outside number (E.164) that a flow rings."""
    return frozenset(s.number for s in flow.steps if isinstance(s, Ring) and s.number)


def load(data: Any) -> Flow:
    """Read a definition from plain data.

    Raises:
        DefinitionError: with the path and the reason of every place that is wrong.
    """
    try:
        return Flow.model_validate(data)
    except ValidationError as error:
        raise DefinitionError([_in_words(detail) for detail in error.errors()]) from None


def dump(flow: Flow) -> dict[str, Any]:
    """The plain data that `load` reads back to an equal flow."""
    return flow.model_dump(mode="json")


def json_schema(ref_template: str = "#/$defs/{model}") -> dict[str, Any]:
    """The JSON Schema of a definition as `dump` writes it, every field present."""
    return Flow.model_json_schema(mode="serialization", ref_template=ref_template)


def _in_words(detail: Any) -> Problem:
    path = _without_tags(detail["loc"])
    return Problem(path, f"{_place(path)}: {_reason(detail)}")


_PROMPT_FIELDS = {"prompt", "no_key_prompt", "wrong_key_prompt", "failure_prompt", "thanks", "confirm"}


def _without_tags(loc: tuple[str | int, ...]) -> tuple[str | int, ...]:
    """The place in the data: pydantic puts the kind of a step or prompt after its position."""
    kept: list[str | int] = []
    before: str | int = ""
    for part in loc:
        tag_of_step = isinstance(before, int) and part in STEP_KINDS
        tag_of_prompt = str(before) in _PROMPT_FIELDS and part in ("text", "sound")
        if not (tag_of_step or tag_of_prompt):
            kept.append(part)
        before = "" if tag_of_step or tag_of_prompt else part
    return tuple(kept)


def _place(path: tuple[str | int, ...]) -> str:
    if len(path) >= 2 and path[0] == "steps" and isinstance(path[1], int):
        rest = " ".join(str(part) for part in path[2:])
        return f"Step {path[1] + 1}" + (f", {rest}" if rest else "")
    return " ".join(str(part) for part in path) or "The flow"


def _reason(detail: Any) -> str:
    context = detail.get("ctx", {})
    match detail["type"]:
        case "union_tag_invalid":
            known = context["expected_tags"]
            return f"{context['tag']!r} is not a kind of step or prompt; there are {known}"
        case "union_tag_not_found":
            return "its kind is missing"
        case "string_too_long":
            return f"the text is longer than {context['max_length']} characters"
        case "extra_forbidden":
            return "there is no such setting"
        case "value_error":
            return str(context["error"])
        case "string_pattern_mismatch":
            return f"{detail['input']!r} is not allowed here"
        case _:
            return str(detail["msg"][0].lower() + detail["msg"][1:])
