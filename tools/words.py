"""Looks for words that docs/words.md has better ones for, in every text that a user may read."""

from __future__ import annotations

import ast
import re
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

ROOT = Path(__file__).resolve().parent.parent
#: Where no user reads.
_UNREAD = ("tests", "migrations", "browser_tests", "testkit", "bench", "node_modules", "schema.d.ts")
#: What stands between tags, and what stands in quotes.
_TEXTS = re.compile(r">([^<>{}]*[^\W\d_][^<>{}]*)<|\"((?:[^\"\\\n]|\\.)*)\"|`((?:[^`\\]|\\.)*)`")
_COMMENTS = re.compile(r"/\*.*?\*/|(?<![:\"'])//[^\n]*", re.DOTALL)


class Found(NamedTuple):
    """A word that has a better one, and where it is."""

    file: Path
    line: int
    word: str
    better: str


def instead(page: str) -> dict[str, str]:
    """The words that are not to be used, and what is to be used: from the page's tables."""
    better: dict[str, str] = {}
    for line in page.splitlines():
        cells = [cell.strip() for cell in line.strip().strip("|").split("|")]
        if line.startswith("|") and len(cells) == 3 and cells[2] not in ("not", "---"):
            better |= {word.strip(): cells[0] for word in cells[2].split(",") if word.strip()}
    return better


def texts_of_page(source: str) -> Iterator[tuple[int, str]]:
    """The texts of a TypeScript file, with their lines."""
    bare = _COMMENTS.sub(lambda found: re.sub(r"[^\n]", " ", found.group()), source)
    for found in _TEXTS.finditer(bare):
        yield bare.count("\n", 0, found.start()) + 1, next(filter(None, found.groups()), "")


def texts_of_module(source: str) -> Iterator[tuple[int, str]]:
    """The texts of a Python file but for its docstrings, with their lines."""
    tree = ast.parse(source)
    documented = (ast.Module, ast.ClassDef, ast.FunctionDef, ast.AsyncFunctionDef)
    said = {
        id(node.body[0].value)
        for node in ast.walk(tree)
        if isinstance(node, documented) and node.body and isinstance(node.body[0], ast.Expr)
    }
    for node in ast.walk(tree):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in said:
            yield node.lineno, node.value


def look(better: dict[str, str]) -> Iterator[Found]:
    """Every place that uses a word for which there is a better one."""
    wanted = re.compile(r"(?<![\w-])(" + "|".join(map(re.escape, better)) + r")(?![\w-])")
    read = {".tsx": texts_of_page, ".ts": texts_of_page, ".py": texts_of_module}
    places = [*(ROOT / "frontend" / "src").rglob("*"), *(ROOT / "backend").rglob("*.py")]
    for file in sorted(places):
        if file.suffix not in read or any(part in _UNREAD for part in file.parts):
            continue
        for line, text in read[file.suffix](file.read_text()):
            for found in wanted.finditer(text):
                yield Found(file.relative_to(ROOT), line, found.group(), better[found.group()])


def main() -> int:
    better = instead((ROOT / "docs" / "words.md").read_text())
    if not better:
        print("docs/words.md has no words to look for.")
        return 1
    found = list(look(better))
    for one in found:
        print(f"{one.file}:{one.line}: “{one.word}”: say “{one.better}” (docs/words.md)")
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main())
