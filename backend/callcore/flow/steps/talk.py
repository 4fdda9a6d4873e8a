"""Steps at which the caller hears something, or presses keys."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints, model_validator

from callcore.flow.parts import (
    KEYS,
    AnyPrompt,
    Exit,
    Part,
    Prompt,
    ShortText,
    SoundRef,
    SpokenText,
    StepId,
    ValueName,
)
from callcore.flow.steps.base import StepBase


class Say(StepBase):
    """The caller hears a prompt, then goes on."""

    kind: Literal["say"] = "say"
    prompt: Prompt = SpokenText()
    next: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        return (Exit("next", self.next, False),)

    def prompts(self) -> tuple[AnyPrompt, ...]:
        return (self.prompt,)


#: A voice waits seconds for a key, a text flow a day at the longest for an answer.
WaitSeconds = Annotated[int, Field(ge=1, le=86_400)]


class MenuArm(Part):
    """One key of a menu: what it is for, and where it leads.

    In a text flow the key, the label and the `words` choose it; where the menu listens, saying
    them does. A `hidden` one is not named in the text on purpose.
    """

    key: Annotated[str, StringConstraints(pattern=r"^[0-9*#]$")]
    label: ShortText = ""
    words: tuple[ShortText, ...] = Field(default=(), max_length=12)
    hidden: bool = False
    next: StepId | None = None

    def spoken(self) -> tuple[str, ...]:
        """The phrases that choose it, beside its key."""
        return tuple(phrase for phrase in (self.label, *self.words) if phrase)


class Menu(StepBase):
    """A prompt, then a wait for a key. Keys work at once, also during the prompt.

    `tries` is how often silence is met before the exit `no_key` is taken; None means without end.
    Wrong keys count with it, or, with `wrong_tries`, by themselves (0: without end), and take the
    exit `wrong_key`; open, it leads where `no_key` does. `wait_s` counts from the end of the
    prompt. Where it `listens`, arms are also chosen by words; what is not understood is a wrong
    key.
    """

    kind: Literal["menu"] = "menu"
    name: ShortText = ""
    prompt: Prompt = SpokenText()
    arms: tuple[MenuArm, ...] = Field(default=(), max_length=len(KEYS))
    wait_s: WaitSeconds = 8
    tries: Annotated[int, Field(ge=1, le=9)] | None = 3
    no_key_prompt: Prompt | None = None
    wrong_key_prompt: Prompt | None = None
    no_key: StepId | None = None
    wrong_tries: Annotated[int, Field(ge=0, le=9)] | None = None
    wrong_key: StepId | None = None
    listens: bool = False

    @model_validator(mode="after")
    def _one_arm_a_key(self) -> Menu:
        keys = [arm.key for arm in self.arms]
        twice = sorted({key for key in keys if keys.count(key) > 1})
        if twice:
            raise ValueError(f"key {twice[0]} stands twice; a key can lead to one place only")
        return self

    def exits(self) -> tuple[Exit, ...]:
        arms = tuple(Exit(f"key:{arm.key}", arm.next, False) for arm in self.arms)
        wrong = (Exit("wrong_key", self.wrong_key, True),) if self.wrong_key else ()
        return (*arms, Exit("no_key", self.no_key, True), *wrong)

    def over(self, silences: int, wrong: int, *, pressed: bool) -> bool:
        """Whether the last try was one too many: a wrong key (`pressed`), or a silence."""
        if self.wrong_tries is None:
            count, most = silences + wrong, self.tries
        elif pressed:
            count, most = wrong, self.wrong_tries or None
        else:
            count, most = silences, self.tries
        return most is not None and count >= most

    def prompts(self) -> tuple[AnyPrompt, ...]:
        return tuple(p for p in (self.prompt, self.no_key_prompt, self.wrong_key_prompt) if p)


class Digits(StepBase):
    """Asks for figures on the keys and keeps them in a value.

    Over when `most` are pressed, at `end_key`, or after `wait_s` of silence with at least
    `least`. With `confirm` they are read back: 1 takes them, any other key asks again.
    Where it `listens`, they can be said as well, and yes or no.
    """

    kind: Literal["digits"] = "digits"
    prompt: Prompt = SpokenText()
    into: ValueName = "digits"
    least: Annotated[int, Field(ge=1, le=20)] = 1
    most: Annotated[int, Field(ge=1, le=20)] = 8
    end_key: Literal["#", "*", ""] = "#"
    confirm: Prompt | None = None
    wait_s: WaitSeconds = 8
    tries: Annotated[int, Field(ge=1, le=9)] = 3
    next: StepId | None = None
    no_digits: StepId | None = None
    listens: bool = False

    @model_validator(mode="after")
    def _in_order(self) -> Digits:
        if self.least > self.most:
            raise ValueError("the least number of digits is more than the most")
        return self

    def exits(self) -> tuple[Exit, ...]:
        return (Exit("next", self.next, False), Exit("no_digits", self.no_digits, True))

    def prompts(self) -> tuple[AnyPrompt, ...]:
        return (self.prompt, self.confirm) if self.confirm else (self.prompt,)


class Music(StepBase):
    """The caller hears hold music for a time: `sound`, or what counts there (`waiting.music`)."""

    kind: Literal["music"] = "music"
    seconds: Annotated[int, Field(ge=1, le=600)] = 20
    sound: SoundRef | None = None
    next: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        return (Exit("next", self.next, False),)

    def references(self) -> tuple[str | None, ...]:
        return (self.sound,) if self.sound else ()


class FaxCheck(StepBase):
    """Listens for the tone of a fax machine for a moment."""

    kind: Literal["fax"] = "fax"
    seconds: Annotated[int, Field(ge=1, le=15)] = 4
    fax: StepId | None = None
    no_fax: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        return (Exit("no_fax", self.no_fax, False), Exit("fax", self.fax, False))


class Extension(StepBase):
    """The caller dials an extension and is led to whose it is: a person, queue, mailbox, number."""

    kind: Literal["extension"] = "extension"
    prompt: Prompt = SpokenText()
    wait_s: Annotated[int, Field(ge=1, le=60)] = 6
    tries: Annotated[int, Field(ge=1, le=9)] = 3
    ring_s: Annotated[int, Field(ge=5, le=120)] = 20
    none: StepId | None = None
    no_answer: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        return (Exit("none", self.none, True), Exit("no_answer", self.no_answer, True))

    def prompts(self) -> tuple[AnyPrompt, ...]:
        return (self.prompt,)


class Directory(StepBase):
    """The caller spells a surname on the keys and is put through to the person."""

    kind: Literal["directory"] = "directory"
    prompt: Prompt = SpokenText()
    wait_s: Annotated[int, Field(ge=1, le=60)] = 6
    tries: Annotated[int, Field(ge=1, le=9)] = 3
    ring_s: Annotated[int, Field(ge=5, le=120)] = 20
    none: StepId | None = None
    no_answer: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        return (Exit("none", self.none, True), Exit("no_answer", self.no_answer, True))

    def prompts(self) -> tuple[AnyPrompt, ...]:
        return (self.prompt,)


class End(StepBase):
    """The call ends here, after an optional last prompt. `label` names the ending.

    In a shared block it ends the block, and `worked` says how.
    """

    kind: Literal["end"] = "end"
    label: ShortText = ""
    worked: bool = True
    prompt: Prompt | None = None

    def prompts(self) -> tuple[AnyPrompt, ...]:
        return (self.prompt,) if self.prompt else ()
