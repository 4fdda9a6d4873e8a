"""The names of things, and what a flow must know of each: for the checker, and for plain words."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import NamedTuple

from callcore.flow.definition import Input, LibrarySound, SpokenText
from callcore.lookups.table import ColumnType, folded
from callcore.speech.length import estimated_ms


class QueueFacts(NamedTuple):
    """A queue as a flow sees it. An unfinished one has a name and nothing else yet.

    `plan` is its waiting plan, a `flow:` reference; empty for none. `able`: how many agents have
    the skills that it asks for, widened as far as it goes; None where it asks for none.
    `lets_go`: whether callers go on by themselves while nobody is signed in. `overflow`: where it
    sends those whose flow says nothing, after the longest wait or where the way has no destination
    of its own (`overflow_nobody`, `overflow_closed`). `channels`: what it takes.
    `closes`: whether it lets nobody in outside of its hours.
    """

    name: str
    finished: bool
    members: int
    longest_wait_s: int | None = None
    plan: str = ""
    able: int | None = None
    lets_go: bool = False
    overflow: str = ""
    channels: tuple[str, ...] = ("voice", "text")
    closes: bool = False
    overflow_nobody: str = ""
    overflow_closed: str = ""

    def sends(self, way: str) -> str:
        """Where it sends those whom it lets go by a way (`waited`, `nobody`, `closed`)."""
        return {"nobody": self.overflow_nobody, "closed": self.overflow_closed}.get(way, self.overflow)


class GroupFacts(NamedTuple):
    """A ring group as a flow sees it: how many people, and how long it rings at the longest (s).

    `mailbox`: where it sends callers whom nobody takes, or empty.
    """

    name: str
    people: int
    seconds: int
    mailbox: str = ""


class HoursFacts(NamedTuple):
    """Opening hours as a flow sees them."""

    name: str
    ever_open: bool


class Spoken(NamedTuple):
    """One language of a sound; `text` is empty where it was uploaded without its words. `take` is
    the number of its recording."""

    text: str
    length_ms: int
    take: int = 0


class SoundFacts(NamedTuple):
    """A library sound, by language; without a recording `takes` is empty."""

    name: str
    takes: Mapping[str, Spoken] = MappingProxyType({})

    def heard(self, language: str) -> Spoken:
        """What is heard in a language: that one, else the first there is."""
        return self.takes.get(language) or next(iter(self.takes.values()), Spoken("", 0))


class MailboxFacts(NamedTuple):
    """A mailbox as a flow sees it: whether it greets, and how long that and a message last."""

    name: str
    greeting: bool
    greeting_ms: int
    longest_ms: int


class FlowFacts(NamedTuple):
    """Another flow: whether it is in force, which flows it leads to or uses, its inputs."""

    name: str
    in_force: bool
    channel: str
    leads_to: tuple[str, ...] = ()
    inputs: tuple[Input, ...] = ()
    outputs: tuple[str, ...] = ()
    purpose: str = "flow"


class TableFacts(NamedTuple):
    """A lookup table: its columns, the key first, and what each of them holds."""

    name: str
    columns: tuple[str, ...]
    types: tuple[ColumnType, ...] = ()


class Catalogue(NamedTuple):
    """Everything that exists, by reference (`queue:…`, `sound:…`, `hours:…` and so on).

    `spoken_ms` holds the real length of texts that the engine has spoken
    already, by language and text; others are estimated. `language` and `channel` are the flow's,
    `own` its own reference, `handed` the inputs that each of its numbers fills, `called` the
    channels of its numbers. `agents` and `skills` are people and skills by name, `groups` ring
    groups.
    `national` says how outside numbers (E.164) are written at home. `laid`: how many stops the flow
    has with all its shared blocks. `silence_ends`: calls without a key end quietly at menus that
    say nothing of them.
    """

    queues: Mapping[str, QueueFacts] = MappingProxyType({})
    sounds: Mapping[str, SoundFacts] = MappingProxyType({})
    hours: Mapping[str, HoursFacts] = MappingProxyType({})
    mailboxes: Mapping[str, MailboxFacts] = MappingProxyType({})
    flows: Mapping[str, FlowFacts] = MappingProxyType({})
    tables: Mapping[str, TableFacts] = MappingProxyType({})
    agents: Mapping[str, str] = MappingProxyType({})
    skills: Mapping[str, str] = MappingProxyType({})
    groups: Mapping[str, GroupFacts] = MappingProxyType({})
    spoken_ms: Mapping[tuple[str, str], int] = MappingProxyType({})
    language: str = "en"
    channel: str = "voice"
    own: str = ""
    handed: frozenset[str] = frozenset()
    called: frozenset[str] = frozenset()
    national: Mapping[str, str] = MappingProxyType({})
    laid: int = 0
    silence_ends: bool = False

    def thing(self, kind: str, name: str) -> str | None:
        """The reference of the one thing of a kind that has a name; or the reference itself."""
        where = {
            "hours": self.hours,
            "queue": self.queues,
            "mailbox": self.mailboxes,
            "sound": self.sounds,
            "flow": self.flows,
            "agent": self.agents,
        }[kind]
        wanted = folded(name)
        named = {ref: str(getattr(facts, "name", facts)) for ref, facts in where.items()}
        found = [ref for ref, said in named.items() if wanted in (folded(said), ref)]
        return found[0] if len(found) == 1 else None

    def leads_back(self, flow: str) -> bool:
        """Whether a flow hands contacts on, at last, to the flow that this is about."""
        seen: set[str] = set()
        todo = [flow]
        while todo:
            at = todo.pop()
            if at == self.own:
                return True
            if at not in seen:
                seen.add(at)
                facts = self.flows.get(at)
                todo.extend(facts.leads_to if facts else ())
        return False

    def length_ms(self, prompt: SpokenText | LibrarySound) -> int:
        """Length of a prompt in milliseconds; 0 for a sound that does not exist."""
        if isinstance(prompt, SpokenText):
            known = self.spoken_ms.get((prompt.language, prompt.text))
            return known if known is not None else estimated_ms(prompt.text)
        facts = self.sounds.get(prompt.sound or "")
        return facts.heard(self.language).length_ms if facts else 0

    def words(self, prompt: SpokenText | LibrarySound) -> str:
        """What is said in a prompt, as far as it is known."""
        if isinstance(prompt, SpokenText):
            return prompt.text
        facts = self.sounds.get(prompt.sound or "")
        return facts.heard(self.language).text if facts else ""
