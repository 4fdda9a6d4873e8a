"""./run test, ./run verify and ./run bench."""

from __future__ import annotations

import argparse
import subprocess
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

from launch import build, lock, machine, moments
from launch.build import BACKEND, FRONTEND, PYTHON, VENV
from launch.say import ROOT, Failed, say
from launch.servers import Servers

BIN = VENV / "bin"


class Asked(NamedTuple):
    """Which tests are wanted, beside their parts: by a piece of their name, and as if when."""

    like: tuple[str, ...] = ()
    moment: moments.Moment = moments.NOW


def _step(name: str, command: list[str | Path], folder: Path, **environment: str) -> None:
    say(f"— {name}")
    began = time.monotonic()
    done = subprocess.run(
        [str(part) for part in command], cwd=folder, env=build.environment(**environment)
    )
    if done.returncode:
        raise Failed(f"{name} failed; its words are above.")
    say(f"  {name}: good, {time.monotonic() - began:.0f} s")


_APPS = (
    "accounts", "changelog", "sounds", "agents", "wrapup", "queues", "mailboxes", "lookups",
    "flows", "numbers_app", "diversions", "hours_app", "exchange", "hazeridge",
)  # fmt: skip


@contextmanager
def _served() -> Iterator[dict[str, str]]:
    """A cluster of the tests' own; gives the settings that lead to it.

    Only one at a time: a second would stop the servers of the first.
    """
    machine.need(machine.SERVING)
    with lock.held("test", "Another ./run test or ./run bench is at work ({who}); let it end first."):
        servers = Servers("test")
        servers.start(safe=False)
        try:
            yield servers.settings()
        finally:
            servers.stop()


def _django(name: str, asked: Asked, *labels: str) -> None:
    with _served() as settings:
        command = [PYTHON, "-W", "error::RuntimeWarning", "manage.py", "test", "--noinput",
                   "--testrunner", "testkit.runner.Runner"]  # fmt: skip
        for like in asked.like:
            command += ["-k", like]
        more = {**settings, **asked.moment.environment(), "HAZERIDGE_EAGER": "1"}
        _step(f"{name}{asked.moment.words}", [*command, *labels], BACKEND, **more)


def _lint(asked: Asked, _: list[str]) -> None:
    """Style and dead ends, both languages."""
    _step("ruff", [BIN / "ruff", "check", "."], BACKEND)
    _step("ruff, formatting", [BIN / "ruff", "format", "--check", "."], BACKEND)
    _step("eslint", ["npm", "run", "--silent", "lint"], FRONTEND)


def _types(asked: Asked, _: list[str]) -> None:
    """Types, import contracts, and the types that are made from the API's schema."""
    _step("mypy (callcore, strict)", [BIN / "mypy"], BACKEND)
    _step("import contracts", [BIN / "lint-imports", "--no-cache"], BACKEND)
    made = FRONTEND / "src" / "api" / "schema.d.ts"
    before = made.read_text()
    _step("types from the API's schema", ["npm", "run", "--silent", "types"], FRONTEND)
    if made.read_text() != before:
        raise Failed("frontend/src/api/schema.d.ts was not made from docs/openapi.yaml; it is now.")
    _step("tsc", ["npm", "run", "--silent", "typecheck"], FRONTEND)


def _core(asked: Asked, labels: list[str]) -> None:
    """The core and the launcher, without a database."""
    unittest = [PYTHON, "-m", "unittest"]
    like = [word for one in asked.like for word in ("-k", one)]
    if labels:
        _step("core", [*unittest, *like, *labels], BACKEND)
        return
    _step("core", [*unittest, "discover", *like, "-s", "callcore", "-t", "."], BACKEND)
    _step("launcher", [*unittest, "discover", *like, "-s", "tests", "-t", "."], ROOT / "tools")


def _api(asked: Asked, labels: list[str]) -> None:
    """The Django apps and the exchange, on a cluster of their own."""
    _django("api and exchange", asked, *(labels or _APPS))


def _browser(asked: Asked, labels: list[str]) -> None:
    """The main journeys in a real browser."""
    machine.need(machine.TESTING)
    build.front_end()
    _django("browser", asked, *(labels or ["browser_tests"]))


_Part = Callable[[Asked, list[str]], None]
PARTS: dict[str, _Part] = {
    "lint": _lint, "types": _types, "core": _core, "api": _api, "browser": _browser,
}  # fmt: skip
#: Parts in which single tests can be named.
_NAMED = ("core", "api", "browser")


def check(words: argparse.Namespace) -> None:
    """Run the parts named, or all of them."""
    wanted = _wanted(words.parts)
    asked = Asked(tuple(words.like), moments.read(words.at) if words.at else moments.NOW)
    machine.need_python_and_node()
    build.python_packages()
    build.node_packages()
    took, failed = [], []
    for name, labels in wanted:
        began = time.monotonic()
        try:
            PARTS[name](asked, labels)
        except Failed as error:
            # The other parts are run all the same: whoever waits for it learns all at once.
            failed.append(str(error))
            say(str(error))
        took.append(f"{name} {time.monotonic() - began:.0f} s")
    say(", ".join(took))
    if failed:
        raise Failed("\n".join(failed))
    say("everything is good")


def _wanted(words: list[str]) -> list[tuple[str, list[str]]]:
    """The parts that are meant, each with the tests named after it."""
    found: list[tuple[str, list[str]]] = []
    for word in words:
        name = "core" if word == "callcore" else word
        if name in PARTS:
            found.append((name, []))
        elif found and found[-1][0] in _NAMED:
            found[-1][1].append(word)
        else:
            raise Failed(f"./run test knows no {word}; there are {' '.join(PARTS)}.")
    return found or [(name, []) for name in PARTS]


def verify(words: argparse.Namespace) -> None:
    """What is too slow for every day."""
    checks: dict[str, Callable[[], None]] = {
        "moments": _at_odd_moments, "api-attack": _attack, "client": _client,
    }  # fmt: skip
    unknown = [word for word in words.parts if word not in checks]
    if unknown:
        raise Failed(f"./run verify knows no {unknown[0]}; there are {' '.join(checks)}.")
    machine.need_python_and_node()
    build.python_packages()
    build.node_packages()
    for name in words.parts or checks:
        checks[name]()
    say("everything holds")


def _at_odd_moments() -> None:
    """The tests on a Sunday, in the night of a clock change, on 29 February, over a year's end."""
    for moment in moments.ODD:
        asked = Asked((), moment)
        for part in (_api, _browser):
            part(asked, [])


def _attack() -> None:
    """Every operation with made-up input, as each role: no 5xx, nothing the schema does not say."""
    _django("the API attacked", Asked(), "hazeridge.tests.attack")


def _client() -> None:
    """A client is made from the schema, without a warning."""
    with tempfile.TemporaryDirectory() as folder:
        command = [
            BIN / "openapi-python-client", "generate", "--fail-on-warning", "--overwrite",
            "--config", ROOT / "docs" / "client.yaml",
            "--path", ROOT / "docs" / "openapi.yaml", "--output-path", Path(folder) / "client",
        ]  # fmt: skip
        _step("a client from the schema", command, BACKEND)


def bench(words: argparse.Namespace) -> None:
    """Speed."""
    build.python_packages()
    with _served() as settings:
        _step("tables", [PYTHON, "manage.py", "migrate", "-v0"], BACKEND, **settings)
        for part in ("bench.run", "bench.data"):
            _step(part, [PYTHON, "-m", part, *words.words], BACKEND, **settings)
