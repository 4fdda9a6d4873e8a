"""./run test, ./run verify and ./run bench."""

from __future__ import annotations

import argparse
import tempfile
from collections.abc import Callable
from pathlib import Path

from launch import build, machine, moments, parts, share
from launch.build import BACKEND, PYTHON
from launch.parts import BIN, NAMED, PARTS, Asked
from launch.say import ROOT, Failed, say


def check(words: argparse.Namespace) -> None:
    """Run the parts named, or all of them."""
    wanted = _wanted(words.parts)
    asked = Asked(tuple(words.like), moments.read(words.at) if words.at else moments.NOW)
    machine.need_python_and_node()
    build.python_packages()
    parts.run(wanted, asked)
    say(share.words())
    say("everything is good")


def _wanted(words: list[str]) -> list[tuple[str, list[str]]]:
    """The parts that are meant, each with the tests named after it."""
    found: list[tuple[str, list[str]]] = []
    for word in words:
        name = "core" if word == "callcore" else word
        if name in PARTS:
            found.append((name, []))
        elif found and found[-1][0] in NAMED:
            found[-1][1].append(word)
        else:
            raise Failed(f"./run test knows no {word}; there are {' '.join(PARTS)}.")
    return found or [(name, []) for name in PARTS]


def verify(words: argparse.Namespace) -> None:
    """What is too slow for every day."""
    checks: dict[str, Callable[[], None]] = {
        "moments": _at_odd_moments,
        "api-attack": _attack,
        "client": _client,
        "theory": _theory,
    }
    unknown = [word for word in words.parts if word not in checks]
    if unknown:
        raise Failed(f"./run verify knows no {unknown[0]}; there are {' '.join(checks)}.")
    machine.need_python_and_node()
    build.python_packages()
    for name in words.parts or checks:
        checks[name]()
    say("everything holds")


def _at_odd_moments() -> None:
    """The tests on a Sunday, in the night of a clock change, on 29 February, over a year's end."""
    for moment in moments.ODD:
        parts.run([("api", []), ("browser", [])], Asked((), moment))


def _attack() -> None:
    """Every operation with made-up input, as each role: no 5xx, nothing the schema does not say."""
    with parts.served() as settings:
        parts.django("attack", Asked(settings=settings), "hazeridge.tests.attack")


def _client() -> None:
    """A client is made from the schema, without a warning."""
    with tempfile.TemporaryDirectory() as folder:
        command = [
            BIN / "openapi-python-client",
            "generate",
            "--fail-on-warning",
            "--overwrite",
            "--config",
            ROOT / "docs" / "client.yaml",
            "--path",
            ROOT / "docs" / "openapi.yaml",
            "--output-path",
            Path(folder) / "client",
        ]
        Asked().step("a client from the schema", command, BACKEND)


def _theory() -> None:
    """The simulation against the closed forms of waiting."""
    Asked().step("theory", [PYTHON, "-m", "bench.theory"], BACKEND)


def bench(words: argparse.Namespace) -> None:
    """Speed."""
    build.python_packages()
    with parts.served() as settings:
        step = Asked().step
        step("tables", [PYTHON, "manage.py", "migrate", "-v0"], BACKEND, **settings)
        for part in ("bench.run", "bench.data"):
            step(part, [PYTHON, "-m", part, *words.words], BACKEND, **settings)
