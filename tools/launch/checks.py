"""./run test and ./run bench."""

from __future__ import annotations

import fcntl
import subprocess
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from launch import build, machine
from launch.build import BACKEND, FRONTEND, PYTHON, VENV
from launch.say import Failed, say
from launch.servers import Servers

BIN = VENV / "bin"


def _step(name: str, command: list[str | Path], folder: Path, **environment: str) -> None:
    say(f"— {name}")
    began = time.monotonic()
    done = subprocess.run(
        [str(part) for part in command], cwd=folder, env=build.environment(**environment)
    )
    if done.returncode:
        raise Failed(f"{name} failed; its words are above.")
    say(f"  {name}: good, {time.monotonic() - began:.0f} s")


def lint() -> None:
    """Style and dead ends, both languages."""
    _step("ruff", [BIN / "ruff", "check", "."], BACKEND)
    _step("ruff, formatting", [BIN / "ruff", "format", "--check", "."], BACKEND)
    _step("eslint", ["npm", "run", "--silent", "lint"], FRONTEND)


def types() -> None:
    """Types, import contracts, and the types that are made from the API's schema."""
    _step("mypy (callcore, strict)", [BIN / "mypy"], BACKEND)
    _step("import contracts", [BIN / "lint-imports", "--no-cache"], BACKEND)
    made = FRONTEND / "src" / "api" / "schema.d.ts"
    before = made.read_text()
    _step("types from the API's schema", ["npm", "run", "--silent", "types"], FRONTEND)
    if made.read_text() != before:
        raise Failed("frontend/src/api/schema.d.ts was not made from docs/openapi.yaml; it is now.")
    _step("tsc", ["npm", "run", "--silent", "typecheck"], FRONTEND)


def core() -> None:
    """The core, without a database."""
    _step("core", [PYTHON, "-m", "unittest", "discover", "-s", "callcore", "-t", "."], BACKEND)


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
    servers = Servers("test")
    with (servers.folder / "lock").open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise Failed("Another ./run test or ./run bench is at work; let it end first.") from None
        servers.start(safe=False)
        try:
            yield servers.settings()
        finally:
            servers.stop()


def _django(name: str, *labels: str) -> None:
    with _served() as settings:
        command = [PYTHON, "-W", "error::RuntimeWarning", "manage.py", "test", "--noinput", *labels]
        _step(name, command, BACKEND, **settings, HAZERIDGE_EAGER="1")


def api() -> None:
    """The Django apps and the exchange, on a cluster of their own."""
    _django("api and exchange", *_APPS)


def browser() -> None:
    """The main journeys in a real browser."""
    machine.need(machine.TESTING)
    build.front_end()
    _django("browser", "browser_tests")


PARTS: dict[str, Callable[[], None]] = {
    "lint": lint, "types": types, "core": core, "api": api, "browser": browser,
}  # fmt: skip


def check(words: list[str]) -> int:
    """Run the parts named, or all of them."""
    names = ["core" if word == "callcore" else word for word in words] or list(PARTS)
    unknown = [name for name in names if name not in PARTS]
    if unknown:
        raise Failed(f"./run test knows no {unknown[0]}; there are {' '.join(PARTS)}.")
    machine.need_python_and_node()
    build.python_packages()
    build.node_packages()
    for name in names:
        PARTS[name]()
    say("everything is good")
    return 0


def bench(words: list[str]) -> int:
    """Speed."""
    build.python_packages()
    with _served() as settings:
        _step("tables", [PYTHON, "manage.py", "migrate", "-v0"], BACKEND, **settings)
        for part in ("bench.run", "bench.data"):
            _step(part, [PYTHON, "-m", part, *words], BACKEND, **settings)
    return 0


