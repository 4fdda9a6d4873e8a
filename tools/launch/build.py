"""The virtual environment and the front end: made once, again only when their sources change."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Iterable
from pathlib import Path

from launch import interpreter, machine
from launch.say import ROOT, Failed, quiet, say

VENV = ROOT / ".venv"
BACKEND = ROOT / "backend"
FRONTEND = ROOT / "frontend"
PYTHON = VENV / "bin" / "python"


def _digest(files: Iterable[Path]) -> str:
    total = hashlib.sha256()
    for file in sorted(files):
        total.update(str(file.relative_to(ROOT)).encode() + b"\0" + file.read_bytes())
    return total.hexdigest()


def back_end_digest() -> str:
    """What everything behind the API is made of."""
    return _digest([*BACKEND.rglob("*.py"), BACKEND / "requirements.txt"])


def _fresh(stamp: Path, digest: str) -> bool:
    return stamp.is_file() and stamp.read_text() == digest


def python_packages() -> None:
    """The virtual environment with the pinned requirements."""
    # What only checks is small, and a folder is for trying and for checking alike.
    lists = [BACKEND / f"requirements{which}.txt" for which in ("", "-dev", "-installer")]
    chosen = interpreter.choose()
    stamp = VENV / ".requirements"
    if _fresh(stamp, f"{_digest(lists)} {chosen.mark}"):
        return
    if not _fresh(VENV / ".made-by", chosen.mark):
        chosen = _make_environment(chosen)
    say("installing Python packages (half a minute, once)")
    pip = [PYTHON, "-m", "pip", "install", "--disable-pip-version-check", "-r"]
    try:
        quiet("uv", [*pip, lists[2]])
        quiet(
            "packages",
            [
                VENV / "bin" / "uv",
                "pip",
                "install",
                "--native-tls",
                "--no-cache",
                "--python",
                PYTHON,
                "-r",
                lists[1],
            ],
        )
    except Failed as failed:
        say(f"{failed}\ninstalling them by pip instead (two to four minutes)")
        quiet("pip", [*pip, lists[1]])
    stamp.write_text(f"{_digest(lists)} {chosen.mark}")


def _make_environment(chosen: interpreter.Interpreter) -> interpreter.Interpreter:
    """An empty virtual environment; the interpreter that it is of."""
    if interpreter.look_at(chosen.path) is None:
        machine.install([machine.ENVIRONMENTS])
        chosen = interpreter.choose()
    say(f"making the virtual environment with {chosen.mark}")
    quiet("venv", [chosen.path, "-m", "venv", "--clear", VENV])
    (VENV / ".made-by").write_text(chosen.mark)
    return chosen


def node_packages() -> None:
    """The front end's packages, as locked."""
    digest = _digest([FRONTEND / "package-lock.json"])
    stamp = FRONTEND / "node_modules" / ".lock-digest"
    if _fresh(stamp, digest):
        return
    say("installing the front end's packages (a minute, once)")
    quiet("npm ci", ["npm", "ci", "--no-audit", "--no-fund"], cwd=FRONTEND)
    stamp.write_text(digest)


def front_end() -> None:
    """The built front end, for the server to hand out."""
    sources = [f for f in (FRONTEND / "src").rglob("*") if f.is_file()]
    sources += [FRONTEND / name for name in ("index.html", "package-lock.json", "vite.config.ts")]
    digest = _digest(sources)
    stamp = FRONTEND / "dist" / ".sources-digest"
    if _fresh(stamp, digest):
        return
    node_packages()
    say("building the front end")
    quiet("vite build", ["npx", "vite", "build"], cwd=FRONTEND)
    stamp.write_text(digest)


def environment(**more: str) -> dict[str, str]:
    """The environment of everything that is started. What Python has compiled is kept, be it not beside
    the sources: half of a start is compiling where it is not."""
    bin_dir = f"{VENV / 'bin'}{os.pathsep}{os.environ.get('PATH', '')}"
    known = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
    kept = {"PYTHONPYCACHEPREFIX": str(ROOT / "var" / "bytecode")}
    return {**known, **kept, "PATH": bin_dir, "PYTHONUNBUFFERED": "1", **more}
