"""Values as words for the speech engine, in English and Welsh.

Each function gives the words in speaking order; joined by spaces they are the
sentence. English numbers come from num2words; Welsh ones follow the decimal way of
counting, with the nouns' gender and the mutations that the numbers cause.
"""

from __future__ import annotations

from functools import lru_cache

from num2words import num2words

from callcore.speech import welsh

Words = tuple[str, ...]

#: Numbers beyond these are typing errors; no caller is told them.
LARGEST = 999_999_999
LAST_WELSH_ORDINAL = 31


@lru_cache(maxsize=4096)
def _english(number: int, kind: str = "cardinal") -> Words:
    said = num2words(number, to=kind, lang="en")
    return tuple(said.replace("-", " ").replace(",", "").split())


def _checked(number: int) -> int:
    if not -LARGEST <= number <= LARGEST:
        raise ValueError(f"{number} is beyond what can be said")
    return number


def whole(number: int, language: str) -> Words:
    """A whole number: "twenty one", "dau ddeg un"."""
    if language == "cy":
        sign: Words = ("minws",) if _checked(number) < 0 else ()
        return (*sign, *welsh.cardinal(abs(number)))
    return _english(_checked(number))


def ordinal(number: int, language: str) -> Words:
    """An ordinal from 1 up: "third", "trydydd".

    Welsh beyond the 31st, where nobody counts so aloud, says "rhif" and the number.
    """
    if _checked(number) < 1:
        raise ValueError(f"{number} has no ordinal")
    if language != "cy":
        return _english(number, "ordinal")
    if number <= LAST_WELSH_ORDINAL:
        return tuple(welsh.ORDINALS[number - 1].split())
    return ("rhif", *welsh.cardinal(number))


def digits(text: str, language: str) -> Words:
    """Figures one by one, whatever stands between them left out: "zero two zero"."""
    return tuple(word for figure in text if figure in "0123456789" for word in whole(int(figure), language))


def _units(seconds: int) -> list[tuple[int, str]]:
    hours, rest = divmod(seconds, 3600)
    minutes, left = divmod(rest, 60)
    parts = [(hours, "hour"), (minutes, "minute"), (left, "second")]
    return [part for part in parts if part[0]] or [(0, "second")]


def duration(seconds: int, language: str) -> Words:
    """A length of time from 0 s: "one minute and thirty seconds"."""
    if _checked(seconds) < 0:
        raise ValueError("a duration cannot be negative")
    parts = [_counted(number, unit, language) for number, unit in _units(seconds)]
    said = list(parts[0])
    for part in parts[1:-1]:
        said += part
    if len(parts) > 1:
        said += welsh.joined(parts[-1]) if language == "cy" else ("and", *parts[-1])
    return tuple(said)


def _counted(number: int, unit: str, language: str) -> Words:
    if language == "cy":
        return welsh.counted(number, unit)
    return (*_english(number), unit if number == 1 else f"{unit}s")


#: A wait under this is "less than two minutes"; over the last it is "more than twenty".
SHORT_S, LONG_S = 120, 1200


def band(seconds: float) -> tuple[float, float]:
    """The waits (s) for which what is told of an expected wait is true enough.

    "Less than two minutes" and "more than twenty" are meant as they are said; between them a
    wait may differ by 30 %, and by a minute at the least.
    """
    if seconds < SHORT_S:
        return 0.0, float(SHORT_S)
    if seconds > LONG_S:
        return float(LONG_S), float("inf")
    give = max(60.0, 0.3 * seconds)
    return seconds - give, seconds + give


def about(seconds: int, language: str) -> Words:
    """A rounded phrase for a wait, never less than the wait: "about five minutes".

    Under two minutes, by the minute up to ten, by five up to twenty, then "more than
    twenty minutes".
    """
    if _checked(seconds) < 0:
        raise ValueError("a wait cannot be negative")
    lead: Words
    if seconds < SHORT_S:
        lead, minutes = {"en": ("less", "than"), "cy": ("llai", "na")}[language], 2
    elif seconds > LONG_S:
        lead, minutes = {"en": ("more", "than"), "cy": ("mwy", "nag")}[language], 20
    else:
        step = 60 if seconds <= 600 else 300
        lead, minutes = ({"en": ("about",), "cy": ("tua",)}[language], -(-seconds // step) * step // 60)
    said = _counted(minutes, "minute", language)
    if language == "cy" and lead[-1] in ("na", "tua"):
        said = (welsh.aspirated(said[0]), *said[1:])
    if language == "cy" and lead[-1] == "nag":
        said = ("ugain", "munud")
    return (*lead, *said)


def clock(hour: int, minute: int, language: str) -> Words:
    """A time of day on the 12-hour clock with its part of the day; midday and midnight by name."""
    if not (0 <= hour <= 23 and 0 <= minute <= 59):
        raise ValueError(f"{hour}:{minute:02} is no time of day")
    if minute == 0 and hour in (0, 12):
        names = {"en": ("midnight", "midday"), "cy": ("hanner nos", "hanner dydd")}[language]
        return tuple(names[hour == 12].split())
    said = whole(hour % 12 or 12, language)
    if minute == 0:
        said += {"en": ("o'clock",), "cy": ("o'r", "gloch")}[language]
    elif minute < 10:
        said += ({"en": "oh", "cy": "dim"}[language], *whole(minute, language))
    else:
        said += whole(minute, language)
    return said + _part_of_day(hour, language)


def _part_of_day(hour: int, language: str) -> Words:
    part = 0 if hour < 12 else 1 if hour < 18 else 2
    names = {
        "en": ("in the morning", "in the afternoon", "in the evening"),
        "cy": ("y bore", "y prynhawn", "yr hwyr"),
    }
    return tuple(names[language][part].split())
