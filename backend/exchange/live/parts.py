"""Parts of the setup, each read again only when things that it is read of have changed."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, Generic, TypeVar

from changelog.config_store import Newest
from changelog.reading import Unreadable

T = TypeVar("T")


class Part(Generic[T]):
    """What was read last of some kinds of things, as long as none of them changes.

    Args:
        read: reads it; what cannot be read is added to its list.
        kinds: all kinds of things whose recorded changes may change what is read.
    """

    def __init__(self, read: Callable[[list[Unreadable]], T], *kinds: str) -> None:
        self._read = read
        self.kinds = kinds
        self._since: tuple[Any, ...] | None = None
        self._value: T
        self._left_out: list[Unreadable] = []

    def at(self, newest: Mapping[str, Newest], left_out: list[Unreadable]) -> T:
        """As it is at the newest change of each kind."""
        since = tuple(newest[kind] for kind in self.kinds)
        if since != self._since:
            self._left_out = []
            self._value = self._read(self._left_out)
            self._since = since
        left_out += self._left_out
        return self._value
