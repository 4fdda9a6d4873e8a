"""Any sound file in, the one canonical form out; and what is measured of it."""

from __future__ import annotations

import io
import math
from typing import NamedTuple

import numpy as np
import soundfile
import soxr

RATE_HZ = 16_000
LONGEST_S = 300
MOST_CHANNELS, HIGHEST_RATE_HZ = 8, 192_000
#: Formats whose heads may promise more than the files hold.
_UNSURE = ("WAV", "WAVEX", "RF64")
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
            mono = _mono(source)
    except (soundfile.SoundFileError, RuntimeError, ValueError, TypeError, MemoryError):
        raise NotASound("This is not a sound file that can be read (WAV, FLAC, OGG, MP3).") from None
    if not len(mono):
        raise NotASound("The file holds no sound.")
    return as_wav(_trimmed(mono) if trim else mono)


def _mono(source: soundfile.SoundFile) -> np.ndarray:
    """What a file holds, mono and at 16 kHz.

    A few bytes can stand for hours of silence in many channels: what the head says is looked at
    first, and then block by block what comes, so that never more than one block is there in full.
    """
    rate, channels = source.samplerate, source.channels
    if channels > MOST_CHANNELS or not 4_000 <= rate <= HIGHEST_RATE_HZ:
        raise NotASound(
            f"The sound has {channels} channels at {rate} Hz; up to {MOST_CHANNELS} channels at "
            f"4,000 to {HIGHEST_RATE_HZ:,} Hz can be taken."
        )
    too_long = NotASound(f"The sound is longer than {LONGEST_S // 60} minutes.")
    if source.frames > LONGEST_S * rate and source.format not in _UNSURE:
        raise too_long
    resampler = soxr.ResampleStream(rate, RATE_HZ, 1, dtype="float32")
    parts, came = [], 0
    for block in source.blocks(blocksize=rate, dtype="float32", always_2d=True):
        came += len(block)
        if came > LONGEST_S * rate:
            raise too_long
        parts.append(resampler.resample_chunk(np.nan_to_num(block.mean(axis=1))))
    parts.append(resampler.resample_chunk(np.zeros(0, dtype="float32"), last=True))
    return np.concatenate(parts) if came else np.zeros(0, dtype="float32")


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
    # It brings scipy, which takes longer to load than all the rest of the application, and every
    # process would wait for it.
    import pyloudnorm

    meter = pyloudnorm.Meter(RATE_HZ)
    if len(samples) < meter.block_size * RATE_HZ:
        return None
    with np.errstate(divide="ignore"):
        measured = float(meter.integrated_loudness(samples))
    return round(measured, 1) if math.isfinite(measured) else None


def _peaks(samples: np.ndarray) -> list[int]:
    parts = np.array_split(np.abs(samples), min(BARS, max(1, len(samples))))
    return [round(float(part.max(initial=0.0)) * 100) for part in parts]
