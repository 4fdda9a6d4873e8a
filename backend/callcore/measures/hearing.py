"""What a caller heard, shortened: every prompt as far as it was heard, music and talk as a moment
of each. Of the same course as the picture of the contact."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Literal, NamedTuple

from callcore.events import Happening, facts
from callcore.measures.course import Course, Piece, course_of

What = Literal["words", "music", "talk", "quiet"]
#: How long (ms) of each is left, however long it was; words are left whole.
KEPT_MS: dict[What, int] = {"music": 4_000, "talk": 1_500, "quiet": 1_500}
#: Shorter silence is none.
_NO_GAP_MS = 150
#: All of it is no longer than this (ms).
LONGEST_MS = 10 * 60_000


class Part(NamedTuple):
    """A stretch of it: from a moment of the contact (ms), so long (ms) in what is heard. `heard`:
    the prompt, for words; `of`: the agent, for talk."""

    what: What
    at_ms: int
    length_ms: int
    heard: facts.Heard | None = None
    of: str = ""


def heard_in(events: Sequence[Happening], now_ms: int) -> list[Part]:
    """The parts in their order; none where nothing was spoken or played.

    Args:
        now_ms: up to when it has come, if it is not over.
    """
    course = course_of(events, now_ms)
    prompts: dict[int, facts.Heard] = {}
    for event in events:
        if isinstance(event.fact, facts.Heard) and event.fact.length_ms:
            prompts[event.at_ms] = event.fact
    parts: list[Part] = []
    cursor_ms = course.begins_ms
    for piece in sorted(course.hears, key=lambda piece: piece.from_ms):
        parts += _between(course, cursor_ms, piece.from_ms)
        lasts_ms = piece.until_ms - piece.from_ms
        prompt = prompts.get(piece.from_ms)
        if piece.kind == "words" and prompt is not None:
            parts.append(Part("words", piece.from_ms, lasts_ms, prompt))
        elif piece.kind == "music":
            parts.append(Part("music", piece.from_ms, min(lasts_ms, KEPT_MS["music"])))
        cursor_ms = max(cursor_ms, piece.until_ms)
    if not any(part.what == "words" for part in parts):
        return []
    spoken_ms = max((piece.until_ms for piece in course.where), default=cursor_ms)
    return list(_bounded([*parts, *_between(course, cursor_ms, spoken_ms)]))


def _between(course: Course, from_ms: int, until_ms: int) -> Iterable[Part]:
    """What is heard where no prompt is: a person, music in line and on hold, or nothing."""
    for place in course.where:
        begins, ends = max(from_ms, place.from_ms), min(until_ms, place.until_ms)
        if ends - begins < _NO_GAP_MS:
            continue
        what = _in(place)
        yield Part(what, begins, min(ends - begins, KEPT_MS[what]), of=place.of if what == "talk" else "")


def _in(place: Piece) -> What:
    if place.kind in ("person", "outside"):
        return "talk"
    return "music" if place.kind == "queue" else "quiet"


def _bounded(parts: Iterable[Part]) -> Iterable[Part]:
    left_ms = LONGEST_MS
    for part in parts:
        if left_ms <= 0:
            return
        yield part._replace(length_ms=min(part.length_ms, left_ms))
        left_ms -= part.length_ms
