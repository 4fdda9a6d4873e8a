"""What people are going to do, soonest first."""

from __future__ import annotations

import heapq
from collections.abc import Callable

#: What somebody does at a moment (ms since the epoch).
Task = Callable[[int], None]


class Diary:
    """Tasks by moment; of equal moments what was written down first is done first."""

    def __init__(self) -> None:
        self._tasks: list[tuple[int, int, Task]] = []
        self._count = 0

    def at(self, due_ms: int, task: Task) -> None:
        """Write a task down."""
        self._count += 1
        heapq.heappush(self._tasks, (due_ms, self._count, task))

    def take(self, now_ms: int) -> Task | None:
        """The next task that is due by now; it is in the diary no more."""
        if not self._tasks or self._tasks[0][0] > now_ms:
            return None
        return heapq.heappop(self._tasks)[2]

    def next_ms(self) -> int | None:
        """When the next task is due."""
        return self._tasks[0][0] if self._tasks else None

    def clear(self) -> None:
        """Nobody is going to do anything."""
        self._tasks.clear()
