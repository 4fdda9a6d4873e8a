"""`./run mutants`: whether the core's tests fail when a rule of it is broken.

A mutant is the core with one thing changed: a comparison, a sign, a number, a condition turned round,
a call left out. So many are drawn by a seed, each is put into a copy of the core, and the tests of its
room are run on it: where all of them still pass, nothing would have noticed. Docstrings, messages and
types are left alone: no test should know them.
"""

from __future__ import annotations

import argparse
import ast
import copy
import random
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from queue import SimpleQueue
from typing import NamedTuple

BACKEND = Path(__file__).resolve().parents[1] / "backend"
#: A room of the core, and the tests that are to hold it.
ROOMS = {
    "routing": (
        "callcore/routing/[!_]*.py",
        (
            "test_beginnings",
            "test_router",
            "test_choosing",
            "test_router_kept",
            "test_idle",
            "test_threads",
            "test_waiting",
            "centre.test_engine",
            "centre.test_talking",
            "centre.test_steps_live",
            "centre.test_supervision",
        ),
    ),
    "measures": (
        "callcore/measures/[!_]*.py",
        (
            "test_beginnings",
            "test_measures",
            "test_accounts",
            "test_past_measures",
            "test_words",
            "test_talk",
            "test_alerts",
            "test_hearing",
            "test_recorded",
            "centre.test_ledger",
            "centre.test_engine",
            "centre.test_supervision",
        ),
    ),
    "hours": ("callcore/hours/[!_]*.py", ("test_hours", "test_first_hours")),
    "checks": (
        "callcore/flow/rules/[!_]*.py",
        (
            "test_checks",
            "test_findings",
            "test_listening",
            "test_texts",
            "test_row_values",
            "test_steps",
            "test_blocks",
            "test_numbers",
        ),
    ),
}
#: A broken core may go round for ever.
LONGEST_S = 120

_TURNED: dict[type[ast.AST], type[ast.AST]] = {
    ast.Lt: ast.LtE,
    ast.LtE: ast.Lt,
    ast.Gt: ast.GtE,
    ast.GtE: ast.Gt,
    ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq,
    ast.Is: ast.IsNot,
    ast.IsNot: ast.Is,
    ast.In: ast.NotIn,
    ast.NotIn: ast.In,
    ast.Add: ast.Sub,
    ast.Sub: ast.Add,
    ast.And: ast.Or,
    ast.Or: ast.And,
}


class Mutant(NamedTuple):
    """The core with one thing changed."""

    room: str
    file: Path
    line: int
    what: str
    source: str


def changes(tree: ast.Module) -> Iterator[tuple[int, str]]:
    """Every change that can be made: the number of its node among all, and its name."""
    types = {id(part) for node in ast.walk(tree) for part in _types(node)}
    for number, node in enumerate(ast.walk(tree)):
        if id(node) in types:
            continue
        match node:
            case ast.Compare(ops=[operator]) if type(operator) in _TURNED:
                yield number, "compare"
            case ast.BinOp(op=ast.Add() | ast.Sub()) | ast.BoolOp():
                yield number, "operator"
            case ast.Constant(value=bool()):
                yield number, "constant"
            case ast.Constant(value=int() | float()):
                yield number, "constant"
            case ast.If() | ast.IfExp() | ast.While():
                yield number, "condition"
            case ast.Expr(value=ast.Call()):
                yield number, "leave out"


def _types(node: ast.AST) -> Iterator[ast.AST]:
    """What stands in a type, where nothing is computed, and how a class lies in memory."""
    for name in ("annotation", "returns"):
        part = getattr(node, name, None)
        if isinstance(part, ast.AST):
            yield from ast.walk(part)
    if isinstance(node, ast.keyword) and node.arg in ("slots", "frozen"):
        yield from ast.walk(node)


def changed(tree: ast.Module, number: int, how: str) -> tuple[str, int, str]:
    """The source with one change: itself, the line, and what was there before and is now."""
    mutant = copy.deepcopy(tree)
    node = list(ast.walk(mutant))[number]
    before = ast.unparse(node).split("\n")[0]
    match node:
        case ast.Compare():
            node.ops = [_TURNED[type(node.ops[0])]()]
        case ast.BinOp() | ast.BoolOp():
            node.op = _TURNED[type(node.op)]()
        case ast.Constant(value=bool() as value):
            node.value = not value
        case ast.Constant(value=value):
            node.value = value + 1
        case ast.If() | ast.IfExp() | ast.While():
            node.test = ast.UnaryOp(op=ast.Not(), operand=node.test)
        case ast.Expr():
            node.value = ast.Constant(value=None)
    ast.fix_missing_locations(mutant)
    return (
        ast.unparse(mutant),
        getattr(node, "lineno", 0),
        f"{before}  →  {ast.unparse(node).split(chr(10))[0]}",
    )


def drawn(count: int, seed: int, rooms: list[str]) -> Iterator[Mutant]:
    """So many mutants, evenly from all the changes that can be made in the rooms."""
    chance = random.Random(seed)
    found = [
        (room, file, tree, number, how)
        for room in rooms
        for file in sorted(BACKEND.glob(ROOMS[room][0]))
        for tree in [ast.parse(file.read_text())]
        for number, how in changes(tree)
    ]
    for room, file, tree, number, how in chance.sample(found, min(count, len(found))):
        source, line, what = changed(tree, number, how)
        yield Mutant(room, file, line, what, source)


def tests_of(room: str) -> list[str]:
    """The test modules of a room."""
    return [f"callcore.tests.{name}" for name in ROOMS[room][1]]


def fails(room: str, copied: Path) -> bool:
    """Whether a test of a room fails on a copy of the core, or cannot end."""
    try:
        run = subprocess.run(
            [sys.executable, "-B", "-m", "unittest", "--failfast", *tests_of(room)],
            cwd=copied,
            capture_output=True,
            timeout=LONGEST_S,
            check=False,
        )
        return run.returncode != 0
    except subprocess.TimeoutExpired:
        return True


def caught(mutant: Mutant, copied: Path) -> bool:
    """Whether a test fails on a mutant."""
    file = copied / mutant.file.relative_to(BACKEND)
    whole = file.read_text()
    file.write_text(mutant.source)
    try:
        return fails(mutant.room, copied)
    finally:
        file.write_text(whole)


def main() -> None:
    """Draw, run, and tell which were not noticed."""
    words = argparse.ArgumentParser(
        prog="./run mutants", description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    words.add_argument("--count", type=int, default=120, help="how many; 120")
    words.add_argument("--seed", type=int, default=1, help="which; the same seed draws the same; 1")
    words.add_argument("--minutes", type=float, default=20, help="no new one is begun after that; 20")
    words.add_argument("rooms", nargs="*", help=f"of {' '.join(ROOMS)}; all without")
    asked = words.parse_args()
    if unknown := set(asked.rooms) - set(ROOMS):
        words.error(f"there is no room {', '.join(sorted(unknown))}; there are {', '.join(ROOMS)}")
    rooms = asked.rooms or list(ROOMS)
    ends = time.monotonic() + asked.minutes * 60
    workers = 2
    with tempfile.TemporaryDirectory() as folder, ThreadPoolExecutor(workers) as pool:
        free: SimpleQueue[Path] = SimpleQueue()
        for worker in range(workers):
            shutil.copytree(BACKEND / "callcore", Path(folder, str(worker), "callcore"))
            free.put(Path(folder, str(worker)))
        broken = [room for room in rooms if fails(room, Path(folder, "0"))]
        if broken:
            words.error(
                f"the tests of {', '.join(broken)} fail on the core as it is: every mutant would seem noticed"
            )

        def tried(mutant: Mutant) -> bool | None:
            if time.monotonic() > ends:
                return None
            copied = free.get()
            try:
                return caught(mutant, copied)
            finally:
                free.put(copied)

        mutants = list(drawn(asked.count, asked.seed, rooms))
        results = list(pool.map(tried, mutants))
    for mutant, noticed in zip(mutants, results, strict=True):
        if noticed is False:
            print(f"not noticed: {mutant.file.relative_to(BACKEND)}:{mutant.line}  {mutant.what}")
    for room in rooms:
        its = [
            noticed
            for mutant, noticed in zip(mutants, results, strict=True)
            if mutant.room == room and noticed is not None
        ]
        if its:
            print(f"{room}: {sum(its)} of {len(its)} noticed")
    done = [noticed for noticed in results if noticed is not None]
    print(
        f"{sum(done)} of {len(done)} mutants noticed, {sum(done) / max(1, len(done)):.0%}"
        + ("; time was up" if len(done) < len(results) else "")
    )


if __name__ == "__main__":
    main()
