"""Which Python everything runs on.

`./run` itself is started by whatever comes first on the path. How that one was built decides how
fast everything is: a third of a Python's pace is lost in a build without profiles, which is what
tools that build one on the spot make. Debian's is built with them.
"""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path
from typing import NamedTuple

LEAST = (3, 11)
DEBIANS = Path("/usr/bin/python3")

#: What is asked of an interpreter; one that cannot make an environment with pip fails at it.
_ASKS = "import ensurepip, json, sys, venv; print(json.dumps(sys.version_info[:3]))"


class Interpreter(NamedTuple):
    """A Python: where it is, and its version."""

    path: str
    version: tuple[int, ...]

    @property
    def mark(self) -> str:
        """What tells its environments from others'."""
        return f"{self.path} {'.'.join(map(str, self.version))}"


def choose(debians: Path = DEBIANS) -> Interpreter:
    """Debian's, if it can be used and is no older (3.11, 3.12 …) than the one that runs this."""
    here = Interpreter(sys.executable, sys.version_info[:3])
    there = look_at(debians)
    return there if there and there.version[:2] >= max(LEAST, here.version[:2]) else here


def look_at(path: str | Path) -> Interpreter | None:
    """What an interpreter says of itself; None of what is none, or cannot make environments."""
    try:
        said = subprocess.run([path, "-c", _ASKS], capture_output=True, timeout=60, check=True).stdout
        return Interpreter(str(path), tuple(json.loads(said)))
    except (OSError, subprocess.SubprocessError, ValueError):
        return None
