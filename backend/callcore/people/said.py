"""What an administrator says of the people, as plain data; what is left unsaid is as usual."""

from __future__ import annotations

import logging
from collections.abc import Callable, Mapping
from typing import Any, TypeGuard

from callcore.people.distributions import Distribution, Erlang, Exponential, Fixed, Lognormal, distribution
from callcore.people.moments import LONGEST_DAY_MS, MOST_MOMENTS
from callcore.people.profile import DAYS, MOST_AN_HOUR, QUARTERS, Profile
from callcore.people.traits import Traits

log = logging.getLogger(__name__)

#: Lengths that can be set, by whose they are; and shares, from 0 to 1.
LENGTHS = {"patience": "callers", "talk": "callers", "wraps": "agents"}
SHARES = {
    "called_back": "callers",
    "miskeyed": "callers",
    "leaves": "callers",
    "missed": "agents",
    "held": "agents",
    "sent_on": "agents",
    "coded": "agents",
    "days_off": "agents",
}
#: No figure of people lies further from 0.
_FAR = 1e9
_MOST_SHIFTS, _MOST_CODES = 100, 1000
#: What shares are of is no longer than a text message.
_LONGEST = 480


class Wrong(ValueError):
    """Something that cannot be; `field` is what is wrong, the message says why."""

    def __init__(self, field: str, words: str) -> None:
        super().__init__(words)
        self.field = field


def traits_of(said: Mapping[str, Any]) -> Traits:
    """The traits that somebody said.

    Raises:
        Wrong: the first thing that cannot be.
    """
    traits = Traits()
    for name, value in said.items():
        if name not in _READ:
            raise Wrong(str(name)[:40], "Nothing of the people is called so.")
        who, read = _READ[name]
        known = {name: read(name, value)}
        traits = traits._replace(**({who: getattr(traits, who)._replace(**known)} if who else known))
    return traits


def as_said(traits: Traits) -> dict[str, Any]:
    """Traits as plain data, everything of them that can be set."""
    return {
        "profile": [list(day) for day in traits.profile.days],
        "moments": list(traits.moments),
        **{name: _as_length(getattr(getattr(traits, who), name)) for name, who in LENGTHS.items()},
        **{name: getattr(getattr(traits, who), name) for name, who in SHARES.items()},
        "shifts": list(traits.agents.shifts),
        "codes": dict(traits.agents.codes),
        "passes_as": traits.agents.passes_as,
        "choices": dict(traits.callers.choices),
        "texts": dict(traits.callers.texts),
        "numbers": dict(traits.numbers),
    }


def usual_unless(said: Mapping[str, Any]) -> Traits:
    """The traits that were set; where a later version set them, or nobody could have, as usual."""
    try:
        return traits_of(said)
    except Wrong as error:
        log.warning("the stand-ins are as usual: %s (%s)", error, error.field)
        return Traits()


def _profile(name: str, value: Any) -> Profile:
    whole = isinstance(value, list) and len(value) == len(DAYS)
    if not whole or not all(isinstance(day, list) and len(day) == QUARTERS for day in value):
        raise Wrong(name, "Seven days of 96 quarter-hours are needed.")
    for weekday, day in zip(DAYS, value, strict=True):
        for quarter, rate in enumerate(day):
            if not _is_number(rate) or not 0 <= rate <= MOST_AN_HOUR:
                at = f"{quarter // 4:02}:{quarter % 4 * 15:02}"
                raise Wrong(name, f"{weekday}, {at}: 0 to 20,000 callers an hour can come.")
    return Profile(tuple(tuple(map(float, day)) for day in value))


def _moments(name: str, value: Any) -> tuple[int, ...]:
    if not isinstance(value, list) or len(value) > MOST_MOMENTS:
        raise Wrong(name, f"A list of moments is needed, {MOST_MOMENTS:,} at the most.")
    for number, moment in enumerate(value, 1):
        if not _is_number(moment) or moment != int(moment) or not 0 <= moment < LONGEST_DAY_MS:
            raise Wrong(name, f"Moment {number}: whole milliseconds after midnight are needed.")
    return tuple(sorted(map(int, value)))


def _length(name: str, value: Any) -> Distribution:
    if not isinstance(value, dict) or not value.keys() <= {"kind", "mean_s", "spread"}:
        raise Wrong(name, "A kind of distribution, a mean and a spread are needed.")
    mean_s, spread = value.get("mean_s"), value.get("spread", 1.0)
    if not _is_number(mean_s) or not _is_number(spread):
        raise Wrong(name, "The mean (in seconds) and the spread are numbers.")
    try:
        return distribution(str(value.get("kind"))[:20], float(mean_s), float(spread))
    except ValueError as error:
        raise Wrong(name, str(error)) from None


def _shifts(name: str, value: Any) -> tuple[float, ...]:
    known = isinstance(value, list) and len(value) <= _MOST_SHIFTS
    if not known or not all(_is_number(hour) and 0 <= hour < 24 for hour in value):
        raise Wrong(name, "Shifts begin at hours of the day, 0 to 23.99; 100 at the most.")
    return tuple(map(float, value))


def _weights(name: str, value: Any) -> dict[str, float]:
    known = isinstance(value, dict) and len(value) <= _MOST_CODES
    if not known or not all(_is_number(weight) and weight >= 0 for weight in value.values()):
        raise Wrong(name, "Shares are figures from 0 on, by what they are of.")
    return {str(of)[:_LONGEST]: float(weight) for of, weight in value.items()}


def _share(name: str, value: Any) -> float:
    if not _is_number(value) or not 0 <= value <= 1:
        raise Wrong(name, "A share lies between 0 and 1.")
    return float(value)


def _is_number(value: Any) -> TypeGuard[float]:
    """A number that is neither endless nor none; JSON's whole numbers may have any length."""
    known = isinstance(value, int | float) and not isinstance(value, bool)
    return known and -_FAR <= value <= _FAR


def _as_length(known: Distribution) -> dict[str, Any]:
    match known:
        case Fixed(mean_s):
            return {"kind": "fixed", "mean_s": mean_s, "spread": 0.0}
        case Exponential(mean_s):
            return {"kind": "exponential", "mean_s": mean_s, "spread": 1.0}
        case Lognormal(mean_s, spread):
            return {"kind": "lognormal", "mean_s": mean_s, "spread": spread}
        case Erlang(mean_s, phases):
            return {"kind": "erlang", "mean_s": mean_s, "spread": phases**-0.5}
    raise TypeError(known)


#: How each thing that can be said is read, and whose trait it is; empty for everybody's.
_READ: dict[str, tuple[str, Callable[[str, Any], Any]]] = {
    "profile": ("", _profile),
    "moments": ("", _moments),
    "numbers": ("", _weights),
    **{name: (who, _length) for name, who in LENGTHS.items()},
    **{name: (who, _share) for name, who in SHARES.items()},
    "shifts": ("agents", _shifts),
    "codes": ("agents", _weights),
    "passes_as": ("agents", lambda _, value: str(value)[:80]),
    "choices": ("callers", _weights),
    "texts": ("callers", _weights),
}
