"""A contact as its caller heard it: one WAV, and what of the contact each stretch of it is."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
import soundfile

from callcore.events import Happening
from callcore.events.facts import Heard
from callcore.measures.hearing import Part, heard_in
from sounds.canonical import RATE_HZ
from sounds.music import hold_music
from sounds.services import samples_of, speak
from web.errors import Refused

#: How loud the music is beside the words.
_MUSIC = 0.6
#: So many prompts without a recording are spoken once more.
_MOST_SPOKEN = 40


def parts_of(events: list[Happening], now_ms: int) -> list[dict[str, Any]]:
    """Each stretch: where it begins in the WAV, and at which moment of the contact (ms)."""
    from_ms, told = 0, []
    for part in heard_in(events, now_ms):
        told.append({"from_ms": from_ms, "at_ms": part.at_ms, "hears": part.what})
        from_ms += part.length_ms
    return told


def wav_of(events: list[Happening], now_ms: int) -> bytes | None:
    """All of it as a canonical WAV; None where nothing was heard."""
    parts = heard_in(events, now_ms)
    if not parts:
        return None
    music, _ = soundfile.read(io.BytesIO(hold_music()), dtype="float32")
    voice, out = _Voice(), io.BytesIO()
    with soundfile.SoundFile(out, "w", RATE_HZ, 1, "PCM_16", format="WAV") as wav:
        for part in parts:
            wav.write(_samples(part, music, voice))
    return out.getvalue()


class _Voice:
    """Prompts as they were recorded, or spoken once more where they are none; so many at most."""

    def __init__(self) -> None:
        self._left = _MOST_SPOKEN

    def says(self, heard: Heard) -> np.ndarray | None:
        """Its samples; None where it cannot be had any more."""
        known = samples_of(heard.take) if heard.take else None
        if known is not None or not heard.text or not self._left:
            return known
        self._left -= 1
        try:
            return samples_of(speak(heard.language or "en", heard.text).pk)
        except Refused:
            return None


def _samples(part: Part, music: np.ndarray, voice: _Voice) -> np.ndarray:
    wanted = round(part.length_ms * RATE_HZ / 1000)
    found = np.zeros(wanted, dtype="float32")
    if part.what == "music":
        found = np.resize(music, wanted) * _MUSIC
    elif part.heard is not None:
        known = voice.says(part.heard)
        if known is not None:
            found[: min(len(known), wanted)] = known[:wanted]
    return found
