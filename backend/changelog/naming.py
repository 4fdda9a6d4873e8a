"""What the ids in recorded changes are called: names are read, ids are not."""

from __future__ import annotations

import re
from collections.abc import Iterable

from changelog import kinds
from changelog.models import Change

_ID = re.compile(r"[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}")
#: Of more ids than this, the rest go without a name.
MOST = 2_000


def ids_in(change: Change) -> set[str]:
    """The ids of all that a change speaks of; numbers with the field that they stand in before."""
    found: set[str] = set()
    for values in (change.before or {}, change.after or {}):
        for name, value in values.items():
            if name in kinds.numbered:
                listed = value if isinstance(value, list) else [value]
                found |= {f"{name}:{one}" for one in listed if one is not None}
            elif name not in ("id", "draft", "refers_to"):
                found |= set(_ID.findall(str(value)))
    return found


def names_in(changes: Iterable[Change]) -> dict[str, str]:
    """The names of all that some changes speak of, by id; of what is gone the last it had."""
    ids = sorted({one for change in changes for one in ids_in(change)})[:MOST]
    rows = Change.objects.filter(object_id__in=ids).order_by("id")
    found = dict(rows.values_list("object_id", "title"))
    for field, named in kinds.numbered.items():
        numbers = [int(one.partition(":")[2]) for one in ids if one.startswith(f"{field}:")]
        found |= {f"{field}:{pk}": name for pk, name in named(numbers).items()} if numbers else {}
    return found
