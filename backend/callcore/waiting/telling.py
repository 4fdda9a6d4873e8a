"""What a waiting caller is told of their place and wait."""

from __future__ import annotations

from callcore.flow.state import Place
from callcore.speech import values as speech

Told = tuple[int, int]

_NEXT = {"en": "You are next in line.", "cy": "Chi yw'r nesaf yn y llinell."}
_PLACE = {"en": "You are number {} in line.", "cy": "Rydych chi'n rhif {} yn y llinell."}
_WAIT = {"en": "The wait is {}.", "cy": "Yr amser aros yw {}."}


def tell(
    place: Place, last: Told | None, language: str, *, position: bool, wait: bool
) -> tuple[str, Told]:
    """The text that is said, empty where nothing can be, and what is told from now on.

    A told wait never grows while the position does not: then the last one is told again.

    Args:
        last: what was told before: the position, and the wait in seconds (0: none).
        position, wait: what the author wants told.
    """
    said = []
    if position and place.position == 1:
        said.append(_NEXT[language])
    elif position:
        said.append(_PLACE[language].format(" ".join(speech.whole(place.position, language))))
    seconds = round(place.expected_s) if wait and place.expected_s is not None else 0
    if seconds and last is not None and last[1] and place.position <= last[0]:
        seconds = min(seconds, last[1])
    if wait and place.expected_s is not None:
        said.append(_WAIT[language].format(" ".join(speech.about(seconds, language))))
    return " ".join(said), (place.position, max(seconds, 1) if seconds else 0)
