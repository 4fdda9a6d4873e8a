"""What keeping things can refuse.

Refused         a rule says no; carries the HTTP status that fits
├── Stale       somebody else changed it first
└── InUse       something depends on it
"""

from __future__ import annotations

from typing import Any, NamedTuple


class Use(NamedTuple):
    """One place that uses a thing: what it is, and how it uses it."""

    kind: str
    id: str
    name: str
    how: str


class Refused(Exception):
    """A refusal in words for the person who tried."""

    def __init__(
        self, code: str, message: str, *, status: int = 409, fields: dict[str, list[str]] | None = None
    ) -> None:
        super().__init__(message)
        self.code = code
        self.status = status
        self.fields = fields or {}


class Stale(Refused):
    """The revision that was sent is not the one in force; `current` is what stands now."""

    def __init__(self, message: str, *, current: Any = None, by: str = "", at: str = "") -> None:
        super().__init__("stale", message)
        self.current = current
        self.by = by
        self.at = at


class InUse(Refused):
    """It cannot be deleted while these use it."""

    def __init__(self, name: str, uses: list[Use]) -> None:
        places = ", ".join(f"{use.name} ({use.how})" for use in uses[:5])
        super().__init__("in-use", f"{name} is used by {places}.")
        self.uses = uses
