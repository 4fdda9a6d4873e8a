"""One ./run at a time for each use of the folder: what runs is told in words, never stopped."""

from __future__ import annotations

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from launch.say import VAR, Failed


class Busy(Failed):
    """Another ./run has the lock."""


def _path(use: str) -> Path:
    folder = VAR / use
    folder.mkdir(parents=True, exist_ok=True)
    # Beside the folder, which a fresh start wipes.
    return VAR / f"{use}.lock"


@contextmanager
def held(use: str, refusal: str) -> Iterator[None]:
    """Have a use of the folder to oneself.

    Raises:
        Busy: somebody else has it; the refusal says what to do.
    """
    with _path(use).open("a+") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise Busy(refusal.format(who=holder(use) or "another process")) from None
        lock.truncate(0)
        lock.write(str(os.getpid()))
        lock.flush()
        yield
        lock.truncate(0)


def holder(use: str) -> str:
    """Who has a use, as words; empty where nobody has."""
    number = holding_process(use)
    return f"process {number}" if number else ""


def holding_process(use: str) -> int:
    """The number of the process that has a use; 0 where nobody has."""
    with _path(use).open("a+") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            lock.seek(0)
            written = lock.read().strip()
            return int(written) if written.isdecimal() else -1
        fcntl.flock(lock, fcntl.LOCK_UN)
    return 0
