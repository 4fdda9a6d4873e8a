"""What an open page costs a real browser: its processes' time, and its main thread's."""

from __future__ import annotations

import os
import time
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from browser_tests.person import Person

_TICKS = os.sysconf("SC_CLK_TCK")


class Cost(NamedTuple):
    """Shares of one core while a page stood open: of the page's processes, and what its main thread
    was busy."""

    page: float
    busy: float


def _children() -> dict[int, list[int]]:
    found: dict[int, list[int]] = {}
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            parent = int((folder / "stat").read_text().rpartition(")")[2].split()[1])
        except OSError:
            continue  # it has ended meanwhile
        found.setdefault(parent, []).append(int(folder.name))
    return found


def _below(process: int) -> Iterator[int]:
    children = _children()
    waiting = [process]
    while waiting:
        one = waiting.pop()
        yield one
        waiting += children.get(one, ())


def _used_s(process: int) -> dict[int, tuple[bool, float]]:
    """Of each process below one: whether it is a page's, and how long it has computed (s)."""
    used = {}
    for one in _below(process):
        try:
            fields = Path(f"/proc/{one}/stat").read_text().rpartition(")")[2].split()
            page = "--type=renderer" in Path(f"/proc/{one}/cmdline").read_text()
        except OSError:
            continue
        used[one] = page, (int(fields[11]) + int(fields[12])) / _TICKS
    return used


def _busy_s(person: Person) -> float:
    told = person.browser.execute_cdp_cmd("Performance.getMetrics", {})["metrics"]
    return next(one["value"] for one in told if one["name"] == "TaskDuration")


def cost_of(person: Person, seconds: float) -> Cost:
    """What a browser does for that long, with the page that it shows."""
    person.browser.execute_cdp_cmd("Performance.enable", {})
    process = person.browser.service.process.pid
    before, busy, began = _used_s(process), _busy_s(person), time.monotonic()
    time.sleep(seconds)
    after, passed = _used_s(process), time.monotonic() - began
    spent = [(page, used - before.get(one, (page, 0.0))[1]) for one, (page, used) in after.items()]
    return Cost(sum(used for page, used in spent if page) / passed, (_busy_s(person) - busy) / passed)
