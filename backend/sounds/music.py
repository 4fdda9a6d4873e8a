"""The music that callers hear while they wait: a slow made-up tune over an even swell."""

from __future__ import annotations

from functools import cache

import numpy as np

from sounds.canonical import RATE_HZ, as_wav

_NOTE_S = 0.6
#: Semitones from A4; None rests. Two bars that end where they began, so that it loops.
_TUNE = [0, 4, 7, None, 9, 7, 4, None, 2, 5, 9, None, 7, 4, 2, None, 0, 4, 7, 12, 11, 7, 4, None]
_BASS = [-24, -24, -19, -19, -17, -17, -24, -24]


@cache
def hold_music() -> bytes:
    """About 14 seconds of music as a WAV, always the same."""
    total = round(len(_TUNE) * _NOTE_S * RATE_HZ)
    mix = np.zeros(total)
    for position, semitone in enumerate(_TUNE):
        if semitone is not None:
            _add_note(mix, position * _NOTE_S, 2.2 * _NOTE_S, semitone, 0.16)
    long_s = _NOTE_S * len(_TUNE) / len(_BASS)
    for position, semitone in enumerate(_BASS):
        _add_note(mix, position * long_s, long_s * 1.1, semitone, 0.10)
    return as_wav(mix).wav


def _add_note(mix: np.ndarray, start_s: float, length_s: float, semitone: int, level: float) -> None:
    time = np.arange(round(length_s * RATE_HZ)) / RATE_HZ
    pitch = 440.0 * 2 ** (semitone / 12)
    shape = np.minimum(time / 0.04, 1) * np.exp(-2.2 * time / length_s)
    wave = np.sin(2 * np.pi * pitch * time) + 0.3 * np.sin(4 * np.pi * pitch * time)
    places = (round(start_s * RATE_HZ) + np.arange(len(time))) % len(mix)
    mix[places] += level * shape * wave
