"""The start command: one at a time, in words, and patient with what gets on."""

import contextlib
import io
import os
import socket
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

from launch import build, interpreter, lock, machine, main, moments, parts, processes, waiting
from launch.checks import _wanted
from launch.say import Failed
from launch.servers import Servers


def is_gone(pid):
    """Whether a process has ended, after a moment."""
    time.sleep(0.05)
    try:
        return " Z " in Path(f"/proc/{pid}/stat").read_text()
    except OSError:
        return True


class OwnFolder(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        for module in ("launch.lock", "launch.servers"):
            changed = mock.patch(f"{module}.VAR", self.folder)
            changed.start()
            self.addCleanup(changed.stop)

    def run_it(self, *words):
        """What ./run answers, and what it says."""
        said = io.StringIO()
        with contextlib.redirect_stdout(said), contextlib.redirect_stderr(said):
            try:
                code = main.main(list(words))
            except SystemExit as end:
                code = end.code or 0
        return code, said.getvalue()


class InterpreterTests(OwnFolder):
    def stand_in(self, answers):
        path = self.folder / "python3"
        path.write_text(f"#!/bin/sh\n{answers}\n")
        path.chmod(0o755)
        return path

    def test_debians_python_is_used_unless_it_is_older_or_cannot_make_environments(self):
        def chosen(answers):
            return interpreter.choose(self.stand_in(answers)).path

        debians = str(self.folder / "python3")
        major, minor = sys.version_info[:2]
        self.assertEqual(chosen(f"echo '[{major}, {minor}, 99]'"), debians)
        self.assertEqual(chosen("echo '[3, 99, 0]'"), debians)
        for answers in ("echo '[3, 10, 12]'", "echo 'no module named ensurepip' >&2; exit 1", "echo what"):
            self.assertEqual(chosen(answers), sys.executable, answers)
        self.assertEqual(interpreter.choose(self.folder / "none").path, sys.executable)

    def test_what_makes_environments_is_installed_where_no_python_can(self):
        python = self.stand_in("exit 1")
        first, then = interpreter.Interpreter(str(python), (3, 11, 2)), interpreter.choose()
        with (
            mock.patch("launch.build.VENV", self.folder),
            mock.patch("launch.build.quiet") as made,
            mock.patch("launch.machine.install") as installed,
            mock.patch("launch.interpreter.choose", return_value=then),
            contextlib.redirect_stdout(io.StringIO()),
        ):
            self.assertEqual(build._make_environment(first), then)
            installed.assert_called_once_with([machine.ENVIRONMENTS])
            self.assertEqual(made.call_args.args[1][0], then.path)
            build._make_environment(then)
            installed.assert_called_once()


class LockTests(OwnFolder):
    def test_a_second_one_is_refused_in_words_and_does_nothing(self):
        prepare = mock.patch("launch.main.prepare", side_effect=AssertionError("it began"))
        with lock.held("demo", "{who}"), prepare:
            for words in (["demo"], ["dev"], ["demo", "--fresh"]):
                code, said = self.run_it(*words)
                self.assertEqual(code, 1)
                self.assertIn("already (process", said)
                self.assertIn("./run stop", said)

    def test_a_demo_that_serves_is_named_and_is_not_wiped(self):
        with (
            lock.held("demo", "{who}"),
            mock.patch("launch.main.serving_at", return_value="http://127.0.0.1:1"),
        ):
            code, said = self.run_it("demo")
            self.assertEqual(code, 0)
            self.assertIn("http://127.0.0.1:1", said)
            code, said = self.run_it("demo", "--fresh")
            self.assertEqual(code, 1)
            self.assertIn("Nothing was wiped", said)

    def test_the_lock_goes_with_its_process(self):
        holds = (
            "import time; from launch import lock; from pathlib import Path; lock.VAR = Path({!r})\n"
            "with lock.held('demo', ''): print('held', flush=True); time.sleep(60)"
        )
        process = subprocess.Popen(
            [sys.executable, "-c", holds.format(str(self.folder))],
            stdout=subprocess.PIPE,
            cwd=Path(__file__).parents[1],
        )
        self.addCleanup(process.stdout.close)
        process.stdout.readline()
        self.assertEqual(lock.holding_process("demo"), process.pid)
        process.kill()
        process.wait()
        self.assertEqual(lock.holding_process("demo"), 0)
        with lock.held("demo", ""):
            pass


class WordsTests(OwnFolder):
    def test_help_everywhere_does_nothing_else(self):
        with mock.patch("launch.main._end_holder", side_effect=AssertionError("it stopped")):
            for name in ("demo", "dev", "stop", "test", "verify", "bench", "shots", "load", "faults"):
                code, said = self.run_it(name, "--help")
                self.assertEqual(code, 0, name)
                self.assertIn(f"./run {name}", said)

    def test_what_is_not_known_is_refused(self):
        for words in (["demo", "--frsh"], ["dmo"], ["demo", "--port", "80"], ["demo", "--port", "x"]):
            self.assertEqual(self.run_it(*words)[0], 2, words)
        with self.assertRaisesRegex(Failed, "knows no brwser"):
            _wanted(["brwser"])

    def test_tests_are_named_after_their_part(self):
        wanted = _wanted(["api", "flows.tests.Publishing", "browser"])
        self.assertEqual(wanted, [("api", ["flows.tests.Publishing"]), ("browser", [])])

    def test_a_moment_is_read_or_refused(self):
        self.assertEqual(moments.read("2028-02-29").words, ", at 2028-02-29 00:00 UTC")
        with self.assertRaisesRegex(Failed, "no moment"):
            moments.read("2027-02-29")


class PartsTests(OwnFolder):
    def test_one_that_fails_stops_no_other_and_its_words_are_shown(self):
        ran = []

        def good(asked, labels):
            ran.append("good")
            asked.step("good", [sys.executable, "-c", "print('all is well')"], self.folder)

        def bad(asked, labels):
            ran.append("bad")
            asked.step("bad", [sys.executable, "-c", "raise SystemExit('the reason')"], self.folder)

        changed = {"PARTS": {"core": bad, "types": good}, "LEFT": self.folder, "_LANES": (("core", "types"),)}
        said = io.StringIO()
        with (
            contextlib.redirect_stdout(said),
            mock.patch.multiple("launch.parts", **changed),
            mock.patch("launch.build.node_packages"),
            self.assertRaisesRegex(Failed, "^bad failed; its words are above.$"),
        ):
            parts.run([("core", []), ("types", [])], parts.Asked())
        self.assertEqual(ran, ["bad", "good"])
        for words in ("the reason", "all is well", "core: not good", "types: good"):
            self.assertIn(words, said.getvalue())
        self.assertRegex(said.getvalue(), r"core \d+ s, types \d+ s|types \d+ s, core \d+ s")

    def test_what_a_part_leaves_running_ends_with_it(self):
        leaves = "import subprocess, sys; print(subprocess.Popen(['sleep', '60']).pid); sys.exit(1)"
        log = self.folder / "left.log"
        with log.open("wb") as out, self.assertRaises(Failed):
            parts.Asked(out=out).step("part", [sys.executable, "-c", leaves], self.folder)
        left = int(next(line for line in log.read_text().split() if line.isdecimal()))
        self.assertTrue(any(map(is_gone, [left] * 50)), "what it started lives on")


class PortTests(unittest.TestCase):
    def test_the_usual_port_or_the_next_free_one_but_the_one_asked_for_or_none(self):
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            usual = taken.getsockname()[1]
            said = io.StringIO()
            with contextlib.redirect_stdout(said):
                self.assertGreater(processes._serving_port(None, usual), usual)
            self.assertIn("taken", said.getvalue())
            with self.assertRaisesRegex(Failed, "taken"):
                processes._serving_port(usual, usual)
        self.assertEqual(processes._serving_port(None, usual), usual)


class StandstillTests(OwnFolder):
    def test_an_exchange_that_lives_and_does_nothing_is_ended_with_all_it_started(self):
        begun = Servers("demo")
        begun.remember(pg_port=1, redis_port=1)
        watched = processes.Processes(begun)
        child = (
            "import subprocess, time; c = subprocess.Popen(['sleep', '60']); "
            "print(c.pid, flush=True); time.sleep(60)"
        )
        for still, ends in ((False, False), (True, True)):
            exchange = subprocess.Popen(
                [sys.executable, "-c", child], stdout=subprocess.PIPE, start_new_session=True
            )
            started = int(exchange.stdout.readline())
            exchange.stdout.close()
            self.addCleanup(processes.end_group, exchange)
            watched._running["exchange"] = exchange
            watched._beat.touch()
            if still:
                os.utime(watched._beat, (1, 1))
            with contextlib.redirect_stdout(io.StringIO()):
                watched._end_what_stands_still()
            self.assertEqual(exchange.poll() is not None, ends)
            if ends:
                self.assertTrue(any(map(is_gone, [started] * 50)), "what it started lives on")

    def test_an_exchange_runs_once_it_has_said_so_in_this_start(self):
        begun = Servers("demo")
        begun.remember(pg_port=1, redis_port=1)
        started = processes.Processes(begun)
        started._log("exchange").write_text("exchange of site main runs revision 4\n")
        words = iter(("import os", "print('exchange of site main runs revision 5')"))
        started._command = lambda _name: [sys.executable, "-c", next(words)]
        for runs in (False, True):
            started._start("exchange")
            started._running["exchange"].wait()
            self.assertEqual(started._exchange_runs(), runs)

    def test_only_proxies_that_are_named_say_who_asks(self):
        begun = Servers("demo")
        begun.remember(pg_port=1, redis_port=1)
        for named, expected in (("", "--no-proxy-headers"), ("10.0.0.2", "10.0.0.2")):
            with mock.patch.dict("os.environ", {"HAZERIDGE_PROXIES": named}):
                self.assertEqual(processes.Processes(begun)._command("web")[-1], expected)


class NotesTests(OwnFolder):
    def test_notes_that_could_not_be_written_are_those_from_before(self):
        begun = Servers("demo")
        begun.remember(pg_port=1, weeks=4)
        with mock.patch.object(Path, "write_text", side_effect=OSError), self.assertRaises(OSError):
            begun.remember(weeks=5)
        self.assertEqual(Servers("demo").notes["weeks"], 4)
        begun.remember(weeks=6)
        self.assertEqual((Servers("demo").notes["weeks"], Servers("demo").notes["pg_port"]), (6, 1))
        self.assertEqual(begun.notes_file.stat().st_mode & 0o777, 0o600)


class PreparingTests(OwnFolder):
    def setUp(self):
        super().setUp()
        self.begun = Servers("demo")
        self.begun.remember(pg_port=1, redis_port=1)
        self.begun.made_at = lambda: 5
        self.processes = processes.Processes(self.begun)
        self.processes.away_s = lambda: 5.0

    def test_where_it_lay_for_long_the_time_is_looked_at(self):
        done = []
        self.processes.manage = lambda *words: done.append(words[0])
        long_s = 2 * main.LONG_AWAY_S
        with contextlib.redirect_stdout(io.StringIO()):
            for away_s, how in ((5.0, ""), (5.0, ""), (long_s, ""), (long_s, "--without-past")) * 2:
                self.processes.away_s = lambda away_s=away_s: away_s
                main._prepare_database(self.begun, self.processes, how)
        self.assertEqual(done[:3], ["prepare_demo", "load_past", "prepare_demo"])
        self.assertEqual(processes.Processes(self.begun).away_s(), float("inf"))

    def test_a_database_is_looked_after_once_and_anew_where_code_or_database_are_others(self):
        done = []
        self.processes.manage = lambda *words: done.append(words)
        with contextlib.redirect_stdout(io.StringIO()):
            for how, code, made in (
                ("", "a", 5),
                ("", "a", 5),
                ("", "b", 5),
                ("", "b", 6),
                ("--weeks-later", "b", 6),
            ):
                self.begun.made_at = lambda made=made: made
                with mock.patch("launch.build.back_end_digest", return_value=code):
                    main._prepare_database(self.begun, self.processes, how)
        self.assertEqual(done, [("prepare_demo",)] * 3 + [("prepare_demo", "--weeks-later")])

    def test_one_that_failed_is_looked_after_again(self):
        self.processes.manage = mock.Mock(side_effect=[Failed("no"), None])
        with contextlib.redirect_stdout(io.StringIO()):
            with self.assertRaises(Failed):
                main._prepare_database(self.begun, self.processes, "")
            main._prepare_database(self.begun, self.processes, "")
        self.assertEqual(self.processes.manage.call_count, 2)

    def test_the_weeks_are_remembered_once_they_are_whole(self):
        for code, remembered in (("raise SystemExit(3)", None), ("pass", 5)):
            process = subprocess.Popen([sys.executable, "-c", code])
            process.wait()
            self.processes._running["weeks"] = process
            with contextlib.redirect_stdout(said := io.StringIO()):
                self.processes._look_at_weeks()
            self.assertEqual(self.begun.notes.get("weeks"), remembered)
            self.assertIn("done" if remembered else "not whole", said.getvalue())
            self.assertNotIn("weeks", self.processes._running, "what ends once is not started anew")


class WaitingTests(unittest.TestCase):
    def started(self, code):
        process = subprocess.Popen([sys.executable, "-c", code])
        self.addCleanup(process.wait)
        self.addCleanup(process.kill)
        return process

    def test_what_works_is_waited_for_and_what_stands_still_is_not(self):
        log = Path("/nowhere/else.log")
        works = self.started("while True: pass")
        answers = iter([False] * 15 + [True])
        waiting.wait_until("it", lambda: next(answers), works, log, stuck_s=0.5)
        still = self.started("import time; time.sleep(60)")
        with self.assertRaisesRegex(Failed, "It does nothing"):
            waiting.wait_until("it", lambda: False, still, log, stuck_s=0.5)

    def test_what_ends_is_told_with_the_end_of_its_log(self):
        with tempfile.NamedTemporaryFile("w", suffix=".log") as log:
            log.write("first\nthe reason\n")
            log.flush()
            ended = self.started("raise SystemExit(3)")
            with self.assertRaisesRegex(Failed, "(?s)code 3.*the reason"):
                waiting.wait_until("it", lambda: False, ended, Path(log.name))


if __name__ == "__main__":
    unittest.main()
