"""The one numbering plan: no two things share an extension.

Each app says which extensions its things have; whoever keeps a new one asks here first.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from typing import TYPE_CHECKING, Any, NamedTuple

from web.errors import Refused

if TYPE_CHECKING:
    from changelog.kinds import RecordedKind

EXTENSION = re.compile(r"^[1-9][0-9]{1,5}$")


class Held(NamedTuple):
    """An extension and whose it is: kind (as in the change log), id, name."""

    extension: str
    kind: str
    id: str
    name: str


_holders: list[Callable[[], Iterable[Held]]] = []


class NotFree(Exception):
    """The extension cannot be given; the text says why."""


def register(holders: Callable[[], Iterable[Held]]) -> None:
    """Make a source of extensions known."""
    _holders.append(holders)


def plan() -> list[Held]:
    """Every extension, in order."""
    return sorted(held for holders in _holders for held in holders())


def check(kind: RecordedKind, thing: Any, before: dict[str, Any], after: dict[str, Any]) -> None:
    """Refuse an extension that somebody else has got in the meantime, also by an undo."""
    held = ("agent", "queue", "mailbox", "group")
    field = "extension" if kind.name in held else {"number": "address"}.get(kind.name)
    if field is None:
        return
    extension = after.get(field)
    if not extension or extension.startswith("+") or before.get(field) == extension:
        return
    try:
        free(extension, kind.name, str(thing.pk))
    except NotFree as error:
        words = str(error)
        raise Refused("not-valid", words, status=400, fields={field: [words]}) from None


def free(extension: str, kind: str, identity: str) -> str:
    """The extension, where a thing may have it.

    Raises:
        NotFree: it is none, or another thing's; in words for the person who typed it.
    """
    if not EXTENSION.match(extension):
        raise NotFree("An extension has two to six digits and does not begin with 0.")
    for held in plan():
        if held.extension == extension and (held.kind, held.id) != (kind, identity):
            raise NotFree(f"{extension} is {held.name} already.")
    return extension
