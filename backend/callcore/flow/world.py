"""What a flow's surroundings look like to the checker and to plain words."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import NamedTuple

from callcore.flow.definition import LibrarySound, SpokenText
from callcore.speech.length import estimated_ms


class QueueFacts(NamedTuple):
    """A queue as a flow sees it. An unfinished one has a name and nothing else yet."""

    name: str
    finished: bool
    members: int


class HoursFacts(NamedTuple):
    """Opening hours as a flow sees them."""

    name: str
    ever_open: bool


class SoundFacts(NamedTuple):
    """A library sound; `text` is empty where it was uploaded without its words."""

    name: str
    text: str
    length_ms: int


class World(NamedTuple):
    """Everything that exists, by reference (`queue:…`, `sound:…`, `hours:…`).

    `spoken_ms` holds the real length of texts that the engine has spoken
    already, by language and text; others are estimated.
    """

    queues: Mapping[str, QueueFacts] = MappingProxyType({})
    sounds: Mapping[str, SoundFacts] = MappingProxyType({})
    hours: Mapping[str, HoursFacts] = MappingProxyType({})
    spoken_ms: Mapping[tuple[str, str], int] = MappingProxyType({})

    def length_ms(self, prompt: SpokenText | LibrarySound) -> int:
        """Length of a prompt in milliseconds; 0 for a sound that does not exist."""
        if isinstance(prompt, SpokenText):
            known = self.spoken_ms.get((prompt.language, prompt.text))
            return known if known is not None else estimated_ms(prompt.text)
        facts = self.sounds.get(prompt.sound)
        return facts.length_ms if facts else 0

    def words(self, prompt: SpokenText | LibrarySound) -> str:
        """What is said in a prompt, as far as it is known."""
        if isinstance(prompt, SpokenText):
            return prompt.text
        facts = self.sounds.get(prompt.sound)
        return facts.text if facts else ""
