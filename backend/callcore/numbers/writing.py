"""Telephone numbers as people type and read them, and as they are kept (E.164)."""

from __future__ import annotations

import re

import phonenumbers
from phonenumbers import PhoneNumberFormat

#: Ranges of a thousand that the regulator keeps for fiction (UK): never connected to anybody.
FICTIONAL = re.compile(r"\+44(2079460|8081570|1632960|7700900)\d{3}")


class NotANumber(Exception):
    """What was typed is no telephone number; the text says why."""


def read(typed: str, region: str) -> str:
    """E.164 of a number typed in any usual way.

    Args:
        region: where numbers without a country code are (ISO 3166, such as `GB`).

    Raises:
        NotANumber: in words for the person who typed it.
    """
    try:
        number = phonenumbers.parse(typed, region)
    except phonenumbers.NumberParseException:
        raise NotANumber(f"“{typed}” is not a telephone number.") from None
    if number.extension:
        raise NotANumber("Leave out the extension.")
    if not phonenumbers.is_possible_number(number):
        raise NotANumber(f"“{typed}” has too few or too many digits for a telephone number.")
    e164 = phonenumbers.format_number(number, PhoneNumberFormat.E164)
    if not phonenumbers.is_valid_number(number) and not fictional(e164):
        raise NotANumber(f"“{typed}” is in no range that is in use.")
    return e164


def fictional(e164: str) -> bool:
    """Whether a number belongs to a range kept for fiction."""
    return FICTIONAL.fullmatch(e164) is not None


def national(e164: str, region: str) -> str:
    """The number as people of a region write it; what is none, such as an extension, as it is."""
    try:
        number = phonenumbers.parse(e164)
    except phonenumbers.NumberParseException:
        return e164
    style = PhoneNumberFormat.NATIONAL
    if phonenumbers.region_code_for_country_code(number.country_code or 0) != region:
        style = PhoneNumberFormat.INTERNATIONAL
    return phonenumbers.format_number(number, style)
