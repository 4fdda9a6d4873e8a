"""./run and its words."""

from __future__ import annotations

import argparse
import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

from launch import build, lock, machine
from launch.checks import PARTS, bench, check, verify
from launch.processes import Processes, end_group, serving_at, stop_left_over
from launch.say import ROOT, Failed, say
from launch.servers import Servers

#: Where the demo is, unless that is taken or another port is asked for: a tab outlives a restart.
PORT = 8460
#: After so long another hour may be shown.
LONG_AWAY_S = 3600.0
_RUNS = "./run has the demo of this folder already ({who})"


def main(words: list[str]) -> int:
    """Do what was asked; errors come in words."""
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    asked = _parser().parse_args(["--help"] if words in ([], ["help"]) else words)
    try:
        return asked.do(asked) or 0
    except Failed as error:
        print(f"\n{error}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130


def _parser() -> argparse.ArgumentParser:
    whole = argparse.ArgumentParser(prog="./run", description="Everything that is done with Hazeridge.")
    commands = whole.add_subparsers(title="commands", required=True, metavar="command")

    def command(name: str, do: Callable[[argparse.Namespace], object], about: str) -> argparse.ArgumentParser:
        added = commands.add_parser(name, help=about, description=about)
        added.set_defaults(do=do)
        return added

    served = (
        command("demo", demo, "install what is missing, start everything, load the demo once, and serve it"),
        command("dev", dev, "the same, with the front end served by Vite and reloading"),
    )
    for one in served:
        one.add_argument("--port", type=_port, help=f"where it is served; {PORT}, or the next free one")
    served[0].add_argument("--fresh", action="store_true", help="start over with a new database")
    command("stop", stop, "stop a demo that runs elsewhere, or what a crash left behind")
    tests = command("test", check, "everything that checks the project")
    tests.add_argument(
        "parts",
        nargs="*",
        metavar="part",
        help=f"some of: {' '.join(PARTS)}; after api or browser names, such as flows.tests.Publishing",
    )
    tests.add_argument("-k", dest="like", action="append", default=[], help="tests whose name holds this")
    tests.add_argument(
        "--at", metavar="DATE", help="as if it were this moment (YYYY-MM-DD[THH:MM], UTC): api and browser"
    )
    checks = command(
        "verify",
        verify,
        "what is too slow for every day: the tests at odd moments, the API attacked as each role",
    )
    checks.add_argument("parts", nargs="*", metavar="part", help="some of: moments api-attack client theory")
    speed = command("bench", bench, "speed, as figures and ratios")
    speed.add_argument("words", nargs="*")
    for name, about in {
        "load": "200 contacts a second for a minute: whether all is written, and how late",
        "boards": "fifty boards at once on a floor of 500: how soon a change is on all of them",
        "faults": "kill -9 of each process and server in turn: what is still there afterwards",
    }.items():
        command(name, lambda asked, name=name: _tried(name, asked.words), about).add_argument(
            "words", nargs="*"
        )
    # Options of these are their own, --help too: nothing here looks like one.
    broken = commands.add_parser(
        "mutants",
        help="break the core in many small ways: whether its tests notice",
        prefix_chars="+",
        add_help=False,
    )
    broken.set_defaults(do=mutants)
    broken.add_argument("words", nargs="*")
    days = commands.add_parser(
        "simulate",
        help="days of the running demo's set-up with made-up people",
        prefix_chars="+",
        add_help=False,
    )
    days.set_defaults(do=simulate)
    days.add_argument("words", nargs="*")
    pictures = command("shots", shots, "the pictures of docs/screenshots, made again from the demo")
    pictures.add_argument("words", nargs="*", metavar="picture")
    return whole


def _port(text: str) -> int:
    if not text.isdecimal() or not 1024 <= int(text) <= 65535:
        raise argparse.ArgumentTypeError("a port from 1024 to 65535 is needed")
    return int(text)


def prepare() -> None:
    """Everything that must be there before anything can start."""
    machine.need_python_and_node()
    machine.need(machine.SERVING)
    # Both mostly wait for the network.
    with ThreadPoolExecutor(1) as beside:
        pages = beside.submit(build.front_end)
        build.python_packages()
        pages.result()


def demo(asked: argparse.Namespace) -> None:
    """Serve the demo until interrupted."""
    try:
        with lock.held("demo", _RUNS + "."):
            prepare()
            with_processes(Servers("demo"), asked.fresh, Processes.watch, asked.port, at_once=True)
    except lock.Busy as busy:
        _say_what_runs(busy, fresh=asked.fresh)


def _say_what_runs(busy: Failed, *, fresh: bool) -> None:
    """A demo that serves is what was asked for; anything else is refused in words."""
    address = serving_at(Servers("demo"))
    if address is None:
        raise Failed(f"{busy} It is starting or stopping: wait for it, or end it with ./run stop.")
    if fresh:
        raise Failed(f"The demo runs at {address}. Nothing was wiped: end it with ./run stop first.")
    say(f"the demo runs already: {address}  (./run stop ends it)")


def with_processes(
    servers: Servers,
    fresh: bool,
    use: Callable[[Processes], object],
    port: int | None = None,
    *,
    fixed: bool = True,
    lived: bool = True,
    at_once: bool = False,
) -> None:
    """Start everything, hand it to `use`, and stop everything whatever happens.

    Args:
        lived: with four weeks and today behind it; otherwise nobody has called yet.
        at_once: people work already while the four weeks are written.
    """
    stop_left_over(servers)
    if fresh:
        say("starting over")
        servers.wipe()
    processes = None
    try:
        servers.start()
        processes = Processes(servers)
        _prepare_database(
            servers, processes, "--without-past" if not lived else "--weeks-later" if at_once else ""
        )
        say("starting exchange, worker and web server")
        processes.start(port, PORT if fixed else 0)
        _greet(processes)
        if at_once and servers.notes.get("weeks") != servers.made_at():
            processes.write_weeks()
        use(processes)
    except KeyboardInterrupt:
        pass
    finally:
        say("stopping")
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        if processes is not None:
            processes.stop()
        servers.stop()
        servers.remember(pids={}, port=None)


def _prepare_database(servers: Servers, processes: Processes, how: str) -> None:
    """Tables and demo; looked after only where code or database are other than they were then. Where
    they lay for long, it may be another time of the day (see `load_past`)."""
    mark = f"{build.back_end_digest()} {servers.made_at()} {how}"
    if servers.notes.get("prepared") == mark:
        if how != "--without-past" and processes.away_s() > LONG_AWAY_S:
            say("looking what time it is at the demo")
            processes.manage("load_past")
        return
    say("bringing the database up to date")
    processes.manage("prepare_demo", *filter(None, [how]))
    servers.remember(prepared=mark)


def _greet(processes: Processes) -> None:
    say("ready")
    print(
        f"""
  Hazeridge is at  {processes.address}

  sign in as       tamsin   administrator      nerys, kofi, aoife   agents
                   deepa    supervisor         guest                read only
  password         ferry-demo (for each of them)

  Ctrl+C stops everything.
""",
        flush=True,
    )


def dev(asked: argparse.Namespace) -> None:
    """The demo, with Vite in front."""
    with lock.held("demo", _RUNS + ": end it with ./run stop first."):
        prepare()
        build.node_packages()

        def use(processes: Processes) -> None:
            vite = subprocess.Popen(
                [build.FRONTEND / "node_modules" / ".bin" / "vite", "--host", "127.0.0.1"],
                cwd=build.FRONTEND,
                start_new_session=True,
                env=build.environment(HAZERIDGE_BACKEND=processes.address),
            )
            try:
                processes.watch()
            finally:
                end_group(vite)

        with_processes(Servers("demo"), False, use, asked.port)


def simulate(asked: argparse.Namespace) -> int:
    """Simulate the set-up that the running demo has in force; into its history while it is
    stopped."""
    servers = Servers("demo")
    if "--into-history" in asked.words:
        return _into_history(servers, asked.words)
    if serving_at(servers) is None:
        raise Failed("The set-up that is simulated is the running demo's: start it with ./run demo.")
    return _manage(servers, ["simulate", *asked.words])


def _into_history(servers: Servers, words: list[str]) -> int:
    with lock.held("demo", _RUNS + ": end it with ./run stop first."):
        prepare()
        stop_left_over(servers)
        try:
            servers.start()
            processes = Processes(servers)
            processes.manage("migrate", "-v", "0")
            processes.manage("load_demo")
            return _manage(servers, ["simulate", *words])
        finally:
            servers.stop()


def _manage(servers: Servers, words: list[str]) -> int:
    command = [str(build.PYTHON), "manage.py", *words]
    with subprocess.Popen(command, cwd=build.BACKEND, env=build.environment(**servers.settings())) as child:
        while True:
            try:
                return child.wait()
            except KeyboardInterrupt:
                # It was told as well, and takes out what it has begun.
                continue


def mutants(asked: argparse.Namespace) -> None:
    """Whether the core's tests notice a broken core."""
    build.python_packages()
    if subprocess.run([str(build.PYTHON), str(ROOT / "tools" / "mutants.py"), *asked.words]).returncode:
        raise Failed("The mutants were not tried; why stands above.")


def shots(asked: argparse.Namespace) -> None:
    """Make docs/screenshots again, on a demo of its own."""
    machine.need(machine.TESTING)

    def use(processes: Processes) -> None:
        command = [str(build.PYTHON), str(ROOT / "tools" / "shots.py"), processes.address, *asked.words]
        if subprocess.run(command, env=build.environment()).returncode:
            raise Failed("The pictures were not all made; the words are above.")

    _alone("shots", use, lived=True)


def _tried(name: str, words: list[str]) -> None:
    if name == "boards":
        # One of them is a real browser.
        machine.need(machine.TESTING)

    def use(processes: Processes) -> None:
        threading.Thread(target=processes.watch, daemon=True).start()
        command = [str(build.PYTHON), "-m", f"bench.{name}", *words]
        more = {**processes.servers.settings(), "HAZERIDGE_NOTES": str(processes.servers.notes_file)}
        if subprocess.run(command, cwd=build.BACKEND, env=build.environment(**more)).returncode:
            raise Failed("Something was lost or late; the words are above.")

    _alone(name, use)


def _alone(name: str, use: Callable[[Processes], object], *, lived: bool = False) -> None:
    """On a centre of its own, new each time, on any free port."""
    with lock.held(name, f"./run {name} is at work already ({{who}}); let it end first."):
        prepare()
        with_processes(Servers(name), True, use, fixed=False, lived=lived)


def stop(asked: argparse.Namespace) -> None:
    """Stop what runs in another terminal, or its leftovers."""
    del asked
    for use in ("demo", "shots", "load", "boards", "faults"):
        _end_holder(use)
        with lock.held(use, f"./run {use} ({{who}}) does not end; kill it, then try again."):
            servers = Servers(use)
            stop_left_over(servers)
            servers.stop()
            servers.remember(pids={}, port=None)
    say("stopped")


def _end_holder(use: str) -> None:
    number = lock.holding_process(use)
    if number <= 0 or number == os.getpid():
        return
    say(f"ending ./run {use} (process {number})")
    os.kill(number, signal.SIGTERM)
    for _ in range(300):
        if not lock.holding_process(use):
            return
        time.sleep(0.1)
