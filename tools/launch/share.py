"""How much of the code is tests, of everything that is written by hand: by lines that are not empty,
and by characters but for white space, which tell nothing of how a formatter breaks lines."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from launch.build import BACKEND, FRONTEND
from launch.say import ROOT

_TESTS = {"tests", "tests.py", "browser_tests", "testkit"}
#: Made by programs, or brought along.
_NOT_OURS = {"node_modules", "migrations", "schema.d.ts", "lengths.ts", "dist"}


class Size(NamedTuple):
    """How much something is."""

    lines: int = 0
    characters: int = 0

    def plus(self, other: Size) -> Size:
        """Both together."""
        return Size(self.lines + other.lines, self.characters + other.characters)


def _files() -> Iterator[Path]:
    for folder, patterns in (
        (BACKEND, ("*.py",)),
        (ROOT / "tools", ("*.py",)),
        (FRONTEND / "src", ("*.ts", "*.tsx", "*.css")),
        (FRONTEND / "tests", ("*.ts", "*.tsx")),
    ):
        for pattern in patterns:
            yield from (file for file in folder.rglob(pattern) if not _NOT_OURS & set(file.parts))


def counted() -> tuple[Size, Size]:
    """The size of tests, and of all."""
    tests, whole = Size(), Size()
    for file in _files():
        text = file.read_text()
        size = Size(sum(bool(line.strip()) for line in text.splitlines()), sum(map(len, text.split())))
        whole = whole.plus(size)
        if _TESTS & set(file.relative_to(ROOT).parts):
            tests = tests.plus(size)
    return tests, whole


def words() -> str:
    """The share in a sentence."""
    tests, whole = counted()
    return (
        f"tests are {tests.lines / whole.lines:.0%} of the code: {tests.lines:,} of {whole.lines:,} lines "
        f"({tests.characters / whole.characters:.0%} by characters)"
    )
