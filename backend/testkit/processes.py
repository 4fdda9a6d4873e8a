"""Real processes of the application, on the tests' database."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import connection


def until(check: Callable[[], Any], seconds: float = 30.0, pause_s: float = 0.05) -> Any:
    """The first true answer of `check`, asked with pauses between; fails after `seconds`."""
    deadline = time.monotonic() + seconds
    while True:
        answer = check()
        if answer:
            return answer
        if time.monotonic() > deadline:
            raise AssertionError(f"not within {seconds} s: {check}")
        time.sleep(pause_s)


def _environment() -> dict[str, str]:
    d = connection.settings_dict
    url = f"postgres://{d['USER']}:{d['PASSWORD']}@{d['HOST']}:{d['PORT']}/{d['NAME']}"
    return {**os.environ, "HAZERIDGE_DATABASE_URL": url, "PYTHONUNBUFFERED": "1"}


class Process(subprocess.Popen[str]):
    """A process of the application, and the file that it writes its words into."""

    log: Path

    @property
    def words(self) -> str:
        """What it has said so far."""
        return self.log.read_text(errors="replace")


def folder() -> Path:
    """Where tests leave what may be looked at afterwards."""
    return Path(os.environ.get("HAZERIDGE_TEST_FOLDER") or tempfile.gettempdir())


def start(*words: str) -> Process:
    """A process of the application."""
    with tempfile.NamedTemporaryFile(
        "w", prefix=f"{words[1]}-", suffix=".log", dir=folder(), delete=False
    ) as out:
        process = Process(
            [sys.executable, *words],
            cwd=settings.BACKEND,
            env=_environment(),
            stdout=out,
            stderr=subprocess.STDOUT,
            text=True,
        )
    process.log = Path(out.name)
    return process


#: A machine that is busy with other tests takes its time to start a process.
_LONGEST_START_S = 180


def _begun(process: Process, runs: Callable[[], bool]) -> Process:
    """A process that runs; one that does not is stopped, and its words tell why."""
    try:
        until(lambda: runs() or process.poll() is not None, _LONGEST_START_S)
        assert process.poll() is None, "it ended: " + process.words
    except AssertionError:
        stop(process)
        raise
    return process


def start_exchange() -> Process:
    """An exchange that runs; it waits for the lease of a killed one to run out."""
    process = start("manage.py", "exchange")
    return _begun(process, lambda: "runs revision" in process.words)


def start_web(port: int = 0) -> tuple[Process, str]:
    """A web server, and its address; at any free port unless one is named."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = port or probe.getsockname()[1]
    words = ("-m", "uvicorn", "hazeridge.asgi:application", "--port", str(port))
    process = start(*words, "--log-level", "warning")

    def answers() -> bool:
        with socket.socket() as caller:
            return caller.connect_ex(("127.0.0.1", port)) == 0

    return _begun(process, answers), f"http://127.0.0.1:{port}"


def stop(*processes: Process) -> None:
    """End processes that this test started."""
    for process in processes:
        process.terminate()
        try:
            process.wait(10)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()
