"""Real processes of the application, on the tests' database."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import time
from collections.abc import Callable
from typing import Any

from django.conf import settings
from django.db import connection


def until(check: Callable[[], Any], seconds: float = 15.0) -> Any:
    """The first true answer of `check`; fails after `seconds`."""
    deadline = time.monotonic() + seconds
    while True:
        answer = check()
        if answer:
            return answer
        if time.monotonic() > deadline:
            raise AssertionError(f"not within {seconds} s: {check}")
        time.sleep(0.05)


def _environment() -> dict[str, str]:
    d = connection.settings_dict
    url = f"postgres://{d['USER']}:{d['PASSWORD']}@{d['HOST']}:{d['PORT']}/{d['NAME']}"
    return {**os.environ, "HAZERIDGE_DATABASE_URL": url, "PYTHONUNBUFFERED": "1"}


def start(*words: str) -> subprocess.Popen[str]:
    """A process of the application; its words can be read from `stdout`."""
    return subprocess.Popen(  # noqa: S603  our own code, with words of the tests
        [sys.executable, *words],
        cwd=settings.BACKEND,
        env=_environment(),
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
    )


def start_exchange() -> subprocess.Popen[str]:
    """An exchange that runs; it waits for the lease of a killed one to run out."""
    process = start("manage.py", "exchange")
    assert process.stdout is not None
    heard = []
    for line in process.stdout:
        heard.append(line)
        if "runs revision" in line:
            return process
    raise AssertionError("the exchange ended: " + "".join(heard))


def start_web(port: int = 0) -> tuple[subprocess.Popen[str], str]:
    """A web server, and its address; at any free port unless one is named."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = port or probe.getsockname()[1]
    words = ("-m", "uvicorn", "hazeridge.asgi:application", "--port", str(port))
    process = start(*words, "--log-level", "warning")

    def answers() -> bool:
        with socket.socket() as caller:
            return caller.connect_ex(("127.0.0.1", port)) == 0

    until(answers)
    return process, f"http://127.0.0.1:{port}"


def stop(*processes: subprocess.Popen[str]) -> None:
    """End processes that this test started."""
    for process in processes:
        process.terminate()
        try:
            process.wait(10)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()
        if process.stdout is not None:
            process.stdout.close()
