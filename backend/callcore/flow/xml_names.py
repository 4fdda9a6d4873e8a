"""What XML 1.0 lets a file say: names that are names, each once, and no control characters."""

from __future__ import annotations

import re
from collections.abc import Iterable
from xml.etree import ElementTree as Xml

_START = (
    "A-Z_a-z\u00c0-\u00d6\u00d8-\u00f6\u00f8-\u02ff\u0370-\u037d\u037f-\u1fff\u200c-\u200d"
    "\u2070-\u218f\u2c00-\u2fef\u3001-\ud7ff\uf900-\ufdcf\ufdf0-\ufffd"
)
#: Names without a colon (Namespaces in XML 1.0, production 4), and what else cannot be in one.
NAME = re.compile(f"^[{_START}][{_START}\\-.0-9\u00b7]*$")
_NOT_IN_NAMES = re.compile(f"[^{_START}\\-.0-9\u00b7]+")
#: What no XML 1.0 document holds (production 2).
_NO_CHARACTERS = re.compile("[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")


def clean(text: str) -> str:
    """A text without what XML cannot hold."""
    return _NO_CHARACTERS.sub("", text)


def token(text: str, otherwise: str) -> str:
    """A text as a name."""
    found = _NOT_IN_NAMES.sub("-", text).strip("-")
    return found if NAME.match(found) else otherwise


class Names:
    """The ids of one document: of every stop, and of whatever stands beside them."""

    def __init__(self, stops: Iterable[str]) -> None:
        self._taken: set[str] = set()
        self._of: dict[str, str] = {}
        # A stop that is a name already keeps it, whatever the others are called.
        ordered = sorted(stops, key=lambda stop: NAME.match(stop) is None)
        for stop in ordered:
            self._of[stop] = self.new(stop if NAME.match(stop) else f"stop-{stop}")

    def new(self, wanted: str) -> str:
        """A name that nothing in the document has yet."""
        name, number = wanted, 1
        while name in self._taken:
            number += 1
            name = f"{wanted}-{number}"
        self._taken.add(name)
        return name

    def of(self, stop: str | None, otherwise: str = "") -> str:
        """The id of a stop; `otherwise` where there is no such stop."""
        return self._of.get(stop or "", otherwise)


def document(root: Xml.Element) -> str:
    """The file, indented where that changes no text."""
    for element in root.iter():
        element.text = clean(element.text) if element.text else element.text
        element.tail = clean(element.tail) if element.tail else element.tail
        for name, value in element.attrib.items():
            element.set(name, clean(value))
    _indent(root, "\n")
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + Xml.tostring(root, encoding="unicode")


def _indent(element: Xml.Element, line: str) -> None:
    inner = line + "  "
    texts = [element.text, *(child.tail for child in element)]
    if len(element) and not any(text and text.strip() for text in texts):
        element.text = inner
        for child in element:
            child.tail = inner
        element[-1].tail = line
        for child in element:
            _indent(child, inner)
