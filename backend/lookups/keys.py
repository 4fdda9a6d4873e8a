"""How the keys of lookup tables are compared."""

from __future__ import annotations

import re
from typing import Any

from callcore.lookups.table import folded
from phone_numbers.plan import NotANumber, read

#: What may be a telephone number: it begins as one is dialled or written, +, 00 or 0. Figures that
#: begin otherwise are left alone: they may number anything.
_PERHAPS = re.compile(r"\(?(?:\+|0)[0-9 ()./-]{5,30}")


def key_of(cell: Any) -> str:
    """A key as it is compared: without case and with single spaces; a telephone number, in
    whatever spelling, as E.164."""
    key = folded(cell)
    if not _PERHAPS.fullmatch(key):
        return key
    try:
        return read(key)
    except NotANumber:
        return key
