"""Reading a calendar file that somebody uploaded, in a process of its own.

A few lines of a calendar can ask for more work than there is time: rules that never come true are
searched for to the end of the calendar. So a file is read where time and memory run out without
harm: the process that serves people only waits for it, and ends it.
"""

from __future__ import annotations

import json
import math
import resource
import subprocess
import sys
from datetime import date
from pathlib import Path
from typing import Any

from callcore.hours.plan import load
from opening_hours.calendar_files import LARGEST, NotACalendar, Taken, read

#: On the processor for the file alone: a process that begins on a slow machine has used some already.
CPU_S = 4
#: By the clock: a machine that is busy with others says nothing about the file.
PATIENCE_S = 60.0
_MEMORY = 1024 * 1024 * 1024


def read_bounded(data: bytes, zone: str, today: date) -> Taken:
    """As `calendar_files.read`, within time and memory.

    Raises:
        NotACalendar: in words for the person who chose the file.
    """
    if len(data) > LARGEST:
        raise NotACalendar("The file is larger than 1 MB.")
    command = [sys.executable, "-m", "opening_hours.calendar_reader", zone, today.isoformat()]
    try:
        done = subprocess.run(  # noqa: S603  our own module
            command,
            input=data,
            capture_output=True,
            timeout=PATIENCE_S,
            cwd=Path(__file__).parents[1],
            check=False,
        )
        answer = json.loads(done.stdout)
    except subprocess.TimeoutExpired:
        words = "There was no time to read the calendar: the machine is busy. Try again in a while."
        raise NotACalendar(words) from None
    except ValueError:
        words = "The calendar takes too long to work out: one of its rules repeats too finely, or "
        raise NotACalendar(words + "never comes true.") from None
    if "refused" in answer:
        raise NotACalendar(answer["refused"])
    exceptions = load({"exceptions": answer["exceptions"]}).exceptions
    return Taken(exceptions, tuple(answer["left_out"]))


def main(zone: str, today: str) -> None:
    """Read a calendar from standard input; say what it brings, or why it cannot be taken in."""
    used = resource.getrusage(resource.RUSAGE_SELF)
    most = math.ceil(used.ru_utime + used.ru_stime) + CPU_S
    resource.setrlimit(resource.RLIMIT_CPU, (most, most))
    resource.setrlimit(resource.RLIMIT_AS, (_MEMORY, _MEMORY))
    answer: dict[str, Any]
    try:
        found = read(sys.stdin.buffer.read(LARGEST + 1), zone, date.fromisoformat(today))
        rows = [e.model_dump(mode="json") for e in found.exceptions]
        answer = {"exceptions": rows, "left_out": found.left_out}
    except NotACalendar as error:
        answer = {"refused": str(error)}
    sys.stdout.write(json.dumps(answer))


if __name__ == "__main__":
    main(*sys.argv[1:])
