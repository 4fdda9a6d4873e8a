"""What the machine must have from Debian's packages, and installing what is missing."""

from __future__ import annotations

import os
import shutil
from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

from launch import interpreter
from launch.say import Failed, quiet, say


class Tool(NamedTuple):
    package: str
    why: str
    program: str


SERVING = (
    Tool("postgresql", "the database", "initdb"),
    Tool("redis-server", "live views and background work", "redis-server"),
    Tool("espeak-ng", "the speech engine's stand-in", "espeak-ng"),
    Tool("fonts-dejavu-core", "letters of reports as PDF", "/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf"),
)
TESTING = (
    Tool("chromium", "the browser that the tests drive", "chromium"),
    Tool("chromium-driver", "driving it", "chromedriver"),
)


def program(name: str) -> Path | None:
    """Where a program is, or a file; PostgreSQL's programs are not on the path on Debian."""
    places = sorted(Path("/usr/lib/postgresql").glob(f"*/bin/{name}"), reverse=True)
    if places:
        return places[0]
    found = name if Path(name).is_absolute() else shutil.which(name)
    return Path(found) if found and Path(found).exists() else None


#: Debian splits it off its Python.
ENVIRONMENTS = Tool("python3-venv", "Python's environments", "")


def need(tools: tuple[Tool, ...]) -> None:
    """Install what is missing, as root or with sudo."""
    missing = [tool for tool in tools if program(tool.program) is None]
    if missing:
        install(missing)


def install(missing: Sequence[Tool]) -> None:
    """Install from Debian's packages, as root or with sudo.

    Raises:
        Failed: neither root nor sudo is there, or it went wrong.
    """
    names = [tool.package for tool in missing]
    for tool in missing:
        say(f"missing: {tool.package}, {tool.why}")
    become: list[str] = []
    if os.geteuid() != 0:
        if shutil.which("sudo") is None:
            raise Failed("Please have installed, as root: apt-get install " + " ".join(names))
        become = ["sudo"]
    say("installing from Debian's packages: " + " ".join(names))
    environment = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    quiet("apt update", [*become, "apt-get", "update"], env=environment)
    command = ["apt-get", "install", "-y", "--no-install-recommends", *names]
    quiet("apt install", [*become, *command], env=environment)


def need_python_and_node() -> None:
    """The two things that ./run cannot install itself."""
    import sys

    if sys.version_info < interpreter.LEAST:
        raise Failed(f"Python 3.11 or newer is needed; this is {sys.version.split()[0]}.")
    if shutil.which("npm") is None:
        raise Failed("Node 20 with npm is needed, and there is no npm on the path.")
