"""The speech engine's stand-in: a small offline synthesiser behind one function.

A real engine replaces `speak_aloud`; nothing else knows of it.
"""

from __future__ import annotations

import shutil
import subprocess

VOICES = {"en": "en-gb", "cy": "cy"}
WORDS_PER_MINUTE = 155
_TIMEOUT_S = 30


class EngineFailed(Exception):
    """The engine gave no sound; the text says why."""


def speak_aloud(text: str, language: str, speed: int = WORDS_PER_MINUTE) -> bytes:
    """The words as a WAV of whatever form the engine makes; `speed` in words a minute.

    Raises:
        EngineFailed: it is not installed, took too long, or said no.
    """
    program = shutil.which("espeak-ng")
    if program is None:
        raise EngineFailed("the speech engine espeak-ng is not installed")
    command = [program, "-v", VOICES[language], "-s", str(speed), "--stdin", "--stdout"]
    try:
        done = subprocess.run(  # noqa: S603  a fixed program; the text goes in by its input
            command, input=text.encode(), capture_output=True, timeout=_TIMEOUT_S, check=True
        )
    except subprocess.TimeoutExpired:
        raise EngineFailed(f"the speech engine took longer than {_TIMEOUT_S} s") from None
    except (subprocess.CalledProcessError, OSError) as error:
        raise EngineFailed(f"the speech engine failed: {error}") from None
    return done.stdout
