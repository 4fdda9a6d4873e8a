"""The parts of ./run test: what each runs, where its words go, and which go side by side."""

from __future__ import annotations

import shutil
import subprocess
import threading
import time
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO, NamedTuple

from launch import build, lock, machine, moments
from launch.build import BACKEND, FRONTEND, PYTHON, VENV
from launch.processes import end_group
from launch.say import ROOT, VAR, Failed, say
from launch.servers import Servers

BIN = VENV / "bin"
#: What the tests of a part leave to be looked at: words, and pictures of what failed.
LEFT = VAR / "test" / "left"
WORKERS = 2


#: What runs at the moment: an interrupt reaches us, and through us all of it.
_running: list[subprocess.Popen[bytes]] = []


class Asked(NamedTuple):
    """How a part is run: which tests, as if when, where the servers are, and who hears its words."""

    like: tuple[str, ...] = ()
    moment: moments.Moment = moments.NOW
    settings: dict[str, str] = {}
    out: IO[bytes] | None = None

    def step(self, name: str, command: Iterable[str | Path], folder: Path, **more: str) -> None:
        """Run a command to its end.

        Raises:
            Failed: it did not go well.
        """
        self._say(f"— {name}")
        began = time.monotonic()
        process = subprocess.Popen(
            [str(part) for part in command],
            cwd=folder,
            env=build.environment(**more),
            stdout=self.out,
            stderr=subprocess.STDOUT if self.out else None,
            start_new_session=True,
        )
        _running.append(process)
        try:
            code = process.wait()
        finally:
            # A runner that crashes leaves what it started; it goes with its group.
            end_group(process)
            _running.remove(process)
        if code:
            raise Failed(f"{name} failed; its words are above.")
        self._say(f"  {name}: good, {time.monotonic() - began:.0f} s")

    def _say(self, text: str) -> None:
        if self.out:
            self.out.write(f"{text}\n".encode())
            self.out.flush()
        else:
            say(text)


_APPS = (
    "accounts",
    "changelog",
    "sounds",
    "agents",
    "wrapup",
    "queues",
    "mailboxes",
    "lookups",
    "flows",
    "phone_numbers",
    "diversions",
    "opening_hours",
    "exchange",
    "demo",
    "hazeridge",
)


def django(name: str, asked: Asked, *labels: str, redis: int = 0) -> None:
    """Tests of Django's runner, in databases of their own on the servers that are asked for.

    Args:
        redis: its number there; the workers have those that follow it.
    """
    left = LEFT / name
    shutil.rmtree(left, ignore_errors=True)
    left.mkdir(parents=True)
    command = [
        PYTHON,
        "-W",
        "error::RuntimeWarning",
        "manage.py",
        "test",
        "--noinput",
        "--testrunner",
        "testkit.runner.Runner",
        "--parallel",
        str(WORKERS),
    ]
    for like in asked.like:
        command += ["-k", like]
    more = {
        **asked.settings,
        **asked.moment.environment(),
        "HAZERIDGE_DATABASE_URL": _another(asked.settings["HAZERIDGE_DATABASE_URL"], name),
        "HAZERIDGE_REDIS_URL": _another(asked.settings["HAZERIDGE_REDIS_URL"], redis),
        "HAZERIDGE_EAGER": "1",
        "HAZERIDGE_TEST_FOLDER": str(left),
    }
    asked.step(f"{name}{asked.moment.words}", [*command, *labels], BACKEND, **more)


def _another(url: str, database: str | int) -> str:
    return f"{url.rpartition('/')[0]}/{database}"


def _lint(asked: Asked, _: list[str]) -> None:
    """Style and dead ends, both languages."""
    asked.step("ruff", [BIN / "ruff", "check", ".", "../tools"], BACKEND)
    asked.step("ruff, formatting", [BIN / "ruff", "format", "--check", ".", "../tools"], BACKEND)
    asked.step("eslint, prettier", ["npm", "run", "--silent", "lint"], FRONTEND)
    asked.step("words", [PYTHON, str(ROOT / "tools" / "words.py")], ROOT)


def _types(asked: Asked, _: list[str]) -> None:
    """Types, import contracts, and the types that are made from the API's schema."""
    asked.step("mypy (callcore strict, no untyped definition anywhere)", [BIN / "mypy"], BACKEND)
    asked.step("import contracts", [BIN / "lint-imports", "--no-cache"], BACKEND)
    made = [FRONTEND / "src" / "api" / name for name in ("schema.d.ts", "lengths.ts")]
    before = [file.read_text() for file in made]
    asked.step("types from the API's schema", ["npm", "run", "--silent", "types"], FRONTEND)
    if [file.read_text() for file in made] != before:
        raise Failed(
            "schema.d.ts or lengths.ts in frontend/src/api was not made from docs/openapi.yaml; it is now."
        )
    asked.step("tsc", ["npm", "run", "--silent", "typecheck"], FRONTEND)


def _core(asked: Asked, labels: list[str]) -> None:
    """The core and the launcher, without a database."""
    unittest = [PYTHON, "-m", "unittest"]
    like = [word for one in asked.like for word in ("-k", one)]
    if labels:
        asked.step("core", [*unittest, *like, *labels], BACKEND)
        return
    asked.step("core", [*unittest, "discover", *like, "-s", "callcore", "-t", "."], BACKEND)
    asked.step("launcher", [*unittest, "discover", *like, "-s", "tests", "-t", "."], ROOT / "tools")


def _pages(asked: Asked, _: list[str]) -> None:
    """What the pages work out by themselves: edits, merging, the map's layout, formats."""
    asked.step("pages", ["npm", "run", "--silent", "test"], FRONTEND)


def _api(asked: Asked, labels: list[str]) -> None:
    """The Django apps and the exchange."""
    django("api", asked, *(labels or _APPS))


def _browser(asked: Asked, labels: list[str]) -> None:
    """The main journeys in a real browser."""
    django("browser", asked, *(labels or ["browser_tests"]), redis=8)


Part = Callable[[Asked, list[str]], None]
PARTS: dict[str, Part] = {
    "lint": _lint,
    "types": _types,
    "core": _core,
    "pages": _pages,
    "api": _api,
    "browser": _browser,
}
#: Parts in which single tests can be named.
NAMED = ("core", "api", "browser")
_SERVED = ("api", "browser")
#: What goes one after the other while the rest goes on beside it; the browsers wait a lot.
_LANES = (("browser",), ("api", "core", "pages", "types", "lint"))


@contextmanager
def served() -> Iterator[dict[str, str]]:
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


def run(wanted: list[tuple[str, list[str]]], asked: Asked) -> None:
    """Run parts side by side, each to its end, and say how long each took.

    Raises:
        Failed: some did not go well.
    """
    names = {name for name, _ in wanted}
    if names & {"lint", "types", "pages", "browser"}:
        build.node_packages()
    if "browser" in names:
        machine.need(machine.TESTING)
        build.front_end()
    if names & set(_SERVED):
        with served() as settings:
            _side_by_side(wanted, asked._replace(settings=settings))
    else:
        _side_by_side(wanted, asked)


def _side_by_side(wanted: list[tuple[str, list[str]]], asked: Asked) -> None:
    took: dict[str, float] = {}
    failed: list[str] = []
    alone = len(wanted) == 1
    heard, stopped = threading.Lock(), threading.Event()

    def one_after_the_other(lane: tuple[str, ...]) -> None:
        for name in lane:
            for labels in [labels for part, labels in wanted if part == name]:
                if stopped.is_set():
                    return
                began = time.monotonic()
                error = _hear(name, labels, asked, heard, alone=alone)
                took[name] = time.monotonic() - began
                failed.extend([error] if error else [])

    lanes = [threading.Thread(target=one_after_the_other, args=(lane,)) for lane in _LANES]
    for lane in lanes:
        lane.start()
    try:
        for lane in lanes:
            lane.join()
    except BaseException:
        stopped.set()
        for process in list(_running):
            end_group(process)
        raise
    say(", ".join(f"{name} {took[name]:.0f} s" for name in PARTS if name in took))
    if failed:
        raise Failed("\n".join(failed))


def _hear(name: str, labels: list[str], asked: Asked, heard: threading.Lock, *, alone: bool) -> str:
    """Run one part; its words are shown as they come, or in one piece where others go beside it.

    Gives what is wrong, in words; nothing where all is well.
    """
    LEFT.mkdir(parents=True, exist_ok=True)
    log = LEFT / f"{name}.log"
    error = ""
    with log.open("wb") as out:
        try:
            PARTS[name](asked if alone else asked._replace(out=out), labels)
        except Failed as failed:
            error = str(failed)
    with heard:
        if not alone:
            say(f"— {name}: {'not good' if error else 'good'}\n{log.read_text(errors='replace')}")
        if error:
            say(error)
    return error
