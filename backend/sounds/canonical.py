"""Any sound file in, the one canonical form out."""

from __future__ import annotations

import io
from typing import NamedTuple

import numpy as np
import soundfile
import soxr

RATE_HZ = 16_000
LONGEST_S = 300


class NotASound(Exception):
    """The bytes are no sound, or one that cannot be kept; the text says why."""


class Canonical(NamedTuple):
    """Mono, 16 bits, 16 kHz, as a WAV file."""

    wav: bytes
    length_ms: int


def canonical(data: bytes) -> Canonical:
    """Turn a WAV, FLAC, OGG or MP3 file into the canonical form.

    Raises:
        NotASound: it cannot be read, is empty, or is longer than five minutes.
    """
    try:
        with soundfile.SoundFile(io.BytesIO(data)) as source:
            # Asked for in blocks: a header may promise far more than the file holds.
            samples = source.read(
                LONGEST_S * source.samplerate + 1, dtype="float32", always_2d=True
            )
            rate = source.samplerate
    except (soundfile.SoundFileError, RuntimeError, ValueError, TypeError):
        raise NotASound(
            "This is not a sound file that can be read (WAV, FLAC, OGG, MP3)."
        ) from None
    if len(samples) > LONGEST_S * rate:
        raise NotASound(f"The sound is longer than {LONGEST_S // 60} minutes.")
    if not len(samples):
        raise NotASound("The file holds no sound.")
    mono = soxr.resample(samples.mean(axis=1), rate, RATE_HZ)
    return as_wav(mono)


def as_wav(samples: np.ndarray) -> Canonical:
    """Samples between -1 and 1 at 16 kHz as a canonical WAV."""
    out = io.BytesIO()
    soundfile.write(out, np.clip(samples, -1, 1), RATE_HZ, format="WAV", subtype="PCM_16")
    return Canonical(out.getvalue(), round(len(samples) * 1000 / RATE_HZ))
