"""What a saved trial expects, and what is otherwise when it is run again."""

from __future__ import annotations

from collections.abc import Mapping

from callcore.flow.parts import Part
from callcore.flow.trial import Result


class Expectation(Part):
    """What a saved trial expects."""

    ending: str
    place: str
    stops: tuple[str, ...]
    heard: tuple[str, ...]
    longest_s: float


def expected(result: Result) -> Expectation:
    """A finished trial's result as what is expected from now on."""
    return Expectation(
        ending=result.ending,
        place=result.place,
        stops=tuple(result.stops),
        heard=tuple(result.heard),
        longest_s=result.seconds,
    )


ENDINGS = {
    "person": "with a person",
    "ended": "ended by us",
    "message": "message left",
    "callback": "callback booked",
    "elsewhere": "sent elsewhere",
    "hung_up": "hung up",
    "failed": "the failure rule",
    "": "not over",
}


def differences(want: Expectation, result: Result, names: Mapping[str, str]) -> list[str]:
    """What is otherwise than expected, in words; empty where all is as it was.

    Args:
        names: the names of stops, by id.
    """
    names = {**names, **result.names}
    found = []
    if (want.ending, want.place) != (result.ending, result.place):
        found.append(
            f"It ended at {want.place or 'nothing'} ({ENDINGS[want.ending]}); "
            f"now at {result.place or 'nothing'} ({ENDINGS.get(result.ending, '')})."
        )
    if list(want.stops) != result.stops:
        at = next(
            (i for i, pair in enumerate(zip(want.stops, result.stops, strict=False)) if pair[0] != pair[1]),
            min(len(want.stops), len(result.stops)),
        )
        before = names.get(want.stops[at - 1], want.stops[at - 1]) if at else "the start"
        then = names.get(want.stops[at], want.stops[at]) if at < len(want.stops) else "the end"
        now = result.stops[at] if at < len(result.stops) else ""
        found.append(f"After {before} came {then}; now {names.get(now, now) or 'the end'}.")
    for before_text, now_text in zip(want.heard, result.heard, strict=False):
        if before_text != now_text:
            found.append(f"“{before_text}” was heard; now “{now_text}”.")
            break
    else:
        if len(want.heard) != len(result.heard):
            found.append(f"{len(want.heard)} texts were heard; now {len(result.heard)}.")
    if result.seconds > want.longest_s + 0.5:
        found.append(f"It took {want.longest_s:g} s at the longest; now {result.seconds:g} s.")
    return found
