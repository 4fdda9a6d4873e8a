"""Waiting for what starts: as long as it gets on, and saying for what."""

from __future__ import annotations

import subprocess
import time
from collections.abc import Callable
from pathlib import Path

from launch.say import ROOT, Failed, say

#: A start is given up when nothing at all happens in it for so long; it is told of every so often.
STUCK_S, SAY_S = 60.0, 10.0


def wait_until(
    what: str,
    ready: Callable[[], bool],
    process: subprocess.Popen[bytes],
    log: Path,
    *,
    stuck_s: float = STUCK_S,
) -> None:
    """Until something that was started is ready.

    A slow start is not a failure: a process that works, or writes into its log, is waited for.

    Raises:
        Failed: it has ended, or does nothing any more; with the end of its log.
    """
    began = moved = said = time.monotonic()
    before: object = None
    while not ready():
        now = time.monotonic()
        if process.poll() is not None:
            raise Failed(f"{what[0].upper()}{what[1:]} ended (code {process.returncode}). {_end_of(log)}")
        done = _progress(process.pid, log)
        if done != before:
            before, moved = done, now
        if now - moved > stuck_s:
            raise Failed(f"{what[0].upper()}{what[1:]} does nothing for {stuck_s:.0f} s. {_end_of(log)}")
        if now - said > SAY_S:
            said = now
            say(f"waiting for {what}, {now - began:.0f} s so far")
        time.sleep(0.1)


def _progress(pid: int, log: Path) -> object:
    """What changes while a process gets on: its time on the processor, and its log."""
    try:
        fields = Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()
        worked = (fields[11], fields[12])
    except (OSError, IndexError):
        worked = ("", "")
    return worked, log.stat().st_size if log.exists() else 0


def _end_of(log: Path) -> str:
    text = log.read_text(errors="replace").strip() if log.exists() else ""
    where = log.relative_to(ROOT) if log.is_relative_to(ROOT) else log
    tail = "\n".join(text.splitlines()[-8:])
    return f"The end of {where}:\n{tail}" if tail else f"It has written nothing into {where}."
