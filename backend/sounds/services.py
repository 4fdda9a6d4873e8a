"""Speaking, storing and finding sounds."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from typing import Any

import psycopg
from django.db import OperationalError, transaction

from callcore.flow.definition import LibrarySound, SpokenText
from callcore.flow.world import SoundFacts
from changelog import kept
from changelog.errors import Refused, Use
from sounds.canonical import Canonical, NotASound, canonical
from sounds.engine import EngineFailed, speak_aloud
from sounds.models import Sound, Take

Text = tuple[str, str]


def digest_of(language: str, text: str) -> str:
    """The name of spoken words among the takes."""
    return hashlib.sha256(f"spoken|{language}|{text}".encode()).hexdigest()


def speak(language: str, text: str) -> Take:
    """The take of spoken words; the engine runs only where they were never spoken before.

    Raises:
        Refused: `speech-failed` (502), or `sound-store-full` (507).
    """
    digest = digest_of(language, text)
    known = Take.objects.filter(digest=digest).first()
    if known is not None:
        return known
    try:
        made = canonical(speak_aloud(text, language))
    except (EngineFailed, NotASound) as error:
        message = f"The text could not be spoken: {error}."
        raise Refused("speech-failed", message, status=502) from None
    return store(digest, made)


def store(digest: str, made: Canonical) -> Take:
    """Keep a take; the same digest is kept once.

    Raises:
        Refused: `sound-store-full` where the database's disk is full.
    """
    try:
        with transaction.atomic():
            take, _ = Take.objects.get_or_create(
                digest=digest, defaults={"wav": made.wav, "length_ms": made.length_ms}
            )
    except OperationalError as error:
        if isinstance(error.__cause__, psycopg.errors.DiskFull):
            message = "There is no room left to keep sounds. Nothing was changed; make room first."
            raise Refused("sound-store-full", message, status=507) from None
        raise
    return take


def make_sound(user: Any, *, name: str, language: str, text: str) -> Sound:
    """A new library sound, spoken from its text."""
    take = speak(language, text) if text else None
    return kept.create(user, Sound, name=name, language=language, text=text, take=take)


def change_sound(user: Any, sound: Sound, revision: int, **values: Any) -> Sound:
    """Change a sound; a spoken one is spoken again when its words change."""
    language = values.get("language", sound.language)
    text = values.get("text", sound.text)
    if not sound.uploaded and text:
        values["take"] = speak(language, text)
    return kept.change(user, sound, revision, **values)


def upload(user: Any, sound: Sound, revision: int, data: bytes) -> Sound:
    """Take an uploaded file as the sound's recording.

    Raises:
        Refused: `not-a-sound`, or `sound-store-full`.
    """
    try:
        made = canonical(data)
    except NotASound as error:
        fields = {"file": [str(error)]}
        raise Refused("not-a-sound", str(error), status=400, fields=fields) from None
    digest = hashlib.sha256(b"file|" + made.wav).hexdigest()
    with transaction.atomic():
        take = store(digest, made)
        return kept.change(user, sound, revision, take=take, uploaded=True)


def facts() -> dict[str, SoundFacts]:
    """Every library sound as a flow sees it, by reference."""
    rows = Sound.objects.values_list("pk", "name", "text", "take__length_ms")
    return {f"sound:{pk}": SoundFacts(name, text, ms or 0) for pk, name, text, ms in rows}


def spoken_ms(texts: Iterable[Text]) -> dict[Text, int]:
    """The real lengths of those (language, text) that have been spoken."""
    by_digest = {digest_of(*pair): pair for pair in texts}
    found = Take.objects.filter(digest__in=by_digest).values_list("digest", "length_ms")
    return {by_digest[digest]: ms for digest, ms in found}


def takes(prompts: Iterable[SpokenText | LibrarySound]) -> dict[SpokenText | LibrarySound, int]:
    """The take (its number) of each prompt that has one."""
    wanted = set(prompts)
    texts = {digest_of(p.language, p.text): p for p in wanted if isinstance(p, SpokenText)}
    found: dict[SpokenText | LibrarySound, int] = {
        texts[digest]: pk
        for digest, pk in Take.objects.filter(digest__in=texts).values_list("digest", "pk")
    }
    sounds = {p.sound.partition(":")[2]: p for p in wanted if isinstance(p, LibrarySound)}
    rows = Sound.objects.filter(pk__in=sounds, take__isnull=False).values_list("pk", "take_id")
    return found | {sounds[str(pk)]: take for pk, take in rows}


def search(text: str) -> list[Use]:
    """Sounds whose name or words hold a text."""
    found = Sound.objects.filter(name__icontains=text)[:5]
    return [Use("sound", str(s.pk), s.name, "sound") for s in found]
