"""Which keys a menu's text offers, and for what."""

from __future__ import annotations

import re

from callcore.speech.recogniser import KEY_WORDS

#: A text may hold both languages.
_WORDS = {word: key for words in KEY_WORDS.values() for word, key in words.items()}
_ONE = r"(?:[0-9*#]|" + "|".join(_WORDS) + r")(?![\w])"
#: A key that is not the beginning of a longer number, such as “9 9 9”.
_KEY = rf"({_ONE})(?![ -]?{_ONE})"
_VERB = (
    r"press(?:\s+or\s+say)?|push|dial|choose|select|enter|option|key|"
    r"(?:p|b)wyswch|gwasgwch|wasgwch|(?:d|dd)eialwch|(?:d|dd)ewiswch|opsiwn|allwedd"
)
_PRESS = re.compile(rf"\b(?:{_VERB})\s+(?:(?:key|option|number|opsiwn|allwedd)\s+)?{_KEY}", re.I)
#: “press 1 or 2”, “press 1, 2 or 3”: what follows a key that is offered.
_MORE = re.compile(rf"\s*(?:,|\bor\b|\band\b|\bneu\b|\ba\b|,\s*or\b)\s*{_KEY}(?!\s+(?:for|am|ar)\b)", re.I)
#: "For vehicles and freight, 4." and "5 for lost property" and "Sales is 1, service is 2"
_TERSE = re.compile(rf"\b(?:for|am|ar gyfer)\s[^,.;]+,\s*{_KEY}(?=\s*(?:[.,;]|$))", re.I)
_LEADING = re.compile(rf"(?:^|[.,;]\s*|\bor\s+){_KEY}\s+(?:for|am|ar gyfer)\b", re.I)
_IS = re.compile(
    rf"(?:^|[.,;:]\s*|\band\s+)[^,.;:]*?\b(?:is|yw)\s+(?:(?:option|opsiwn)\s+)?{_KEY}(?=\s*(?:[.,;]|$|\band\b))",
    re.I,
)
_TOPIC_BEFORE = re.compile(r"\b(?:for|to|am|ar gyfer|i)\s+([^,.;]+?),?\s*(?:please\s*)?$", re.I)
_TOPIC_AFTER = re.compile(r"^\s*(?:for|to|am|ar gyfer)\s+([^,.;]+)", re.I)


def offered_keys(text: str) -> dict[str, str]:
    """The keys that a text offers, in its order, each with what it is for (may be empty)."""
    found: dict[int, tuple[str, str]] = {}

    def offer(match: re.Match[str], topic: str) -> None:
        word = match.group(1).lower()
        found.setdefault(match.start(1), (_WORDS.get(word, word), topic))

    for pattern in (_IS, _PRESS, _TERSE, _LEADING):
        for match in pattern.finditer(text):
            offer(match, _topic(text, match, match.start(1)))
            more = _MORE.match(text, match.end(1)) if pattern is _PRESS else None
            while more is not None:
                offer(more, "")
                more = _MORE.match(text, more.end(1))
    keys: dict[str, str] = {}
    for start in sorted(found):
        key, topic = found[start]
        keys.setdefault(key, topic)
    return keys


#: “say timetable”, “dywedwch ‘amserlen’”: the words after it, up to what they are for.
_SAY = re.compile(
    r"(?<!\bwe )(?<!\byou )(?<!\bto )\b(?:say|dywedwch)\s+[\"“‘']?"
    r"(?!(?:what|which|your|in|so|it|anything|beth)\b)(?P<words>[^.,;:\"“”‘’]+?)[\"”’']?"
    r"(?=\s+(?:for|to|or|and|am|ar gyfer|neu|a)\b|\s*(?:[.,;:]|$))",
    re.I,
)


def offered_words(text: str) -> tuple[str, ...]:
    """The words that a text invites callers to say, in its order; keys are none."""
    found = (match["words"].strip() for match in _SAY.finditer(text))
    return tuple(words for words in found if words and not re.fullmatch(_ONE, words, re.I))


def _topic(text: str, match: re.Match[str], start: int) -> str:
    """What a key is for: the words beside it, on the side that its phrase puts them."""
    if match.re is _IS:
        said = re.sub(
            r"\s+(?:is|yw)\s*(?:option\s*|opsiwn\s*)?$", "", text[match.start() : start], flags=re.I
        )
        return _as_label(re.sub(r"^(?:[.,;:\s]|and\b)+", "", said, flags=re.I))
    head = re.split(r"[.;]", text[: match.start() if match.re is _PRESS else start])[-1]
    before = None if match.re is _LEADING else _TOPIC_BEFORE.search(head.rstrip())
    found = before or _TOPIC_AFTER.search(text[match.end(1) :])
    if found is None:
        return ""
    return _as_label(found.group(1))


def _as_label(words: str) -> str:
    topic = re.sub(r"^(the|our)\s+", "", words.strip(), flags=re.I)
    return topic[:1].upper() + topic[1:80]
