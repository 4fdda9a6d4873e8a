"""Speaking, storing and finding sounds."""

from __future__ import annotations

import hashlib
import io
from collections.abc import Iterable
from pathlib import PurePath
from typing import Any

import numpy as np
import psycopg
import soundfile
from django.db import OperationalError, connection, transaction

from callcore.flow.catalogue import SoundFacts, Spoken
from callcore.flow.parts import AnyPrompt, LibrarySound, SpokenText
from changelog import config_store
from changelog.kinds import RecordedKind
from sounds.canonical import Canonical, NotASound, canonical, louder
from sounds.engine import WORDS_PER_MINUTE, EngineFailed, speak_aloud
from sounds.models import Sound, Take
from web.errors import Refused, Use

Text = tuple[str, str]
#: A sound this far (in LU) from the library's median is pointed out: callers hear the step.
FAR_FROM_MEDIAN = 6.0


def digest_of(language: str, text: str, speed: int = WORDS_PER_MINUTE) -> str:
    """The name of spoken words among the takes."""
    at = "" if speed == WORDS_PER_MINUTE else f"{speed}|"
    return hashlib.sha256(f"spoken|{at}{language}|{text}".encode()).hexdigest()


def speak(language: str, text: str, speed: int = WORDS_PER_MINUTE) -> Take:
    """The take of spoken words; the engine runs only where they were never spoken before.

    Raises:
        Refused: `speech-failed` (502), or `sound-store-full` (507).
    """
    digest = digest_of(language, text, speed)
    known = Take.objects.filter(digest=digest).first()
    return known or store(digest, _spoken_now(language, text, speed))


def forget_private(takes: Iterable[int]) -> None:
    """Take out recordings of what callers left, whose messages are gone."""
    Take.objects.filter(pk__in=list(takes), private=True).delete()


def speak_in_private(language: str, text: str, about: str) -> Take:
    """A take of its own of words that are not for everybody, named after what it belongs to.

    Raises:
        Refused: as `speak`.
    """
    digest = hashlib.sha256(f"private|{about}".encode()).hexdigest()
    known = Take.objects.filter(digest=digest).first()
    return known or store(digest, _spoken_now(language, text, WORDS_PER_MINUTE), private=True)


def _spoken_now(language: str, text: str, speed: int) -> Canonical:
    try:
        return canonical(speak_aloud(text, language, speed))
    except (EngineFailed, NotASound) as error:
        message = f"The text could not be spoken: {error}."
        raise Refused("speech-failed", message, status=502) from None


def store(digest: str, made: Canonical, *, private: bool = False) -> Take:
    """Keep a take; the same digest is kept once.

    Raises:
        Refused: `sound-store-full` where the database's disk is full.
    """
    try:
        with transaction.atomic():
            values = {**made._asdict(), "private": private}
            take, _ = Take.objects.get_or_create(digest=digest, defaults=values)
    except OperationalError as error:
        if isinstance(error.__cause__, psycopg.errors.DiskFull):
            message = "There is no room left to keep sounds. Nothing was changed; make room first."
            raise Refused("sound-store-full", message, status=507) from None
        raise
    return take


def heard_by_all(user: Any, takes: Any) -> Any:
    """The takes that whoever may hear calls may hear: what a caller left goes with its message."""
    del user
    return takes.filter(private=False)


def make_sound(user: Any, name: str, texts: list[dict[str, Any]], description: str = "") -> Sound:
    """A new library sound, spoken from its texts (`language`, `text`, `speed`)."""
    return config_store.create(user, Sound, name=name, takes=_takes({}, texts), description=description)


def change_sound(
    user: Any, sound: Sound, revision: int, texts: list[dict[str, Any]] | None = None, **values: Any
) -> Sound:
    """Change a sound; what is spoken is spoken again when its words change.

    Languages that `texts` leaves out are taken away from the sound.
    """
    if texts is not None:
        values["takes"] = _takes(sound.takes, texts)
    with transaction.atomic():
        if values.get("hold_music"):
            for other in Sound.objects.filter(hold_music=True).exclude(pk=sound.pk):
                config_store.change(user, other, None, hold_music=False)
        return config_store.change(user, sound, revision, **values)


def one_hold_music(kind: RecordedKind, thing: Any, before: Any, after: dict[str, Any]) -> None:
    """Refuse a second hold music of the centre, also by an undo."""
    if kind.name != "sound" or not after.get("hold_music") or before.get("hold_music"):
        return
    other = Sound.objects.filter(hold_music=True).exclude(pk=thing.pk).first()
    if other is not None:
        raise Refused("clash", f"{other.name} is the centre's hold music now.")


def hold_music() -> str:
    """The centre's own hold music, as a reference; empty where it has none."""
    found = Sound.objects.filter(hold_music=True).values_list("pk", flat=True).first()
    return f"sound:{found}" if found else ""


def _takes(before: dict[str, Any], texts: list[dict[str, Any]]) -> dict[str, Any]:
    takes: dict[str, Any] = {}
    for row in texts:
        language, text = row["language"], row.get("text", "").strip()
        known = before.get(language)
        if known and known["source"] != "spoken":
            takes[language] = {**known, "text": text}
            continue
        speed = row.get("speed") or WORDS_PER_MINUTE
        same = known and (known["text"], known["speed"]) == (text, speed)
        takes[language] = known if same else _spoken(language, text, speed)
    return takes


def _spoken(language: str, text: str, speed: int) -> dict[str, Any]:
    take = speak(language, text, speed).pk if text else None
    return {"text": text, "source": "spoken", "speed": speed, "take": take}


def upload(
    user: Any, sound: Sound, revision: int, data: bytes, language: str, *, recorded: bool = False
) -> Sound:
    """Take a file, or what a microphone gave, as the sound's recording in a language.

    Raises:
        Refused: `not-a-sound`, or `sound-store-full`.
    """
    take = _stored(data, trim=recorded)
    known = sound.takes.get(language, {"text": "", "speed": WORDS_PER_MINUTE})
    source = "recorded" if recorded else "file"
    takes = {**sound.takes, language: {**known, "source": source, "take": take.pk}}
    return config_store.change(user, sound, revision, takes=takes)


def speak_again(user: Any, sound: Sound, revision: int, language: str) -> Sound:
    """Let the engine speak the text in place of a recording."""
    known = sound.takes.get(language)
    if known is None or not known["text"]:
        raise Refused("nothing-to-say", "There is no text to speak.", status=400)
    spoken = _spoken(language, known["text"], known["speed"])
    return config_store.change(user, sound, revision, takes={**sound.takes, language: spoken})


def import_file(user: Any, file_name: str, data: bytes, language: str) -> Sound:
    """A new sound from a file, named after it; a number is added where the name is taken.

    Raises:
        Refused: `not-a-sound`, or `sound-store-full`.
    """
    take = _stored(data)
    with transaction.atomic():
        name = _free_name(file_name)
        entry = {"text": "", "source": "file", "speed": WORDS_PER_MINUTE, "take": take.pk}
        return config_store.create(user, Sound, name=name, takes={language: entry})


def _stored(data: bytes, *, trim: bool = False) -> Take:
    try:
        made = canonical(data, trim=trim)
    except NotASound as error:
        fields = {"file": [str(error)]}
        raise Refused("not-a-sound", str(error), status=400, fields=fields) from None
    return store(hashlib.sha256(b"file|" + made.wav).hexdigest(), made)


def _free_name(file_name: str) -> str:
    stem = PurePath(file_name.replace("\\", "/")).stem.replace("_", " ").replace("-", " ")
    stem = " ".join(stem.split())[:70] or "Sound"
    name, number = stem[:1].upper() + stem[1:], 1
    base = name
    while Sound.objects.filter(name=name).exists():
        number += 1
        name = f"{base} {number}"
    return name


# In the database, which need not send ten thousand sounds for one figure.
_MEDIAN = """
    SELECT percentile_cont(0.5) WITHIN GROUP (ORDER BY loudness) FROM sounds_take WHERE id IN
    (SELECT (spoken.value ->> 'take')::bigint FROM sounds_sound, jsonb_each(takes) AS spoken)
"""


def median_loudness() -> float | None:
    """The median of the library's loudness in LUFS; None while nothing is measured."""
    with connection.cursor() as cursor:
        cursor.execute(_MEDIAN)
        (median,) = cursor.fetchone()
    return None if median is None else round(median, 1)


def even_out(user: Any, sound: Sound, revision: int, language: str) -> Sound:
    """Bring a recording to the library's median, as far as it goes without clipping."""
    known = sound.takes.get(language, {})
    take = Take.objects.filter(pk=known.get("take")).first()
    median = median_loudness()
    if take is None or take.loudness is None or median is None:
        raise Refused("not-measured", "This recording is too short or too quiet to be measured.")
    made = louder(bytes(take.wav), median - take.loudness)
    even = store(hashlib.sha256(b"even|" + made.wav).hexdigest(), made)
    takes = {**sound.takes, language: {**known, "take": even.pk}}
    return config_store.change(user, sound, revision, takes=takes)


def _take_numbers(takes: Iterable[dict[str, Any]]) -> set[int]:
    return {row["take"] for sound in takes for row in sound.values() if row["take"]}


def measures(sounds: Iterable[Sound]) -> dict[int, tuple[int, float | None, list[int]]]:
    """Length (ms), loudness (LUFS) and bars of the recordings of sounds, by take."""
    rows = Take.objects.filter(pk__in=_take_numbers(s.takes for s in sounds))
    return {
        pk: (length_ms, loudness, peaks)
        for pk, length_ms, loudness, peaks in rows.values_list("pk", "length_ms", "loudness", "peaks")
    }


def facts() -> dict[str, SoundFacts]:
    """Every library sound as a flow sees it, by reference."""
    rows = list(Sound.objects.values_list("pk", "name", "takes"))
    lengths = dict(
        Take.objects.filter(pk__in=_take_numbers(takes for _, _, takes in rows)).values_list(
            "pk", "length_ms"
        )
    )
    return {
        f"sound:{pk}": SoundFacts(
            name,
            {
                language: Spoken(row["text"], lengths.get(row["take"], 0), row["take"])
                for language, row in takes.items()
                if row["take"]
            },
        )
        for pk, name, takes in rows
    }


def spoken_ms(texts: Iterable[Text]) -> dict[Text, int]:
    """The real lengths of those (language, text) that have been spoken."""
    by_digest = {digest_of(*pair): pair for pair in texts}
    found = Take.objects.filter(digest__in=by_digest).values_list("digest", "length_ms")
    return {by_digest[digest]: ms for digest, ms in found}


def takes(prompts: Iterable[AnyPrompt], language: str) -> dict[AnyPrompt, int]:
    """The take (its number) of each prompt that has one; sounds in a language, else another."""
    wanted = set(prompts)
    texts = {digest_of(p.language, p.text): p for p in wanted if isinstance(p, SpokenText)}
    found: dict[AnyPrompt, int] = {
        texts[digest]: pk for digest, pk in Take.objects.filter(digest__in=texts).values_list("digest", "pk")
    }
    library = {
        p.sound.partition(":")[2]: p
        for p in wanted
        if isinstance(p, LibrarySound) and p.sound and p.sound.startswith("sound:")
    }
    for pk, by_language in Sound.objects.filter(pk__in=library).values_list("pk", "takes"):
        recorded = {name: row["take"] for name, row in by_language.items() if row["take"]}
        if recorded:
            number = recorded.get(language) or next(iter(recorded.values()))
            found[library[str(pk)]] = number
    return found


def lengths(prompts: Iterable[AnyPrompt], language: str = "en") -> dict[AnyPrompt, int]:
    """The length (ms) of each prompt that has a recording."""
    found = takes(prompts, language)
    rows = dict(Take.objects.filter(pk__in=found.values()).values_list("pk", "length_ms"))
    return {prompt: rows[take] for prompt, take in found.items()}


def take_of(number: int) -> Take | None:
    """A recording."""
    return Take.objects.filter(pk=number).first()


def samples_of(number: int) -> np.ndarray | None:
    """A take that everybody may hear, as samples between -1 and 1 at 16 kHz; None where it is gone,
    or a caller's own."""
    take = Take.objects.filter(pk=number, private=False).first()
    if take is None:
        return None
    return soundfile.read(io.BytesIO(bytes(take.wav)), dtype="float32")[0]


def search(text: str) -> list[Use]:
    """Sounds whose name holds a text."""
    found = Sound.objects.filter(name__icontains=text)[:5]
    return [Use("sound", str(s.pk), s.name, "sound") for s in found]
