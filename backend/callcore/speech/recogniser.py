"""What a caller says, as keys: the interface of a speech recogniser, and its stand-in.

A stop that listens tells the recogniser what may be said there (its `Grammar`); the recogniser
answers with the keys that were meant, or with nothing. What is not understood counts as a wrong
key, so that nobody who is not understood can be trapped.
"""

from __future__ import annotations

import unicodedata
from functools import lru_cache
from typing import NamedTuple, Protocol

import jellyfish

#: How keys are called, by language.
KEY_WORDS: dict[str, dict[str, str]] = {
    "en": {
        "zero": "0",
        "oh": "0",
        "nought": "0",
        "one": "1",
        "two": "2",
        "three": "3",
        "four": "4",
        "five": "5",
        "six": "6",
        "seven": "7",
        "eight": "8",
        "nine": "9",
        "star": "*",
        "hash": "#",
    },
    "cy": {
        "dim": "0",
        "sero": "0",
        "un": "1",
        "dau": "2",
        "tri": "3",
        "pedwar": "4",
        "pump": "5",
        "chwech": "6",
        "saith": "7",
        "wyth": "8",
        "naw": "9",
        "seren": "*",
    },
}
#: How often a digit that follows is meant.
_TIMES = {"double": 2, "treble": 3, "triple": 3, "dwbl": 2}
YES = {"en": ("yes", "yes please", "correct", "that's right"), "cy": ("ie", "ydy", "cywir", "iawn")}
NO = {"en": ("no", "no thank you", "wrong"), "cy": ("na", "nage", "nac ydy", "anghywir")}
#: Nobody says more to a machine at once (characters).
MOST_SAID = 200
#: More digits than any stop takes.
_MOST_DIGITS = 40
#: Words shorter than this must be spoken as they are to be taken for one another.
_SHORT = 4


class Grammar(NamedTuple):
    """What may be said at a stop: phrases by the key that they choose, or digits one by one."""

    language: str
    choices: tuple[tuple[str, tuple[str, ...]], ...] = ()
    digits: bool = False


class Recogniser(Protocol):
    """Understands what callers say."""

    def understood(self, said: str, grammar: Grammar) -> str:
        """The keys that were meant: one of the choices, or digits; empty for not understood."""


@lru_cache(maxsize=4096)
def plain(text: str) -> str:
    """A text as it is compared: no case, no accents, no punctuation at its ends, single spaces."""
    decomposed = unicodedata.normalize("NFKD", text.casefold())
    kept = "".join(c for c in decomposed if not unicodedata.combining(c))
    return " ".join(kept.split()).strip(" .,;:!?\"'“”‘’")


class TypedSpeech:
    """The stand-in: what is said arrives as text. It knows phrases also inside of a sentence."""

    def understood(self, said: str, grammar: Grammar) -> str:
        words = _words(said)
        if grammar.digits:
            digits = _digits(words, grammar.language)
            if digits:
                return digits
        found = [(len(p), key) for key, p in _phrases(grammar) if _within(p, words)]
        longest = max((length for length, _ in found), default=0)
        meant = {key for length, key in found if length == longest}
        return meant.pop() if len(meant) == 1 else ""


def sounds_alike(one: str, two: str) -> bool:
    """Whether a recogniser can take two phrases for one another: the same sound (by Philips'
    Metaphone), or a letter apart."""
    mine, others = plain(one), plain(two)
    if mine == others:
        return True
    if min(len(mine), len(others)) < _SHORT:
        return False
    if jellyfish.damerau_levenshtein_distance(mine, others) <= 1:
        return True
    return bool(sound := jellyfish.metaphone(mine)) and sound == jellyfish.metaphone(others)


def _words(said: str) -> tuple[str, ...]:
    return tuple(word for part in said.split() if (word := plain(part)))


@lru_cache(maxsize=512)
def _phrases(grammar: Grammar) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """Every phrase of a grammar with its key, the names of the keys among them."""
    names = KEY_WORDS.get(grammar.language, {})
    return tuple(
        (key, _words(phrase) or (phrase,))
        for key, phrases in grammar.choices
        for phrase in (key, *(name for name, named in names.items() if named == key), *phrases)
    )


def _within(phrase: tuple[str, ...], words: tuple[str, ...]) -> bool:
    return any(words[at : at + len(phrase)] == phrase for at in range(len(words) - len(phrase) + 1))


def _digits(words: tuple[str, ...], language: str) -> str:
    """Digits one by one, “double four” among them; empty where a word is none of them."""
    names = KEY_WORDS.get(language, {})
    digits, times = "", 1
    for word in words:
        if word in _TIMES:
            times = _TIMES[word]
            continue
        named = word if word.isascii() and word.isdigit() else names.get(word, "")
        if not named.isdigit() or len(digits) > _MOST_DIGITS:
            return ""
        digits, times = digits + named * times, 1
    return digits
