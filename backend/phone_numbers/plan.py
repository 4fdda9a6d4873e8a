"""Reading and writing telephone numbers as people of the centre's region type and read them."""

from __future__ import annotations

from django.conf import settings

from callcore.numbers import writing
from callcore.numbers.writing import NotANumber, fictional
from phone_numbers.numbering import EXTENSION

__all__ = ["NotANumber", "fictional", "national", "read", "read_any"]


def read_any(typed: str) -> str:
    """E.164 of a number, or the digits of an internal extension.

    Raises:
        NotANumber: in words for the person who typed it.
    """
    bare = typed.replace(" ", "")
    return bare if EXTENSION.match(bare) else read(typed)


def read(typed: str) -> str:
    """E.164 of a number typed in any usual way. See `callcore.numbers.writing.read`."""
    return writing.read(typed, settings.CENTRE_REGION)


def national(e164: str) -> str:
    """The number as people at home write it; an extension as it is."""
    return writing.national(e164, settings.CENTRE_REGION)
