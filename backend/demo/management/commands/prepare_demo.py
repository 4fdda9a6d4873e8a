"""`manage.py prepare_demo`: everything that the demo's database needs before it is served, in one
process: starting one is most of the work where nothing is to be done."""

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser


class Command(BaseCommand):
    help = "Bring the tables up to date and load the demo, and its past, where they are not there yet."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--without-past", action="store_true", help="nobody has called yet")
        parser.add_argument("--weeks-later", action="store_true", help="today alone; load_weeks follows")

    def handle(self, *args: Any, **options: Any) -> None:
        call_command("migrate", verbosity=0)
        call_command("load_demo")
        if not options["without_past"]:
            call_command("load_past", weeks_later=options["weeks_later"])
