"""The things that cells of lookup tables name: found by what is typed, shown by their names."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cache
from typing import Any

from callcore.lookups.table import THINGS, Column, folded
from changelog.kinds import kind_named


def _named(kind: str) -> list[tuple[str, str, str]]:
    """Reference, name and extension of everything of a kind."""
    model = kind_named(kind).model
    has = [f.name for f in model._meta.concrete_fields]
    rows = model._default_manager.values("pk", *(n for n in ("name", "extension") if n in has))
    return [(f"{kind}:{r['pk']}", r["name"], r.get("extension") or "") for r in rows]


class Things:
    """Finds things by name, extension or reference; each kind is read once, when asked for."""

    def __init__(self) -> None:
        self._known = cache(self._read)

    def find(self, kind: str, typed: str) -> str | None:
        """The reference of the one thing that is called so; two of a name are none."""
        found = self._known(kind).get(folded(typed), set())
        return next(iter(found)) if len(found) == 1 else None

    def _read(self, kind: str) -> dict[str, set[str]]:
        known: dict[str, set[str]] = {}
        for reference, name, extension in _named(kind):
            for spelled in filter(None, (reference, folded(name), extension)):
                known.setdefault(spelled, set()).add(reference)
        return known


class Names:
    """The names of things in cells; each kind is read once, when asked for."""

    def __init__(self, columns: Iterable[Column]) -> None:
        self._kinds = [column.type if column.type in THINGS else "" for column in columns]
        self._known = cache(lambda kind: {ref: name for ref, name, _ in _named(kind)})

    def shown(self, cells: Iterable[Any]) -> list[Any]:
        """A row with names in place of references; what is gone is empty."""
        return [
            self._known(kind).get(value, "") if kind and value is not None else value
            for kind, value in zip(self._kinds, cells, strict=True)
        ]
