"""Which calls are recorded, and how the caller learns of it. One rule, of the queue."""

from __future__ import annotations

import zlib
from typing import Literal, NamedTuple

Whose = Literal["none", "all", "share", "on_demand"]
Told = Literal["notice", "tone", "nothing"]

NOTICES = {"en": "This call is being recorded.", "cy": "Mae'r alwad hon yn cael ei recordio."}
WRITTEN_DOWN = {"en": "It is also written down.", "cy": "Mae hefyd yn cael ei thrawsgrifio."}


class RecordingRule(NamedTuple):
    """`percent` counts for `share`; `notice` replaces the usual words; `transcribed` is said."""

    whose: Whose = "none"
    percent: int = 100
    told: Told = "notice"
    notice: str = ""
    transcribed: bool = False


def recorded(rule: RecordingRule, contact: str) -> bool:
    """Whether a call is recorded from its answer on; the same call always gets the same answer."""
    if rule.whose == "share":
        return zlib.crc32(contact.encode()) % 100 < rule.percent
    return rule.whose == "all"


def notice(rule: RecordingRule, language: str = "en") -> str:
    """What the caller is told; empty where a tone or nothing tells them."""
    if rule.told != "notice":
        return ""
    words = rule.notice or NOTICES[language]
    return f"{words} {WRITTEN_DOWN[language]}" if rule.transcribed else words
