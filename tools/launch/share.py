"""How much of the code is tests: lines that are not empty, of everything that is written by hand."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from launch.build import BACKEND, FRONTEND
from launch.say import ROOT

_TESTS = {"tests", "tests.py", "browser_tests", "testkit"}
#: Made by programs, or brought along.
_NOT_OURS = {"node_modules", "migrations", "schema.d.ts", "dist"}


def _files() -> Iterator[Path]:
    for folder, patterns in (
        (BACKEND, ("*.py",)),
        (ROOT / "tools", ("*.py",)),
        (FRONTEND / "src", ("*.ts", "*.tsx", "*.css")),
        (FRONTEND / "tests", ("*.ts", "*.tsx")),
    ):
        for pattern in patterns:
            yield from (file for file in folder.rglob(pattern) if not _NOT_OURS & set(file.parts))


def lines() -> tuple[int, int]:
    """Lines of tests, and of all."""
    tests = whole = 0
    for file in _files():
        count = sum(bool(line.strip()) for line in file.read_text().splitlines())
        whole += count
        tests += count if _TESTS & set(file.relative_to(ROOT).parts) else 0
    return tests, whole


def words() -> str:
    """The share in a sentence."""
    tests, whole = lines()
    return f"tests are {tests / whole:.0%} of the code: {tests:,} of {whole:,} lines"
