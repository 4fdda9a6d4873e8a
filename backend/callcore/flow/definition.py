"""What a call flow is: steps, their exits, and the settings of the whole.

A definition may be unfinished (an exit that leads nowhere, a queue that is not
chosen yet): that is for the checker. What is refused here is only what is not
a definition at all. Times are whole seconds in definitions, milliseconds in
everything that runs.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal, NamedTuple

from pydantic import (
    AfterValidator,
    BaseModel,
    ConfigDict,
    Field,
    StringConstraints,
    ValidationError,
    model_validator,
)

from callcore.errors import DefinitionError, Problem

KEYS = "1234567890*#"
MAX_TEXT = 2000
MAX_STEPS = 2000

#: What each kind of reference is called in words.
REFERENCE_WORDS = {"queue": "a queue", "sound": "a sound", "hours": "opening hours"}


def _reference_to(kind: str) -> AfterValidator:
    def check(value: str) -> str:
        found, _, identity = value.partition(":")
        if found == kind and identity:
            return value
        wanted = REFERENCE_WORDS[kind]
        actual = REFERENCE_WORDS.get(found)
        if actual is None:
            raise ValueError(f"{value!r} does not refer to anything; {wanted} is needed here")
        raise ValueError(f"this refers to {actual}, where {wanted} is needed")

    return AfterValidator(check)


StepId = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$")]
QueueRef = Annotated[str, StringConstraints(max_length=80), _reference_to("queue")]
HoursRef = Annotated[str, StringConstraints(max_length=80), _reference_to("hours")]
SoundRef = Annotated[str, StringConstraints(max_length=80), _reference_to("sound")]
Language = Literal["en", "cy"]
ShortText = Annotated[str, StringConstraints(strip_whitespace=True, max_length=80)]


class Part(BaseModel):
    """Base of all parts of a definition: frozen, and strict about unknown fields."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class SpokenText(Part):
    """Text typed on the spot, spoken by the speech engine."""

    kind: Literal["text"] = "text"
    text: Annotated[str, StringConstraints(strip_whitespace=True, max_length=MAX_TEXT)] = ""
    language: Language = "en"


class LibrarySound(Part):
    """A sound of the library."""

    kind: Literal["sound"] = "sound"
    sound: SoundRef


Prompt = Annotated[SpokenText | LibrarySound, Field(discriminator="kind")]


class Say(Part):
    """The caller hears a prompt, then goes on."""

    kind: Literal["say"] = "say"
    id: StepId
    prompt: Prompt = SpokenText()
    next: StepId | None = None


class MenuArm(Part):
    """One key of a menu: what it is for, and where it leads."""

    key: Annotated[str, StringConstraints(pattern=r"^[0-9*#]$")]
    label: ShortText = ""
    next: StepId | None = None


class Menu(Part):
    """A prompt, then a wait for a key. Keys work at once, also during the prompt.

    `tries` is how often silence or a wrong key is met before the exit `no_key`
    is taken; None means without end. `wait_s` counts from the end of the prompt.
    """

    kind: Literal["menu"] = "menu"
    id: StepId
    name: ShortText = ""
    prompt: Prompt = SpokenText()
    arms: tuple[MenuArm, ...] = Field(default=(), max_length=len(KEYS))
    wait_s: Annotated[int, Field(ge=1, le=60)] = 8
    tries: Annotated[int, Field(ge=1, le=9)] | None = 3
    no_key_prompt: Prompt | None = None
    wrong_key_prompt: Prompt | None = None
    no_key: StepId | None = None

    @model_validator(mode="after")
    def _one_arm_a_key(self) -> Menu:
        keys = [arm.key for arm in self.arms]
        twice = sorted({key for key in keys if keys.count(key) > 1})
        if twice:
            raise ValueError(f"key {twice[0]} has two arms; a key can lead to one place only")
        return self


class CheckHours(Part):
    """Goes on by `open` or `closed`, as the hours are at that moment. Takes no time."""

    kind: Literal["hours"] = "hours"
    id: StepId
    hours: HoursRef | None = None
    open: StepId | None = None
    closed: StepId | None = None


class Queue(Part):
    """The caller waits in a queue for a person. `waited` is taken after its longest wait."""

    kind: Literal["queue"] = "queue"
    id: StepId
    queue: QueueRef | None = None
    waited: StepId | None = None


class End(Part):
    """The call ends here, after an optional last prompt. `label` names the ending."""

    kind: Literal["end"] = "end"
    id: StepId
    label: ShortText = ""
    prompt: Prompt | None = None


AnyStep = Say | Menu | CheckHours | Queue | End
Step = Annotated[AnyStep, Field(discriminator="kind")]
STEP_KINDS = ("say", "menu", "hours", "queue", "end")


class Flow(Part):
    """A whole flow for one channel.

    `stay_limit_s` is the longest time a caller may spend in the flow, queues not
    counted; the runner keeps it whatever the steps say. `failure_prompt` is heard
    when a failure exit leads nowhere or the limit is reached, then the call ends.
    """

    language: Language = "en"
    start: StepId | None = None
    steps: tuple[Step, ...] = Field(default=(), max_length=MAX_STEPS)
    stay_limit_s: Annotated[int, Field(ge=30, le=7200)] = 900
    failure_prompt: Prompt | None = None

    @model_validator(mode="after")
    def _ids_are_unique(self) -> Flow:
        seen: set[str] = set()
        for step in self.steps:
            if step.id in seen:
                raise ValueError(f"two steps are called {step.id!r}")
            seen.add(step.id)
        return self


class Exit(NamedTuple):
    """A way out of a step. A failure exit may stay open: it falls to the flow's failure rule."""

    name: str
    to: str | None
    failure: bool


def exits(step: AnyStep) -> tuple[Exit, ...]:
    """All ways out of a step that lead to another step, in the author's order."""
    if isinstance(step, Say):
        return (Exit("next", step.next, False),)
    if isinstance(step, Menu):
        arms = tuple(Exit(f"key:{arm.key}", arm.next, False) for arm in step.arms)
        return (*arms, Exit("no_key", step.no_key, True))
    if isinstance(step, CheckHours):
        return (Exit("open", step.open, False), Exit("closed", step.closed, False))
    if isinstance(step, Queue):
        return (Exit("waited", step.waited, True),)
    return ()


def prompts(step: AnyStep) -> tuple[SpokenText | LibrarySound, ...]:
    """Everything a caller may hear at a step."""
    if isinstance(step, Say):
        return (step.prompt,)
    if isinstance(step, Menu):
        return tuple(p for p in (step.prompt, step.no_key_prompt, step.wrong_key_prompt) if p)
    if isinstance(step, End):
        return (step.prompt,) if step.prompt else ()
    return ()


def all_prompts(flow: Flow) -> tuple[SpokenText | LibrarySound, ...]:
    """Every prompt of a flow, the failure prompt last."""
    found = [prompt for step in flow.steps for prompt in prompts(step)]
    return (*found, flow.failure_prompt) if flow.failure_prompt else tuple(found)


def references(flow: Flow) -> frozenset[str]:
    """Every `kind:id` that a flow refers to."""
    sounds = {p.sound for p in all_prompts(flow) if isinstance(p, LibrarySound)}
    queues = {s.queue for s in flow.steps if isinstance(s, Queue) and s.queue}
    hours = {s.hours for s in flow.steps if isinstance(s, CheckHours) and s.hours}
    return frozenset(sounds | queues | hours)


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


def _without_tags(loc: tuple[str | int, ...]) -> tuple[str | int, ...]:
    """The place in the data: pydantic puts the kind of a step or prompt after its position."""
    kept: list[str | int] = []
    before: str | int = ""
    for part in loc:
        tag_of_step = isinstance(before, int) and part in STEP_KINDS
        tag_of_prompt = str(before).endswith("prompt") and part in ("text", "sound")
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
