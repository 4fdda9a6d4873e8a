"""The kinds of steps: what each is made of, its ways out, what is heard, what it refers to.

Each class answers three questions: `exits()` in the author's order, `prompts()` that a
caller may hear, `references()` to things outside of the flow (with `value:` ones).
"""

from __future__ import annotations

from typing import Annotated, get_args

from pydantic import Field

from callcore.flow.parts import LibrarySound
from callcore.flow.steps.away import (
    Block,
    Given,
    GoOn,
    Lookup,
    Message,
    OfferCallback,
    Returned,
    Ring,
    Taken,
    TellWait,
    WaitInQueue,
)
from callcore.flow.steps.decide import (
    CheckHours,
    CheckQueue,
    Fork,
    ForkArm,
    Label,
    Repeat,
    SetValue,
    Times,
    TimesArm,
)
from callcore.flow.steps.talk import Digits, Directory, End, Extension, FaxCheck, Menu, MenuArm, Music, Say

__all__ = [
    "NOT_WAITING",
    "STEP_KINDS",
    "VOICE_ONLY",
    "AnyStep",
    "Block",
    "CheckHours",
    "CheckQueue",
    "Digits",
    "Directory",
    "End",
    "Extension",
    "FaxCheck",
    "Fork",
    "ForkArm",
    "Given",
    "GoOn",
    "Label",
    "Lookup",
    "Menu",
    "MenuArm",
    "Message",
    "Music",
    "OfferCallback",
    "Repeat",
    "Returned",
    "Ring",
    "Say",
    "SetValue",
    "Step",
    "Taken",
    "TellWait",
    "Times",
    "TimesArm",
    "WaitInQueue",
    "references_of",
]

AnyStep = (
    Say
    | Menu
    | Digits
    | CheckHours
    | Times
    | Fork
    | Lookup
    | CheckQueue
    | SetValue
    | Label
    | Ring
    | WaitInQueue
    | TellWait
    | OfferCallback
    | Message
    | Directory
    | Extension
    | Music
    | FaxCheck
    | Repeat
    | Block
    | GoOn
    | End
)
Step = Annotated[AnyStep, Field(discriminator="kind")]
STEP_KINDS: tuple[str, ...] = tuple(step.model_fields["kind"].default for step in get_args(AnyStep))
#: What needs a voice.
VOICE_ONLY = frozenset(("ring", "message", "callback", "directory", "extension", "music", "fax", "tell"))
#: What makes no sense while a caller waits in a queue.
NOT_WAITING = frozenset(("queue", "ring", "directory", "extension", "fax", "go", "block", "lookup", "digits"))


def kinds_for(purpose: str, channel: str) -> tuple[str, ...]:
    """The kinds of steps that a flow may have: a waiting plan and a text flow have fewer."""
    barred = (NOT_WAITING if purpose == "plan" else frozenset()) | (
        VOICE_ONLY if channel == "text" else frozenset()
    )
    return tuple(kind for kind in STEP_KINDS if kind not in barred)


def references_of(step: AnyStep) -> tuple[str, ...]:
    """Everything that a step names, sounds included; `value:` ones too."""
    sounds = [p.sound for p in step.prompts() if isinstance(p, LibrarySound) and p.sound]
    return (*[ref for ref in step.references() if ref is not None], *sounds)
