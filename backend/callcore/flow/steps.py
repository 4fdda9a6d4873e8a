"""The kinds of steps: what each is made of, its ways out, what is heard, what it refers to.

Each class answers three questions: `exits()` in the author's order, `prompts()` that a
caller may hear, `references()` to things outside of the flow (with `value:` ones).
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints, model_validator

from callcore.flow.parts import (
    KEYS,
    AnyPrompt,
    Exit,
    FlowRef,
    HoursRef,
    LibrarySound,
    MailboxRef,
    Part,
    Prompt,
    QueueRef,
    ShortText,
    SpokenText,
    StepId,
)


class StepBase(Part):
    """What all steps share. A step says here only what it has."""

    id: StepId

    def exits(self) -> tuple[Exit, ...]:
        return ()

    def prompts(self) -> tuple[AnyPrompt, ...]:
        return ()

    def references(self) -> tuple[str | None, ...]:
        """Things that the step names, open ones as None; sounds come with the prompts."""
        return ()


class Say(StepBase):
    """The caller hears a prompt, then goes on."""

    kind: Literal["say"] = "say"
    prompt: Prompt = SpokenText()
    next: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        return (Exit("next", self.next, False),)

    def prompts(self) -> tuple[AnyPrompt, ...]:
        return (self.prompt,)


class MenuArm(Part):
    """One key of a menu: what it is for, and where it leads."""

    key: Annotated[str, StringConstraints(pattern=r"^[0-9*#]$")]
    label: ShortText = ""
    next: StepId | None = None


class Menu(StepBase):
    """A prompt, then a wait for a key. Keys work at once, also during the prompt.

    `tries` is how often silence or a wrong key is met before the exit `no_key`
    is taken; None means without end. `wait_s` counts from the end of the prompt.
    """

    kind: Literal["menu"] = "menu"
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

    def exits(self) -> tuple[Exit, ...]:
        arms = tuple(Exit(f"key:{arm.key}", arm.next, False) for arm in self.arms)
        return (*arms, Exit("no_key", self.no_key, True))

    def prompts(self) -> tuple[AnyPrompt, ...]:
        return tuple(p for p in (self.prompt, self.no_key_prompt, self.wrong_key_prompt) if p)


class CheckHours(StepBase):
    """Goes on by `open` or `closed`, as the hours are at that moment. Takes no time."""

    kind: Literal["hours"] = "hours"
    hours: HoursRef | None = None
    open: StepId | None = None
    closed: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        return (Exit("open", self.open, False), Exit("closed", self.closed, False))

    def references(self) -> tuple[str | None, ...]:
        return (self.hours,)


class Queue(StepBase):
    """The caller waits in a queue for a person. `waited` is taken after its longest wait."""

    kind: Literal["queue"] = "queue"
    queue: QueueRef | None = None
    waited: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        return (Exit("waited", self.waited, True),)

    def references(self) -> tuple[str | None, ...]:
        return (self.queue,)


class Ring(StepBase):
    """Rings an outside number (E.164, fictional ranges included) for a time.

    Answered, the caller talks there and the call ends with it.
    """

    kind: Literal["ring"] = "ring"
    number: Annotated[str, StringConstraints(pattern=r"^(\+[1-9][0-9]{4,14})?$")] = ""
    ring_s: Annotated[int, Field(ge=5, le=120)] = 20
    busy: StepId | None = None
    no_answer: StepId | None = None
    failed: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        return (
            Exit("no_answer", self.no_answer, True),
            Exit("busy", self.busy, True),
            Exit("failed", self.failed, True),
        )


class Message(StepBase):
    """The caller hears the mailbox's greeting and leaves a message; the call ends with it."""

    kind: Literal["message"] = "message"
    mailbox: MailboxRef | None = None
    thanks: Prompt | None = None
    failed: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        return (Exit("failed", self.failed, True),)

    def prompts(self) -> tuple[AnyPrompt, ...]:
        return (self.thanks,) if self.thanks else ()

    def references(self) -> tuple[str | None, ...]:
        return (self.mailbox,)


class GoOn(StepBase):
    """The contact goes on in another flow, as it is in force; this one ends there."""

    kind: Literal["go"] = "go"
    flow: FlowRef | None = None
    failed: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        return (Exit("failed", self.failed, True),)

    def references(self) -> tuple[str | None, ...]:
        return (self.flow,)


class End(StepBase):
    """The call ends here, after an optional last prompt. `label` names the ending."""

    kind: Literal["end"] = "end"
    label: ShortText = ""
    prompt: Prompt | None = None

    def prompts(self) -> tuple[AnyPrompt, ...]:
        return (self.prompt,) if self.prompt else ()


AnyStep = Say | Menu | CheckHours | Queue | Ring | Message | GoOn | End
Step = Annotated[AnyStep, Field(discriminator="kind")]
STEP_KINDS = tuple(
    step.model_fields["kind"].default
    for step in (Say, Menu, CheckHours, Queue, Ring, Message, GoOn, End)
)


def references_of(step: AnyStep) -> tuple[str, ...]:
    """Everything that a step names, sounds included; `value:` ones too."""
    sounds = [p.sound for p in step.prompts() if isinstance(p, LibrarySound) and p.sound]
    return (*[ref for ref in step.references() if ref is not None], *sounds)
