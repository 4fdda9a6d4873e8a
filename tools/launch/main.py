"""./run and its words."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
import time

from launch import build, machine
from launch.checks import bench, check
from launch.processes import Processes, already_serving, stop_left_over
from launch.say import ROOT, Failed, say
from launch.servers import Servers, stop_process

HELP = """\
./run demo            install what is missing, start everything, load the demo once, and serve it
./run demo --fresh    the same, starting over with a new database
./run stop            stop what ./run demo started
./run test            everything that checks the project; parts: lint types core api browser
./run bench           speed, as figures and ratios
./run load            200 contacts a second for a minute: whether all is written, and how late
./run faults          kill -9 of each process and server in turn: what is still there afterwards
./run shots           the pictures of docs/screenshots, made again from the demo
./run dev             like demo, with the front end served by Vite and reloading
"""


def main(words: list[str]) -> int:
    """Do what was asked; errors come in words."""
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    commands = {
        "demo": demo, "dev": dev, "stop": stop, "test": check, "bench": bench, "shots": shots,
        "load": load, "faults": faults,
    }  # fmt: skip
    command = commands.get(words[0]) if words else None
    if command is None:
        print(HELP)
        return 0 if not words or words[0] in ("help", "-h", "--help") else 2
    try:
        return command(words[1:]) or 0
    except Failed as error:
        print(f"\n{error}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130


def prepare() -> None:
    """Everything that must be there before anything can start."""
    machine.need_python_and_node()
    machine.need(machine.SERVING)
    build.python_packages()
    build.front_end()


def demo(words: list[str]) -> int:
    """Serve the demo until interrupted."""
    unknown = [word for word in words if word not in ("--fresh",)]
    if unknown:
        raise Failed(f"./run demo knows no {unknown[0]}; there is --fresh.")
    servers = Servers("demo")
    running = already_serving(servers)
    if running:
        say(f"the demo runs already: {running}  (./run stop ends it)")
        return 0
    prepare()
    with_processes(servers, "--fresh" in words, lambda processes: processes.watch())
    return 0


def with_processes(servers: Servers, fresh: bool, use: object) -> None:
    """Start everything, hand it to `use`, and stop everything whatever happens."""
    stop_left_over(servers)
    if fresh:
        say("starting over")
        servers.wipe()
    processes = None
    try:
        servers.start()
        processes = Processes(servers)
        say("bringing the database up to date")
        processes.manage("migrate", "-v", "0")
        processes.manage("load_demo")
        say("starting exchange, worker and web server")
        processes.start()
        _greet(processes)
        use(processes)  # type: ignore[operator]
    except KeyboardInterrupt:
        pass
    finally:
        say("stopping")
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        if processes is not None:
            processes.stop()
        servers.stop()
        servers.remember(runner=None)


def _greet(processes: Processes) -> None:
    say("ready")
    print(f"""
  Hazeridge is at  {processes.address}

  sign in as       tamsin   administrator      nerys, kofi, aoife   agents
                   deepa    supervisor         guest                read only
  password         ferry-demo (for each of them)

  Ctrl+C stops everything.
""", flush=True)


def dev(words: list[str]) -> int:
    """The demo, with Vite in front."""
    del words
    machine.need_python_and_node()
    machine.need(machine.SERVING)
    build.python_packages()
    build.node_packages()
    build.front_end()

    def use(processes: Processes) -> None:
        vite = subprocess.Popen(
            ["npx", "vite", "--host", "127.0.0.1"], cwd=build.FRONTEND,
            env=build.environment(HAZERIDGE_BACKEND=processes.address),
        )  # fmt: skip
        try:
            processes.watch()
        finally:
            vite.terminate()

    with_processes(Servers("demo"), False, use)
    return 0


def shots(words: list[str]) -> int:
    """Make docs/screenshots again, on a demo of its own."""
    machine.need(machine.TESTING)
    prepare()

    def use(processes: Processes) -> None:
        command = [str(build.PYTHON), str(ROOT / "tools" / "shots.py"), processes.address, *words]
        if subprocess.run(command, env=build.environment()).returncode:
            raise Failed("The pictures were not all made; the words are above.")

    with_processes(Servers("shots"), True, use)
    return 0


def load(words: list[str]) -> int:
    """A minute of 200 contacts a second, on a centre of its own."""
    return _tried("load", words)


def faults(words: list[str]) -> int:
    """Killing everything in turn, on a centre of its own."""
    return _tried("faults", words)


def _tried(name: str, words: list[str]) -> int:
    prepare()

    def use(processes: Processes) -> None:
        threading.Thread(target=processes.watch, daemon=True).start()
        command = [str(build.PYTHON), "-m", f"bench.{name}", *words]
        more = {**processes.servers.settings(), "HAZERIDGE_NOTES": str(processes.servers.notes_file)}
        if subprocess.run(command, cwd=build.BACKEND, env=build.environment(**more)).returncode:
            raise Failed("Something was lost or late; the words are above.")

    with_processes(Servers(name), True, use)
    return 0


def stop(words: list[str]) -> int:
    """Stop a demo that runs in another terminal, or its leftovers."""
    del words
    for use in ("demo", "shots", "load", "faults"):
        servers = Servers(use)
        runner = servers.notes.get("runner")
        if runner and runner != os.getpid():
            stop_process(runner, "run")
            time.sleep(0.2)
        stop_left_over(servers)
        servers.stop()
        servers.remember(runner=None)
    say("stopped")
    return 0
