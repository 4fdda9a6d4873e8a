"""What falls due at a moment, soonest first."""

from __future__ import annotations

import heapq
from collections.abc import Iterable


class Timers:
    """Timers of a kind about somebody; one that is set again for the same moment is one.

    Of equal moments the order is that of kinds and identities, so that it is the same whoever set
    them, and when. An identity is its owner's (a contact, an agent), and may go on after a space.
    """

    def __init__(self) -> None:
        self._heap: list[tuple[int, str, str]] = []
        self._set: dict[str, set[tuple[int, str, str]]] = {}
        #: Those of `_heap` that were dropped.
        self._gone: set[tuple[int, str, str]] = set()
        #: Whose timers have changed; whoever writes them down empties it.
        self.touched: set[str] = set()

    def set(self, due_ms: int | None, kind: str, identity: str) -> None:
        """Let something fall due (ms since the epoch); None is never."""
        if due_ms is None:
            return
        owner = owner_of(identity)
        own = self._set.setdefault(owner, set())
        timer = (due_ms, kind, identity)
        if timer in own:
            return
        own.add(timer)
        self.touched.add(owner)
        if timer in self._gone:
            self._gone.discard(timer)
        else:
            heapq.heappush(self._heap, timer)

    def pop(self, now_ms: int) -> tuple[str, str] | None:
        """The kind and identity of what is due by now."""
        self._skip()
        if not self._heap or self._heap[0][0] > now_ms:
            return None
        timer = heapq.heappop(self._heap)
        owner = owner_of(timer[2])
        self.touched.add(owner)
        own = self._set[owner]
        own.discard(timer)
        if not own:
            del self._set[owner]
        return timer[1], timer[2]

    def next_ms(self, otherwise: int) -> int:
        """When the next falls due; `otherwise` where none is set."""
        self._skip()
        return self._heap[0][0] if self._heap else otherwise

    def of(self, owner: str) -> list[tuple[int, str, str]]:
        """What is set about somebody, in its order."""
        return sorted(self._set.get(owner, ()))

    def take_up(self, timers: Iterable[tuple[int, str, str]]) -> None:
        """Set timers as `of` gave them."""
        for due_ms, kind, identity in timers:
            self.set(due_ms, kind, identity)

    def drop(self, owner: str) -> None:
        """Nothing is due about somebody any more."""
        self.touched.add(owner)
        self._gone |= self._set.pop(owner, set())

    def _skip(self) -> None:
        """Past those that were dropped."""
        while self._gone and self._heap[0] in self._gone:
            self._gone.discard(heapq.heappop(self._heap))


def owner_of(identity: str) -> str:
    """Whom a timer is about."""
    return identity.partition(" ")[0]
