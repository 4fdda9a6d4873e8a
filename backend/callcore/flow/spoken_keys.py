"""Which keys a menu's text offers, and for what."""

from __future__ import annotations

import re

_WORDS = {
    "zero": "0", "one": "1", "two": "2", "three": "3", "four": "4", "five": "5", "six": "6",
    "seven": "7", "eight": "8", "nine": "9", "star": "*", "hash": "#",
    "un": "1", "dau": "2", "tri": "3", "pedwar": "4", "pump": "5", "chwech": "6", "saith": "7",
    "wyth": "8", "naw": "9", "dim": "0", "seren": "*",
}  # fmt: skip
_KEY = r"([0-9*#]|" + "|".join(_WORDS) + r")(?![\w])"
_PRESS = re.compile(rf"\b(?:press|dial|choose|pwyswch|deialwch|dewiswch)\s+(?:key\s+)?{_KEY}", re.I)
#: "For vehicles and freight, 4." and "5 for lost property"
_TERSE = re.compile(rf"\b(?:for|am|ar gyfer)\s[^,.;]+,\s*{_KEY}(?=\s*(?:[.,;]|$))", re.I)
_LEADING = re.compile(rf"(?:^|[.,;]\s*|\bor\s+){_KEY}\s+(?:for|am|ar gyfer)\b", re.I)
_TOPIC_BEFORE = re.compile(r"\b(?:for|to|am|ar gyfer|i)\s+([^,.;]+?),?\s*(?:please\s*)?$", re.I)
_TOPIC_AFTER = re.compile(r"^\s*(?:for|to|am|ar gyfer)\s+([^,.;]+)", re.I)


def offered_keys(text: str) -> dict[str, str]:
    """The keys that a text offers, in its order, each with what it is for (may be empty)."""
    found: dict[int, tuple[str, str]] = {}
    for pattern in (_PRESS, _TERSE, _LEADING):
        for match in pattern.finditer(text):
            word = match.group(1).lower()
            start = match.start(1)
            found.setdefault(start, (_WORDS.get(word, word), _topic(text, match, start)))
    keys: dict[str, str] = {}
    for start in sorted(found):
        key, topic = found[start]
        keys.setdefault(key, topic)
    return keys


def _topic(text: str, match: re.Match[str], start: int) -> str:
    """What a key is for: the words beside it, on the side that its phrase puts them."""
    head = re.split(r"[.;]", text[: match.start() if match.re is _PRESS else start])[-1]
    before = None if match.re is _LEADING else _TOPIC_BEFORE.search(head.rstrip())
    found = before or _TOPIC_AFTER.search(text[match.end(1) :])
    if found is None:
        return ""
    topic = re.sub(r"^(the|our)\s+", "", found.group(1).strip(), flags=re.I)
    return topic[:1].upper() + topic[1:80]
