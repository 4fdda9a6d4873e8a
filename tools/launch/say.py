"""Telling the person in front of the terminal what happens, and running what makes it happen."""

from __future__ import annotations

import subprocess
import time
from collections.abc import Sequence
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
VAR = ROOT / "var"
LOGS = VAR / "log"
_began = time.monotonic()


class Failed(Exception):
    """Something that the person must know about; the text says what and where to look."""


def say(text: str) -> None:
    """One line, with the time since the start."""
    print(f"[{time.monotonic() - _began:5.1f} s] {text}", flush=True)


def quiet(what: str, command: Sequence[str | Path], **options: object) -> None:
    """Run a command with its output in a log; the end of the log is shown where it fails."""
    LOGS.mkdir(parents=True, exist_ok=True)
    log = LOGS / f"{what.replace(' ', '-')}.log"
    with log.open("w") as out:
        done = subprocess.run(
            [str(part) for part in command], stdout=out, stderr=subprocess.STDOUT, **options
        )
    if done.returncode:
        tail = "\n".join(log.read_text(errors="replace").splitlines()[-12:])
        raise Failed(f"{what} failed. The end of {log.relative_to(ROOT)}:\n{tail}")
