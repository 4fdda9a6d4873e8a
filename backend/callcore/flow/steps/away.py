"""Steps that hand the contact, or a question, to something else."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from callcore.flow.parts import (
    AgentRef,
    AnyPrompt,
    Exit,
    FlowRef,
    GroupRef,
    MailboxRef,
    Part,
    Prompt,
    QueueRef,
    SoundRef,
    SpokenText,
    StepId,
    TableRef,
    TypedValue,
    ValueName,
)
from callcore.flow.steps.base import StepBase


class Taken(Part):
    """A column of a looked-up row, and the value it goes into."""

    column: Annotated[str, StringConstraints(min_length=1, max_length=60)]
    into: ValueName


class Lookup(StepBase):
    """Looks a row of a lookup table up by a value, and takes cells of it into values."""

    kind: Literal["lookup"] = "lookup"
    table: TableRef | None = None
    key: ValueName = "digits"
    take: tuple[Taken, ...] = Field(default=(), max_length=30)
    found: StepId | None = None
    not_found: StepId | None = None
    failed: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        return (
            Exit("found", self.found, False),
            Exit("not_found", self.not_found, False),
            Exit("failed", self.failed, True),
        )

    def references(self) -> tuple[str | None, ...]:
        return (self.table,)


class WaitInQueue(StepBase):
    """The caller waits in a queue for a person, and can leave it without one in three ways.

    `waited` is taken after the longest wait: `longest_wait_s`, or the queue's own without it.
    `nobody`: nobody who could take the caller is signed in; `closed`: outside of the queue's
    hours. Where these two are open, the queue's own destination counts, then what `waited` says.
    `plan` is what they meet while they wait, `music` what they hear then; without one it is the
    queue's own.
    """

    kind: Literal["queue"] = "queue"
    queue: QueueRef | None = None
    plan: FlowRef | None = None
    longest_wait_s: Annotated[int, Field(ge=10, le=86_400)] | None = None
    music: SoundRef | None = None
    waited: StepId | None = None
    nobody: StepId | None = None
    closed: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        own = (Exit(name, getattr(self, name), True) for name in ("nobody", "closed"))
        return (Exit("waited", self.waited, True), *(way for way in own if way.to))

    def references(self) -> tuple[str | None, ...]:
        return (self.queue, *(ref for ref in (self.plan, self.music) if ref))


class OfferCallback(StepBase):
    """Offers to call back: key 1 books it, and the place in the queue is kept.

    `queue` None is the one that the caller waits in. With `other_number` the caller may type
    another number than their own. The agent whose turn it is rings `attempts` times,
    `retry_s` apart. Anything but 1 goes on by `declined`.
    """

    kind: Literal["callback"] = "callback"
    queue: QueueRef | None = None
    prompt: Prompt = SpokenText()
    thanks: Prompt | None = None
    other_number: bool = True
    wait_s: Annotated[int, Field(ge=1, le=60)] = 6
    attempts: Annotated[int, Field(ge=1, le=9)] = 3
    retry_s: Annotated[int, Field(ge=30, le=7200)] = 300
    declined: StepId | None = None
    failed: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        return (Exit("declined", self.declined, False), Exit("failed", self.failed, True))

    def prompts(self) -> tuple[AnyPrompt, ...]:
        return (self.prompt, self.thanks) if self.thanks else (self.prompt,)

    def references(self) -> tuple[str | None, ...]:
        return (self.queue,) if self.queue else ()


class TellWait(StepBase):
    """Tells the caller their position and the expected wait, as far as both are known well enough.

    `queue` None is the one that the caller waits in. Where nothing can be told, nothing is said.
    """

    kind: Literal["tell"] = "tell"
    queue: QueueRef | None = None
    position: bool = True
    wait: bool = True
    next: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        return (Exit("next", self.next, False),)

    def references(self) -> tuple[str | None, ...]:
        return (self.queue,) if self.queue else ()


class Ring(StepBase):
    """Rings an outside number (E.164, fictional ranges included), people, or a ring group.

    A group rings as it is set up, and its mailbox takes callers whom nobody takes where the exit
    is open. People ring one after another, or with `at_once` all together and the first to answer
    has the caller. Each rings for `ring_s`. Answered, the caller talks there and the call ends with
    it. `away` is taken where the last of them is not signed in; open, it leads where `busy` does.
    """

    kind: Literal["ring"] = "ring"
    number: Annotated[str, StringConstraints(pattern=r"^(\+[1-9][0-9]{4,14})?$")] = ""
    people: tuple[AgentRef, ...] = Field(default=(), max_length=20)
    at_once: bool = False
    group: GroupRef | None = None
    ring_s: Annotated[int, Field(ge=5, le=120)] = 20
    busy: StepId | None = None
    no_answer: StepId | None = None
    away: StepId | None = None
    failed: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        return (
            Exit("no_answer", self.no_answer, True),
            Exit("busy", self.busy, True),
            *((Exit("away", self.away, True),) if self.away else ()),
            Exit("failed", self.failed, True),
        )

    def references(self) -> tuple[str | None, ...]:
        return (*self.people, self.group) if self.group else self.people


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


class Given(Part):
    """What goes into an input of a shared block: something typed, or one of this flow's values."""

    input: ValueName
    to: TypedValue = None
    copy_of: ValueName | None = None


class Returned(Part):
    """An output of a shared block, and the value of this flow that it goes into."""

    output: ValueName
    into: ValueName


class Block(StepBase):
    """Runs a shared block: values in, outputs back, and whether it worked.

    `version` None uses the block as it is in force.
    """

    kind: Literal["block"] = "block"
    flow: FlowRef | None = None
    version: Annotated[int, Field(ge=1)] | None = None
    give: tuple[Given, ...] = Field(default=(), max_length=40)
    take: tuple[Returned, ...] = Field(default=(), max_length=40)
    worked: StepId | None = None
    not_worked: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        return (Exit("worked", self.worked, False), Exit("not_worked", self.not_worked, True))

    def references(self) -> tuple[str | None, ...]:
        return (self.flow,)


class GoOn(StepBase):
    """The contact goes on in another flow, as it is in force; this one ends there."""

    kind: Literal["go"] = "go"
    flow: FlowRef | None = None
    failed: StepId | None = None

    def exits(self) -> tuple[Exit, ...]:
        return (Exit("failed", self.failed, True),)

    def references(self) -> tuple[str | None, ...]:
        return (self.flow,)
