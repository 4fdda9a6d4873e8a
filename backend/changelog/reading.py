"""Reading what is kept: a row that cannot be read costs itself, and no other."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterable
from typing import Any, NamedTuple, TypeVar

from django.db import InterfaceError, OperationalError

from changelog.kinds import kind_of

log = logging.getLogger(__name__)
T = TypeVar("T")


class Unreadable(NamedTuple):
    """A thing that is left out: its kind (as in the change log), id, name, and why, in words."""

    kind: str
    id: str
    name: str
    message: str


def readable(rows: Iterable[Any], read: Callable[[Any], T], left_out: list[Unreadable] | None) -> list[T]:
    """What `read` makes of each row; of the others is told in `left_out`, and in the log.

    Whatever was saved by an older version, or by hand, may lack what is needed by now.
    """
    found = []
    for row in rows:
        try:
            found.append(read(row))
        except (OperationalError, InterfaceError):
            raise
        except Exception as error:  # noqa: BLE001  whatever is wrong with a row stays with it
            kind = kind_of(type(row))
            log.warning("%s %s cannot be read: %r", kind.name, row.pk, error)
            if left_out is not None:
                message = "cannot be read, and takes no part until it is saved again."
                left_out.append(Unreadable(kind.name, str(row.pk), row.title, message))
    return found
