"""Welsh numbers by the decimal way of counting, and what they do to the words after them.

After Y Geiriadur Mawr's tables of numerals: feminine forms of two, three and four; pum
and chwe before a noun; the noun stays singular up to ten, and follows "o" in the plural
beyond; "a" is followed by the aspirate mutation and is "ac" before a vowel.
"""

from __future__ import annotations

Words = tuple[str, ...]

_UNITS = ("dim", "un", "dau", "tri", "pedwar", "pump", "chwech", "saith", "wyth", "naw")
_TENS = (
    "",
    "deg",
    "dau ddeg",
    "tri deg",
    "pedwar deg",
    "pum deg",
    "chwe deg",
    "saith deg",
    "wyth deg",
    "naw deg",
)
_HUNDREDS = (
    "",
    "cant",
    "dau gant",
    "tri chant",
    "pedwar cant",
    "pum cant",
    "chwe chant",
    "saith cant",
    "wyth cant",
    "naw cant",
)
#: One to ten before a feminine noun.
_FEMININE = ("", "un", "dwy", "tair", "pedair", "pum", "chwe", "saith", "wyth", "naw", "deg")
_MASCULINE = ("", "un", "dau", "tri", "pedwar", "pum", "chwe", "saith", "wyth", "naw", "deg")

ORDINALS = (
    "cyntaf",
    "ail",
    "trydydd",
    "pedwerydd",
    "pumed",
    "chweched",
    "seithfed",
    "wythfed",
    "nawfed",
    "degfed",
    "unfed ar ddeg",
    "deuddegfed",
    "trydydd ar ddeg",
    "pedwerydd ar ddeg",
    "pymthegfed",
    "unfed ar bymtheg",
    "ail ar bymtheg",
    "deunawfed",
    "pedwerydd ar bymtheg",
    "ugeinfed",
    "unfed ar hugain",
    "ail ar hugain",
    "trydydd ar hugain",
    "pedwerydd ar hugain",
    "pumed ar hugain",
    "chweched ar hugain",
    "seithfed ar hugain",
    "wythfed ar hugain",
    "nawfed ar hugain",
    "degfed ar hugain",
    "unfed ar ddeg ar hugain",
)

#: Singular, singular after "dau" or "dwy" (softened), plural after "o" (softened), feminine.
_NOUNS = {
    "hour": ("awr", "awr", "oriau", True),
    "minute": ("munud", "funud", "funudau", False),
    "second": ("eiliad", "eiliad", "eiliadau", True),
}

_VOWELS = "aeiouwyâêîôûŵŷ"
_ASPIRATE = {"p": "ph", "t": "th", "c": "ch"}


def cardinal(number: int) -> Words:
    """A whole number from 0 to 999,999,999."""
    if number >= 1_000_000:
        return _large(number, 1_000_000, "miliwn", "filiwn")
    if number >= 1000:
        return _large(number, 1000, "mil", "fil")
    hundreds, rest = divmod(number, 100)
    words = tuple(_HUNDREDS[hundreds].split())
    if hundreds and not rest:
        return words
    below = _below_hundred(rest)
    return words + joined(below) if hundreds and rest < 10 else words + below


def _below_hundred(number: int) -> Words:
    tens, units = divmod(number, 10)
    words: Words = tuple(_TENS[tens].split())
    if tens == 1 and units:
        words = ("un", "deg")
    return words if tens and not units else (*words, _UNITS[units])


def _large(number: int, size: int, noun: str, softened: str) -> Words:
    """Thousands and millions, which are feminine: mil, dwy fil, tair mil, un deg un mil."""
    count, rest = divmod(number, size)
    if count == 1:
        words: Words = (noun,)
    elif count == 2:
        words = ("dwy", softened)
    elif count <= 10:
        words = (_FEMININE[count], noun)
    else:
        words = (*cardinal(count), noun)
    if not rest:
        return words
    return words + (joined(cardinal(rest)) if rest < 10 else cardinal(rest))


def counted(number: int, unit: str) -> Words:
    """A number of hours, minutes or seconds: dwy awr, dau funud, tri deg o eiliadau."""
    singular, softened, plural, feminine = _NOUNS[unit]
    if 1 <= number <= 10:
        forms = _FEMININE if feminine else _MASCULINE
        return (forms[number], softened if number == 2 else singular)
    return (*cardinal(number), "o", plural)


def aspirated(word: str) -> str:
    """A word after "a", "na" or "tua": p, t and c become ph, th and ch."""
    if word.startswith(("ph", "th", "ch")):
        return word
    return _ASPIRATE.get(word[:1], word[:1]) + word[1:]


def joined(words: Words) -> Words:
    """Words after "and": "a" with the aspirate mutation, "ac" before a vowel."""
    if words[0][0] in _VOWELS:
        return ("ac", *words)
    return ("a", aspirated(words[0]), *words[1:])
