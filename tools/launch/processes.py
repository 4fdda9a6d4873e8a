"""Web, exchange and worker: started, watched, started again when one dies, stopped in order."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import time
import urllib.error
import urllib.request
from pathlib import Path

from launch.build import BACKEND, PYTHON, environment
from launch.say import ROOT, Failed, say
from launch.servers import Servers, free_port, stop_process, wait_for

MOST_RESTARTS = 5


class Processes:
    """The application's own processes of one use."""

    def __init__(self, servers: Servers, **more: str) -> None:
        self.servers = servers
        self.port = 0
        self._environment = environment(**servers.settings(), **more)
        self._running: dict[str, subprocess.Popen[bytes]] = {}
        self._stopping = False
        self._restarts: dict[str, list[float]] = {}

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def manage(self, *words: str) -> None:
        """Run one of Django's commands to its end, in front of the person."""
        command = [str(PYTHON), "manage.py", *words]
        done = subprocess.run(command, cwd=BACKEND, env=self._environment)
        if done.returncode:
            raise Failed(f"manage.py {' '.join(words)} failed; its words are above.")

    def start(self, port: int | None = None) -> None:
        """Start all three and wait until they serve."""
        self.port = port or free_port()
        for name in ("exchange", "worker", "web"):
            self._start(name)
        log = self._log("web")
        wait_for(self.port, "The web server", log, self._running["web"])
        self._wait_for_exchange()

    def _command(self, name: str) -> list[str]:
        python = str(PYTHON)
        if name == "exchange":
            return [python, "manage.py", "exchange"]
        if name == "worker":
            return [python, "-m", "celery", "-A", "hazeridge", "worker", "-l", "warning", "-c", "1", "-B",
                    "-s", str(self.servers.folder / "schedule")]  # fmt: skip
        return [
            python, "-m", "uvicorn", "hazeridge.asgi:application", "--host", "127.0.0.1",
            "--port", str(self.port), "--log-level", "warning",
        ]  # fmt: skip

    def _log(self, name: str) -> Path:
        return self.servers.folder / f"{name}.log"

    def _start(self, name: str) -> None:
        with self._log(name).open("ab") as out:
            process = subprocess.Popen(
                self._command(name), cwd=BACKEND, env=self._environment, stdout=out,
                stderr=subprocess.STDOUT, start_new_session=True,
            )  # fmt: skip
        self._running[name] = process
        pids = {n: p.pid for n, p in self._running.items()}
        self.servers.remember(pids=pids, port=self.port, runner=os.getpid())

    def _wait_for_exchange(self) -> None:
        """Until the exchange owns the site; a lease of a crashed one runs out first."""
        for _ in range(150):
            if self._running["exchange"].poll() is not None:
                break
            text = self._log("exchange").read_text(errors="replace")
            if "runs revision" in text.rsplit("starting", 1)[-1]:
                return
            time.sleep(0.1)
        tail = "\n".join(self._log("exchange").read_text(errors="replace").splitlines()[-4:])
        where = self._log("exchange").relative_to(ROOT)
        raise Failed(f"The exchange did not start. The end of {where}:\n{tail}")

    def watch(self) -> None:
        """Keep them running until interrupted."""
        while not self._stopping:
            time.sleep(0.5)
            if self._stopping:
                return
            self.servers.revive()
            for name, process in list(self._running.items()):
                if process.poll() is not None:
                    self._again(name, process.returncode)

    def _again(self, name: str, code: int) -> None:
        recent = [t for t in self._restarts.get(name, []) if time.monotonic() - t < 60]
        where = self._log(name).relative_to(ROOT)
        if len(recent) >= MOST_RESTARTS:
            raise Failed(f"The {name} process keeps ending (code {code}). See {where}.")
        self._restarts[name] = [*recent, time.monotonic()]
        say(f"the {name} process ended (code {code}; see {where}); starting it again")
        self._start(name)

    def stop(self) -> None:
        """Stop them, the web server first."""
        self._stopping = True
        for name in ("web", "worker", "exchange"):
            process = self._running.pop(name, None)
            if process is None or process.poll() is not None:
                continue
            process.send_signal(signal.SIGTERM)
            try:
                process.wait(10)
            except subprocess.TimeoutExpired:
                process.kill()
                process.wait()


def stop_left_over(servers: Servers) -> None:
    """End what an earlier run left behind."""
    pids = servers.notes.get("pids")
    for pid in (pids or {}).values():  # type: ignore[attr-defined]
        stop_process(pid, str(PYTHON))


def already_serving(servers: Servers) -> str | None:
    """The address of a demo that runs already."""
    runner, port = servers.notes.get("runner"), servers.notes.get("port")
    try:
        words = Path(f"/proc/{runner}/cmdline").read_bytes()
        if b"run" not in words:
            return None
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/v1/session", timeout=2) as answer:
            json.load(answer)
    except (OSError, urllib.error.URLError, ValueError):
        return None
    return f"http://127.0.0.1:{port}"
