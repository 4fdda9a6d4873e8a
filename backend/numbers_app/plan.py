"""Reading and writing telephone numbers as people type and read them."""

from __future__ import annotations

import re

import phonenumbers
from django.conf import settings
from phonenumbers import PhoneNumberFormat

from numbers_app.numbering import EXTENSION

#: Ranges of a thousand that the regulator keeps for fiction (UK): never connected to anybody.
FICTIONAL = re.compile(r"\+44(2079460|8081570|1632960|7700900)\d{3}")


class NotANumber(Exception):
    """What was typed is no telephone number; the text says why."""


def read_any(typed: str) -> str:
    """E.164 of a number, or the figures of an internal extension.

    Raises:
        NotANumber: in words for the person who typed it.
    """
    bare = typed.replace(" ", "")
    return bare if EXTENSION.match(bare) else read(typed)


def read(typed: str) -> str:
    """E.164 of a number typed in any usual way.

    Raises:
        NotANumber: in words for the person who typed it.
    """
    try:
        number = phonenumbers.parse(typed, settings.CENTRE_REGION)
    except phonenumbers.NumberParseException:
        raise NotANumber(f"“{typed}” is not a telephone number.") from None
    if number.extension:
        raise NotANumber("Leave out the extension.")
    if not phonenumbers.is_possible_number(number):
        raise NotANumber(f"“{typed}” has too few or too many figures for a telephone number.")
    e164 = phonenumbers.format_number(number, PhoneNumberFormat.E164)
    if not phonenumbers.is_valid_number(number) and not fictional(e164):
        raise NotANumber(f"“{typed}” is in no range that is in use.")
    return e164


def fictional(e164: str) -> bool:
    """Whether a number belongs to a range kept for fiction."""
    return FICTIONAL.fullmatch(e164) is not None


def national(e164: str) -> str:
    """The number as people at home write it; an extension as it is."""
    try:
        number = phonenumbers.parse(e164)
    except phonenumbers.NumberParseException:
        return e164
    style = PhoneNumberFormat.NATIONAL
    if phonenumbers.region_code_for_country_code(number.country_code) != settings.CENTRE_REGION:
        style = PhoneNumberFormat.INTERNATIONAL
    return phonenumbers.format_number(number, style)
