"""The whole application, really running, with the demo in the tests' database."""

from __future__ import annotations

import shutil
import sys
from io import StringIO

from django.core.management import call_command
from django.db import connection
from django.test import SimpleTestCase

from accounts.models import User
from browser_tests.person import Person
from exchange.services import settle_stand_ins
from testkit import processes, runner
from testkit.kept_state import KeptState
from testkit.people import client_of

_demo = KeptState()
_web: list[tuple[processes.Process, str]] = []


@runner.before_copying.append
def _load_demo() -> None:
    call_command("load_demo", stdout=StringIO())
    settle_stand_ins(on=False, agents=0)
    _demo.make()


@runner.at_the_end.append
def _stop_web() -> None:
    while _web:
        processes.stop(_web.pop()[0])


def _served() -> str:
    """The one web server of all classes: what it knows stands in the database."""
    if not _web:
        _web.append(processes.start_web())
    return _web[0][1]


class ServedTestCase(SimpleTestCase):
    """Begins each class with the demo as it is loaded; each test brings its own people."""

    databases = {"default"}

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        _demo.bring_back()
        cls.address = _served()
        cls.exchange = processes.start_exchange()

    @classmethod
    def tearDownClass(cls) -> None:
        processes.stop(cls.exchange)
        # What the web server still holds open must not keep the tables from being emptied.
        connection.close()
        super().tearDownClass()

    def doCleanups(self) -> None:  # noqa: N802  the name that it has in unittest
        """Know before they leave whether what people saw is to be kept."""
        self._went_wrong = not self._outcome.success
        super().doCleanups()

    def _part_with(self, name: str, person: Person) -> None:
        """Of a test that failed, what its people saw and its servers said is kept."""
        if self._went_wrong:
            folder = processes.folder() / "failed" / self.id()
            folder.mkdir(parents=True, exist_ok=True)
            person.keep_what_is_seen(folder, name)
            for process in (self.exchange, *(web for web, _ in _web)):
                shutil.copy(process.log, folder)
            sys.stderr.write(f"\n{self.id()}: what {name} saw, and servers said: {folder}\n")
        person.leave()

    def stop_web(self) -> None:
        """The web server goes away."""
        processes.stop(_web.pop()[0])

    def start_web_again(self) -> None:
        """It comes back where it was."""
        _web.append(processes.start_web(int(self.address.rsplit(":", 1)[1])))

    def call(self, tamsin: Person, *keys: str) -> None:
        """A call to the main line that has come into a queue."""
        tamsin.go("/guide/flows")
        tamsin.click("Main line", "row")
        tamsin.click("Try a call")
        tamsin.choose("Number", "020 7946 0210")
        tamsin.click("Dial", exact=True)
        tamsin.sees("Hears “For bookings")
        for key in keys:
            tamsin.click(f"Press {key}")

    def person(self, name: str | None = None) -> Person:
        """Somebody with a browser of their own, signed in where a name is given."""
        person = Person(self.address)
        self.addCleanup(self._part_with, name or "somebody", person)
        if name:
            client = client_of(User.objects.get(username=name))
            person.come_in({name: held.value for name, held in client.cookies.items()})
        return person
