"""Steps that decide or note something, and take no time."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, Field, StringConstraints

from callcore.flow.conditions import Group
from callcore.flow.parts import (
    Exit,
    HoursRef,
    Language,
    Part,
    QueueRef,
    ShortText,
    SkillRef,
    StepId,
    TypedValue,
    ValueName,
)
from callcore.flow.periods import Period
from callcore.flow.steps.base import StepBase
from callcore.hours.plan import known_zone

ArmId = Annotated[str, StringConstraints(pattern=r"^[a-z0-9]{1,12}$")]
Zone = Annotated[str, StringConstraints(max_length=60), AfterValidator(known_zone)]
#: Live figures that a flow can ask for: counts, seconds (`longest_wait`), or percent.
Figure = Literal[
    "signed_in", "available", "waiting", "longest_wait", "expected_wait", "position", "service_level"
]
#: One of a figure, and several.
FIGURE_WORDS: dict[str, tuple[str, str]] = {
    "signed_in": ("agent signed in", "agents signed in"),
    "available": ("agent available", "agents available"),
    "waiting": ("caller waiting", "callers waiting"),
    "longest_wait": ("second of the longest wait", "seconds of the longest wait"),
    "expected_wait": ("second of expected wait", "seconds of expected wait"),
    "position": ("as the place in line", "as the place in line"),
    "service_level": ("percent service level today", "percent service level today"),
}


def counted(figure: str, number: int) -> str:
    """`1 agent signed in`, `2 agents signed in`."""
    return f"{number} {FIGURE_WORDS[figure][number != 1]}"


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


class TimesArm(Part):
    """An arm of a fork by day and time: taken in any of its periods."""

    id: ArmId
    label: ShortText = ""
    periods: tuple[Period, ...] = Field(default=(), max_length=50)
    next: StepId | None = None


class Times(StepBase):
    """Forks by day and time; the first arm that holds is taken. Takes no time."""

    kind: Literal["times"] = "times"
    name: ShortText = ""
    time_zone: Zone = "Europe/London"
    arms: tuple[TimesArm, ...] = Field(default=(), max_length=30)
    otherwise: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        arms = tuple(Exit(f"arm:{arm.id}", arm.next, False) for arm in self.arms)
        return (*arms, Exit("otherwise", self.otherwise, False))


class ForkArm(Part):
    """An arm of a fork by value: taken where its condition holds."""

    id: ArmId
    label: ShortText = ""
    when: Group = Group()
    next: StepId | None = None


class Fork(StepBase):
    """Forks by values; the first arm whose condition holds is taken. Takes no time."""

    kind: Literal["fork"] = "fork"
    name: ShortText = ""
    arms: tuple[ForkArm, ...] = Field(default=(), max_length=30)
    otherwise: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        arms = tuple(Exit(f"arm:{arm.id}", arm.next, False) for arm in self.arms)
        return (*arms, Exit("otherwise", self.otherwise, False))


class CheckQueue(StepBase):
    """Compares a live figure of a queue, or of the whole centre. Takes no time.

    In a waiting plan `queue` None is the one that the caller waits in.
    """

    kind: Literal["check_queue"] = "check_queue"
    queue: QueueRef | None = None
    whole_centre: bool = False
    figure: Figure = "signed_in"
    how: Literal["at_least", "less_than"] = "at_least"
    limit: Annotated[int, Field(ge=0, le=100_000)] = 1
    yes: StepId | None = None
    no: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        return (Exit("yes", self.yes, False), Exit("no", self.no, False))

    def references(self) -> tuple[str | None, ...]:
        return () if self.whole_centre else (self.queue,)


class SetValue(StepBase):
    """Sets a value: to something given, or to what another value holds. Takes no time."""

    kind: Literal["set"] = "set"
    value: ValueName = "note"
    to: TypedValue = None
    copy_of: ValueName | None = None
    next: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        return (Exit("next", self.next, False),)


class Asked(Part):
    """A skill that agents must have for a contact, and the least level."""

    skill: SkillRef
    least: Annotated[int, Field(ge=1, le=10)] = 1


class Label(StepBase):
    """What agents read before the caller's number, and what they must be able to. Takes no time.

    `priority` and `language` None leave both as they were; `skills` add to what queues ask for.
    """

    kind: Literal["label"] = "label"
    label: ShortText = ""
    priority: Annotated[int, Field(ge=1, le=99)] | None = None
    skills: tuple[Asked, ...] = Field(default=(), max_length=10)
    language: Language | None = None
    next: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        return (Exit("next", self.next, False),)

    def references(self) -> tuple[str | None, ...]:
        return tuple(asked.skill for asked in self.skills)


class Repeat(StepBase):
    """Goes `again` a number of times, then `done`. Takes no time."""

    kind: Literal["repeat"] = "repeat"
    times: Annotated[int, Field(ge=1, le=20)] = 3
    again: StepId | None = None
    done: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        return (Exit("again", self.again, False), Exit("done", self.done, False))
