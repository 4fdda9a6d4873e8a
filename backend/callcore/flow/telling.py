"""What a waiting caller is told of their place and wait."""

from __future__ import annotations

from callcore.flow.state import Place
from callcore.speech import values as speech

#: A position, and a wait in seconds; None where none was told.
Told = tuple[int, int | None]

_NEXT = {"en": "You are next in line.", "cy": "Chi yw'r nesaf yn y llinell."}
_PLACE = {"en": "You are {} in line.", "cy": "Chi yw'r {} yn y llinell."}
_WAIT = {"en": "The wait is {}.", "cy": "Yr amser aros yw {}."}


def tell(place: Place, last: Told | None, language: str, *, position: bool, wait: bool) -> tuple[str, Told]:
    """The text that is said, empty where nothing can be, and what is told from now on.

    A told wait never grows while the position does not, also over times at which none was told:
    then the least one is told again.

    Args:
        last: what was told before.
        position, wait: what the author wants told.
    """
    said = []
    if position and place.position == 1:
        said.append(_NEXT[language])
    elif position:
        said.append(_PLACE[language].format(" ".join(speech.ordinal(place.position, language))))
    least = last[1] if last is not None and place.position <= last[0] else None
    if wait and place.expected_s is not None:
        seconds = round(place.expected_s)
        least = seconds if least is None else min(seconds, least)
        said.append(_WAIT[language].format(" ".join(speech.about(least, language))))
    return " ".join(said), (place.position, least)
