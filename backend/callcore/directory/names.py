"""A surname spelled on the keys.

Each letter stands on its key of a telephone (ITU-T E.161). Accents and spaces are
folded: "O'Brien", "Ó Briain" and "van den Berg" are spelled by their letters alone.
"""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable
from typing import Literal, NamedTuple

_KEYS = {
    letter: key
    for key, letters in {
        "2": "abc",
        "3": "def",
        "4": "ghi",
        "5": "jkl",
        "6": "mno",
        "7": "pqrs",
        "8": "tuv",
        "9": "wxyz",
    }.items()
    for letter in letters
}

#: Letters that have no accent to take off.
_PLAIN = {"ß": "ss", "æ": "ae", "œ": "oe", "ø": "o", "ł": "l", "đ": "d", "ð": "d", "þ": "th", "ı": "i"}

#: Small words that belong to the surname after them.
_PARTICLES = {"van", "von", "de", "den", "der", "del", "della", "di", "da", "la", "le", "ap", "ab", "mac"}

#: More than this many are not read out; the caller is asked for more letters.
MOST_READ_OUT = 5


class Person(NamedTuple):
    """An entry of a directory."""

    id: str
    name: str
    #: What spells it; a person's surname where nothing else is said.
    spelled: str = ""

    def letters(self) -> str:
        """What is spelled on the keys."""
        return self.spelled or surname(self.name)


class Match(NamedTuple):
    """What the keys so far fit. `several` and `one` carry the people, in reading order."""

    kind: Literal["none", "one", "several", "more_letters"]
    people: tuple[Person, ...]


def folded(text: str) -> str:
    """The plain letters of a text, in lower case, without accents, spaces or marks."""
    plain = "".join(_PLAIN.get(letter, letter) for letter in text.lower())
    parts = unicodedata.normalize("NFKD", plain)
    return "".join(letter for letter in parts if "a" <= letter <= "z")


def surname(name: str) -> str:
    """The surname of a full name: the last word, with the small words before it."""
    words = name.split()
    first = len(words) - 1
    while first > 1 and words[first - 1].lower() in _PARTICLES:
        first -= 1
    return " ".join(words[max(first, 0) :])


def keys_of(text: str) -> str:
    """The keys that spell a text; empty where it has no Latin letters."""
    return "".join(_KEYS[letter] for letter in folded(text))


def match(people: Iterable[Person], keys: str) -> Match:
    """Who the keys pressed so far can mean.

    A surname that is spelled in full comes before those that it only begins, and
    is `one` even where longer ones go on. An empty spelling fits nobody.
    """
    if not keys:
        return Match("none", ())
    fitting = [p for p in people if keys_of(p.letters()).startswith(keys)]
    exact = [p for p in fitting if keys_of(p.letters()) == keys]
    chosen = exact or fitting
    ordered = tuple(sorted(chosen, key=lambda p: (folded(p.letters()), folded(p.name), p.id)))
    if not ordered:
        return Match("none", ())
    if len(ordered) == 1:
        return Match("one", ordered)
    return Match("several" if len(ordered) <= MOST_READ_OUT else "more_letters", ordered)
