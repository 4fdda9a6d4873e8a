"""The small parts of a site: what is around it, what it keeps, and how it survives faults."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple, Protocol

from callcore.devices.outside_line import OutsideLine
from callcore.errors import EventRefused
from callcore.speech.recogniser import Recogniser

#: How many contacts that are over can still be looked at, newest last.
KEPT_OVER = 500


class Trouble(NamedTuple):
    """Something that went wrong: when (ms), with what, and the contact that ended by it, if any."""

    at_ms: int
    what: str
    contact: str


class Devices(NamedTuple):
    """What is outside of a centre: a source of ids, the outside line, the recogniser of speech, and
    how long after it is listened for a caller's fax tone is heard (ms; None for people)."""

    new_id: Callable[[], str]
    outside: OutsideLine
    recogniser: Recogniser
    fax_tone_ms: Callable[[str], int | None]


class Keeps(NamedTuple):
    """What a site keeps for people to look at, and can do without: contacts' logs and the strip's
    ridge (`shown`), with each ring who was considered (`explained`), and what callers hear, and
    when they are listened to, where nothing is counted of it (`heard`)."""

    shown: bool = True
    explained: bool = True
    heard: bool = True


EVERYTHING = Keeps()


class AgentLines:
    """Agents' outside telephones: whose are open, and which ring: number of the ring, contact, and
    what will come of it."""

    def __init__(self) -> None:
        self.open: set[str] = set()
        self.rings: dict[str, tuple[int, str, str]] = {}
        self.count = 0


class Breaks(Protocol):
    """What has faults of its own."""

    def broke(self, contact: str, what: str, error: Exception, now_ms: int) -> None:
        """See `Site.broke`."""


class Surviving:
    """See `Site.surviving`."""

    __slots__ = ("_contact", "_now_ms", "_site", "_what")

    def __init__(self, site: Breaks, contact: str, what: str, now_ms: int) -> None:
        self._site, self._contact, self._now_ms, self._what = site, contact, now_ms, what

    def __enter__(self) -> None:
        """Nothing is to be made ready."""

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: object) -> bool:
        if error is None or isinstance(error, EventRefused) or not isinstance(error, Exception):
            return False
        self._site.broke(self._contact, self._what, error, self._now_ms)
        return True
