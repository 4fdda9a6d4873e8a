"""The whole application, really running, with the demo in the tests' database."""

from __future__ import annotations

from io import StringIO

from django.core.management import call_command
from django.test import SimpleTestCase

from browser_tests.person import Person
from exchange.services import settle_stand_ins
from testkit import processes


class ServedTestCase(SimpleTestCase):
    """Starts web and exchange once a class; each test brings its own people."""

    databases = {"default"}

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        call_command("flush", interactive=False, verbosity=0)
        call_command("load_demo", stdout=StringIO())
        settle_stand_ins(on=False, agents=0)
        cls.exchange = processes.start_exchange()
        cls.web, cls.address = processes.start_web()

    @classmethod
    def tearDownClass(cls) -> None:
        processes.stop(cls.web, cls.exchange)
        call_command("flush", interactive=False, verbosity=0)
        super().tearDownClass()

    def person(self, name: str | None = None) -> Person:
        """Somebody with a browser of their own, signed in where a name is given."""
        person = Person(self.address)
        self.addCleanup(person.leave)
        if name:
            person.sign_in(name)
        return person
