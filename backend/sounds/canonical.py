"""Any sound file in, the one canonical form out; and what is measured of it."""

from __future__ import annotations

import io
import math
from typing import NamedTuple

import numpy as np
import pyloudnorm
import soundfile
import soxr

RATE_HZ = 16_000
LONGEST_S = 300
#: How many bars a wave form is drawn with.
BARS = 120
#: Quieter than this (of full scale 1) is silence to be trimmed; some of it is left at both ends.
SILENCE = 0.012
LEFT_S = 0.06
#: Peaks are kept under this when a sound is made louder, so that nothing clips.
CEILING = 0.97


class NotASound(Exception):
    """The bytes are no sound, or one that cannot be kept; the text says why."""


class Canonical(NamedTuple):
    """Mono, 16 bits, 16 kHz, as a WAV file; loudness in LUFS (ITU-R BS.1770), bars 0 to 100."""

    wav: bytes
    length_ms: int
    loudness: float | None
    peaks: list[int]


def canonical(data: bytes, *, trim: bool = False) -> Canonical:
    """Turn a WAV, FLAC, OGG or MP3 file into the canonical form.

    Args:
        trim: leave out the silence at both ends.

    Raises:
        NotASound: it cannot be read, is empty or silent, or is longer than five minutes.
    """
    try:
        with soundfile.SoundFile(io.BytesIO(data)) as source:
            # Asked for in blocks: a header may promise far more than the file holds.
            samples = source.read(
                LONGEST_S * source.samplerate + 1, dtype="float32", always_2d=True
            )
            rate = source.samplerate
    except (soundfile.SoundFileError, RuntimeError, ValueError, TypeError, MemoryError):
        raise NotASound(
            "This is not a sound file that can be read (WAV, FLAC, OGG, MP3)."
        ) from None
    if len(samples) > LONGEST_S * rate:
        raise NotASound(f"The sound is longer than {LONGEST_S // 60} minutes.")
    if not len(samples):
        raise NotASound("The file holds no sound.")
    mono = np.nan_to_num(soxr.resample(samples.mean(axis=1), rate, RATE_HZ))
    return as_wav(_trimmed(mono) if trim else mono)


def as_wav(samples: np.ndarray) -> Canonical:
    """Samples between -1 and 1 at 16 kHz as a canonical WAV."""
    samples = np.clip(samples, -1, 1)
    out = io.BytesIO()
    soundfile.write(out, samples, RATE_HZ, format="WAV", subtype="PCM_16")
    length_ms = round(len(samples) * 1000 / RATE_HZ)
    return Canonical(out.getvalue(), length_ms, _loudness(samples), _peaks(samples))


def louder(wav: bytes, by_db: float) -> Canonical:
    """A canonical WAV made louder (or softer), as far as it goes without clipping."""
    samples, _ = soundfile.read(io.BytesIO(wav), dtype="float32")
    highest = float(np.abs(samples).max(initial=0.0)) or 1.0
    return as_wav(samples * min(10 ** (by_db / 20), CEILING / highest))


def _trimmed(samples: np.ndarray) -> np.ndarray:
    loud = np.flatnonzero(np.abs(samples) > SILENCE)
    if not len(loud):
        raise NotASound("Nothing but silence was recorded. Is the microphone on?")
    left = round(LEFT_S * RATE_HZ)
    return samples[max(0, loud[0] - left) : loud[-1] + left]


def _loudness(samples: np.ndarray) -> float | None:
    meter = pyloudnorm.Meter(RATE_HZ)
    if len(samples) < meter.block_size * RATE_HZ:
        return None
    with np.errstate(divide="ignore"):
        measured = float(meter.integrated_loudness(samples))
    return round(measured, 1) if math.isfinite(measured) else None


def _peaks(samples: np.ndarray) -> list[int]:
    parts = np.array_split(np.abs(samples), min(BARS, max(1, len(samples))))
    return [round(float(part.max(initial=0.0)) * 100) for part in parts]
