"""What falls due at a moment, soonest first."""

from __future__ import annotations

import heapq


class Timers:
    """Timers of a kind about somebody; one that is set again for the same moment is one."""

    def __init__(self) -> None:
        self._heap: list[tuple[int, int, str, str]] = []
        self._set: set[tuple[int, str, str]] = set()
        self._count = 0

    def set(self, due_ms: int | None, kind: str, identity: str) -> None:
        """Let something fall due (ms since the epoch); None is never."""
        if due_ms is None or (due_ms, kind, identity) in self._set:
            return
        self._count += 1
        self._set.add((due_ms, kind, identity))
        heapq.heappush(self._heap, (due_ms, self._count, kind, identity))

    def pop(self, now_ms: int) -> tuple[str, str] | None:
        """The kind and identity of what is due by now, of equal moments the one set first."""
        if self.next_ms(now_ms + 1) > now_ms:
            return None
        due_ms, _, kind, identity = heapq.heappop(self._heap)
        self._set.discard((due_ms, kind, identity))
        return kind, identity

    def next_ms(self, otherwise: int) -> int:
        """When the next falls due; `otherwise` where none is set."""
        return self._heap[0][0] if self._heap else otherwise
