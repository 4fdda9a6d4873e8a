"""Typed columns, and rows read from CSV: all of them good, or every bad line named."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Iterator, Sequence
from datetime import date
from typing import Any, Literal, NamedTuple

Thing = Literal["queue", "mailbox", "sound", "hours", "flow", "agent"]
ColumnType = Literal["text", "number", "yes_no", "date"] | Thing
#: What a column of things holds, in words; a cell is kept as a reference (`queue:…`).
THINGS: dict[str, str] = {
    "queue": "a queue",
    "mailbox": "a mailbox",
    "sound": "a sound",
    "hours": "opening hours",
    "flow": "a flow",
    "agent": "a person",
}
#: Finds a thing of a kind by what was typed (its name, or a reference): its reference.
Finder = Callable[[str, str], str | None]
TYPE_WORDS: dict[str, str] = {
    "text": "text",
    "number": "a whole number",
    "yes_no": "yes or no",
    "date": "a date (YYYY-MM-DD)",
    **THINGS,
}
LONGEST_TEXT = 200
LARGEST = 10**15
MOST_ROWS = 200_000
#: So many bad lines are named; more are only counted.
MOST_NAMED = 50
_YES, _NO = {"yes", "true", "1"}, {"no", "false", "0"}


class Column(NamedTuple):
    """A column of a table."""

    name: str
    type: ColumnType


class BadLine(NamedTuple):
    """A line of a file (the head is line 1) that cannot be taken, its column, and why."""

    line: int
    column: str
    words: str


class Rows(NamedTuple):
    """What a file holds. `bad` empty: all of it can be taken."""

    rows: list[list[Any]]
    bad: list[BadLine]
    bad_count: int


class NotATable(Exception):
    """The file as a whole cannot be read; the text says why."""


def folded(key: Any) -> str:
    """A key as it is compared: without case, and with single spaces."""
    return " ".join(str(key).casefold().split())


def nothing_is(kind: str, typed: str) -> str | None:
    """No thing is called anything."""
    return None


def _thing(kind: str, text: str, find: Finder) -> str:
    found = find(kind, text[:LONGEST_TEXT])
    if found is None:
        raise ValueError(f"there is no {THINGS[kind].split()[-1]} “{text[:40]}”")
    return found


def cell(kind: ColumnType, typed: Any, find: Finder = nothing_is) -> Any:
    """A typed or stored cell as its column keeps it; an empty one is None.

    Raises:
        ValueError: in words, where it does not fit.
    """
    text = "" if typed is None else str(typed).strip()
    if not text:
        return None
    if kind in THINGS:
        return _thing(kind, text, find)
    if kind == "text":
        if len(text) > LONGEST_TEXT:
            raise ValueError(f"longer than {LONGEST_TEXT} characters")
        return text
    if kind == "number":
        bare = text.removeprefix("-")
        if not (bare.isascii() and bare.isdigit()) or len(bare) > 16 or int(bare) > LARGEST:
            raise ValueError(f"“{text[:40]}” is not a whole number")
        return int(text)
    if kind == "yes_no":
        if text.casefold() not in _YES | _NO:
            raise ValueError(f"“{text[:40]}” is neither yes nor no")
        return text.casefold() in _YES
    try:
        return date.fromisoformat(text).isoformat()
    except ValueError:
        raise ValueError(f"“{text[:40]}” is not a date (YYYY-MM-DD)") from None


def row(columns: Sequence[Column], typed: Sequence[Any], find: Finder = nothing_is) -> list[Any]:
    """A whole row as the table keeps it.

    Raises:
        ValueError: naming the column, where a cell does not fit or the key is empty.
    """
    cells = []
    for column, value in zip(columns, typed, strict=True):
        try:
            cells.append(cell(column.type, value, find))
        except ValueError as error:
            raise ValueError(f"{column.name}: {error}") from None
    if cells[0] is None:
        raise ValueError(f"{columns[0].name}: the key is empty")
    return cells


def read(
    columns: Sequence[Column], data: bytes, key_of: Callable[[Any], str] = folded, find: Finder = nothing_is
) -> Rows:
    """Read a CSV file (UTF-8, with a head that names the columns, in any order).

    Args:
        key_of: a key as it is compared; no two rows have the same.
        find: finds the things that cells name.

    Raises:
        NotATable: no text, no head, columns missing or unknown, or too many rows.
    """
    lines = _lines(data)
    try:
        head = [unguarded(name).strip() for name in next(lines, [])]
    except csv.Error as error:
        raise NotATable(f"The file is no CSV: {error}.") from None
    places = _places(columns, head)
    rows: list[list[Any]] = []
    bad: list[BadLine] = []
    count = 0
    seen: dict[str, int] = {}

    def place_of(key: Any, number: int) -> int:
        return seen.setdefault(key_of(key), number)

    try:
        for number, line in enumerate(lines, start=2):
            if not any(field.strip() for field in line):
                continue
            if len(rows) + count >= MOST_ROWS:
                raise NotATable(f"The file has more than {MOST_ROWS:,} rows.")
            found = _read_line(columns, places, number, line, place_of, find)
            if isinstance(found, BadLine):
                count += 1
                bad += [found] if len(bad) < MOST_NAMED else []
            else:
                rows.append(found)
    except csv.Error as error:
        raise NotATable(f"The file is no CSV: {error}.") from None
    return Rows(rows, bad, count)


def _lines(data: bytes) -> Iterator[list[str]]:
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise NotATable("The file is not text in UTF-8.") from None
    if "\x00" in text:
        raise NotATable("The file is no text.")
    sample = text[:4000].split("\n", 1)[0]
    delimiter = max(",;\t", key=sample.count)
    return csv.reader(io.StringIO(text), delimiter=delimiter, strict=True)


def _places(columns: Sequence[Column], head: list[str]) -> list[int]:
    if not any(head):
        raise NotATable("The file is empty; its first line names the columns.")
    folded_head = [folded(name) for name in head]
    twice = sorted({name for name in folded_head if name and folded_head.count(name) > 1})
    missing = [c.name for c in columns if folded(c.name) not in folded_head]
    known = {folded(c.name) for c in columns}
    unknown = [name for name in head if folded(name) not in known]
    if twice:
        raise NotATable(f"The column {twice[0]} stands there twice.")
    if missing:
        raise NotATable(f"The column {missing[0]} is missing; the first line names the columns.")
    if unknown:
        raise NotATable(f"The table has no column “{unknown[0][:40]}”.")
    return [folded_head.index(folded(c.name)) for c in columns]


def _read_line(
    columns: Sequence[Column],
    places: list[int],
    number: int,
    line: list[str],
    place_of: Callable[[Any, int], int],
    find: Finder,
) -> list[Any] | BadLine:
    if len(line) != len(places):
        return BadLine(number, "", f"{len(line)} cells where {len(places)} are needed")
    try:
        cells = row(columns, [unguarded(line[place]) for place in places], find)
    except ValueError as error:
        column, _, words = str(error).partition(": ")
        return BadLine(number, column, words)
    first = place_of(cells[0], number)
    if first != number:
        return BadLine(number, columns[0].name, f"“{cells[0]}” stands in line {first} already")
    return cells


#: What a spreadsheet would run as a formula begins so.
_FORMULA = tuple("=+-@\t\r\n")


def guarded(text: str) -> str:
    """A cell for a CSV file that no spreadsheet runs; `unguarded` gives it back unchanged."""
    return f"'{text}" if text.startswith(_FORMULA) or text.startswith("'") else text


def unguarded(text: str) -> str:
    """What `guarded` was given; a text that it never made stays as it is."""
    inner = text.removeprefix("'")
    return inner if inner != text and (inner.startswith(_FORMULA) or inner.startswith("'")) else text


def shown(value: Any) -> str:
    """A cell as people read it, and as `cell` reads it back."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return str(value)
