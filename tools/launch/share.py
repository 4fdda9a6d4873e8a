"""How much of the code is tests: characters but for white space, of everything that is written by
hand. Lines would tell more of a formatter's habits than of the code."""

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


def characters() -> tuple[int, int]:
    """Characters of tests, and of all."""
    tests = whole = 0
    for file in _files():
        count = sum(map(len, file.read_text().split()))
        whole += count
        tests += count if _TESTS & set(file.relative_to(ROOT).parts) else 0
    return tests, whole


def words() -> str:
    """The share in a sentence."""
    tests, whole = characters()
    return f"tests are {tests / whole:.0%} of the code: {tests / 1000:,.0f} of {whole / 1000:,.0f} thousand characters"
