"""Web, exchange and worker: started, watched, started again when one dies, stopped in order."""

from __future__ import annotations

import contextlib
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
from launch.servers import Servers, answers, free_port, stop_process
from launch.waiting import wait_until

MOST_RESTARTS = 5
#: An exchange whose rounds stand still for so long is started anew, alive or not.
STILL_S = 20.0
#: Writes the demo's four weeks, and ends.
_WEEKS = "weeks"


class Processes:
    """The application's own processes of one use."""

    def __init__(self, servers: Servers, **more: str) -> None:
        self.servers = servers
        self.port = 0
        self._beat = servers.folder / "exchange.beat"
        self._environment = environment(**servers.settings(), HAZERIDGE_BEAT_FILE=str(self._beat), **more)
        self._running: dict[str, subprocess.Popen[bytes]] = {}
        #: Where in its log begins what each process of this start says.
        self._says_from: dict[str, int] = {}
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

    def away_s(self) -> float:
        """For how long the exchange has not run, in seconds; for ever where it never did."""
        return time.time() - self._beat.stat().st_mtime if self._beat.exists() else float("inf")

    def start(self, port: int | None = None, usual: int = 0) -> None:
        """Start all three and wait until people can work. The worker begins last: what it does can wait.

        Args:
            port: where to serve, and nowhere else; without one at `usual`, or the next free one.
        """
        self.port = _serving_port(port, usual)
        for name in ("exchange", "web"):
            self._start(name)
        for name, serves in (("web", lambda: answers(self.port)), ("exchange", self._exchange_runs)):
            wait_until(f"the {name} process", serves, self._running[name], self._log(name))
        self._start("worker")

    def write_weeks(self) -> None:
        """Have the four weeks before today written, when nobody else needs the machine."""
        say("people can work; the four weeks before today are being written meanwhile")
        self._start(_WEEKS)

    def _look_at_weeks(self) -> None:
        """What ends once is done or has failed; either way it is over."""
        process = self._running.get(_WEEKS)
        if process is None or process.poll() is None:
            return
        del self._running[_WEEKS]
        # What was killed leaves its own processes behind.
        end_group(process)
        if process.returncode:
            log = os.path.relpath(self._log(_WEEKS), ROOT)
            say(f"the four weeks before today are not whole; why stands in {log}")
            return
        self.servers.remember(weeks=self.servers.made_at())
        say("the four weeks before today are done")

    def _command(self, name: str) -> list[str]:
        python = str(PYTHON)
        if name == _WEEKS:
            return ["nice", "-n", "19", python, "manage.py", "load_weeks"]
        if name == "exchange":
            return [python, "manage.py", "exchange"]
        if name == "worker":
            return [
                python,
                "-m",
                "celery",
                "-A",
                "hazeridge",
                "worker",
                "-l",
                "warning",
                "-c",
                "1",
                "-B",
                "-s",
                str(self.servers.folder / "schedule"),
            ]
        return [
            python,
            "-m",
            "uvicorn",
            "hazeridge.asgi:application",
            "--host",
            "127.0.0.1",
            "--port",
            str(self.port),
            "--log-level",
            "warning",
            # Who asks is who connects: what a request says of itself counts from named proxies only.
            *_proxies(),
        ]

    def _log(self, name: str) -> Path:
        return self.servers.folder / f"{name}.log"

    def _start(self, name: str) -> None:
        with self._log(name).open("ab") as out:
            self._says_from[name] = out.tell()
            process = subprocess.Popen(
                self._command(name),
                cwd=BACKEND,
                env=self._environment,
                stdout=out,
                stderr=subprocess.STDOUT,
                start_new_session=True,
            )
        self._running[name] = process
        if name == "exchange":
            self._beat.touch()
        pids = {n: p.pid for n, p in self._running.items()}
        self.servers.remember(pids=pids, port=self.port)

    def _exchange_runs(self) -> bool:
        """Whether the exchange owns the site; a lease of a crashed one runs out first."""
        said = self._log("exchange").read_bytes()[self._says_from["exchange"] :]
        return b"runs revision" in said

    def watch(self) -> None:
        """Keep them running until interrupted."""
        while not self._stopping:
            time.sleep(0.5)
            if self._stopping:
                return
            self.servers.revive()
            self._end_what_stands_still()
            self._look_at_weeks()
            for name, process in list(self._running.items()):
                if name != _WEEKS and process.poll() is not None:
                    self._again(name, process.returncode)

    def _end_what_stands_still(self) -> None:
        """A process that lives and works no more is as dead as any: it is killed, and started anew."""
        still_s = self.away_s()
        exchange = self._running.get("exchange")
        if still_s > STILL_S and exchange is not None and exchange.poll() is None:
            say(f"the exchange has done nothing for {still_s:.0f} s; ending it")
            end_group(exchange, signal.SIGKILL)

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
        for name in (_WEEKS, "web", "worker", "exchange"):
            process = self._running.pop(name, None)
            if process is None or process.poll() is not None:
                continue
            end_group(process)


def end_group(process: subprocess.Popen[bytes], how: int = signal.SIGTERM) -> None:
    """End a process and all that it started; each has a group of its own."""
    with contextlib.suppress(ProcessLookupError):
        process.send_signal(how)
    with contextlib.suppress(subprocess.TimeoutExpired):
        process.wait(10)
    with contextlib.suppress(ProcessLookupError):
        os.killpg(process.pid, signal.SIGKILL)
    process.wait()


def _proxies() -> list[str]:
    named = os.environ.get("HAZERIDGE_PROXIES", "")
    return ["--proxy-headers", "--forwarded-allow-ips", named] if named else ["--no-proxy-headers"]


def _serving_port(asked: int | None, usual: int) -> int:
    """Where to serve; a port that is taken is said."""
    if asked is not None:
        if answers(asked):
            raise Failed(f"Port {asked} is taken by something else; choose another with --port.")
        return asked
    if not usual:
        return free_port()
    for port in range(usual, usual + 20):
        if not answers(port):
            if port != usual:
                say(f"port {usual} is taken by something else; serving at {port}")
            return port
    return free_port()


def stop_left_over(servers: Servers) -> None:
    """End what an earlier run left behind."""
    pids = servers.notes.get("pids")
    for pid in (pids or {}).values():  # type: ignore[attr-defined]
        stop_process(pid, str(PYTHON))


def serving_at(servers: Servers) -> str | None:
    """The address of a demo that runs already."""
    port = servers.notes.get("port")
    if not port:
        return None
    address = f"http://127.0.0.1:{port}"
    try:
        with urllib.request.urlopen(f"{address}/api/v1/session", timeout=2) as answer:
            json.load(answer)
    except (OSError, urllib.error.URLError, ValueError):
        return None
    return address
