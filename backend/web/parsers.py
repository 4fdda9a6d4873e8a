"""Reading request bodies."""

from typing import Any

from rest_framework.exceptions import ParseError
from rest_framework.parsers import JSONParser


class CleanJSONParser(JSONParser):
    """JSON whose texts can be stored: no NUL and no half of a surrogate pair."""

    def parse(self, stream: Any, media_type: str | None = None, parser_context: Any = None) -> Any:
        try:
            data = super().parse(stream, media_type, parser_context)
            _check(data)
        except RecursionError:
            raise ParseError("This is nested too deeply to be read.") from None
        return data


def _check(value: Any) -> None:
    if isinstance(value, str):
        if "\x00" in value or (not value.isprintable() and _has_surrogate(value)):
            raise ParseError("A text contains a character that cannot be stored.")
    elif isinstance(value, dict):
        for key, item in value.items():
            _check(key)
            _check(item)
    elif isinstance(value, list):
        for item in value:
            _check(item)


def _has_surrogate(value: str) -> bool:
    return any("\ud800" <= character <= "\udfff" for character in value)
