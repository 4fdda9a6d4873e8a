"""`manage.py figures`: the rows of the past, made anew from the journal, or held against it."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction

from reports import growing


class Command(BaseCommand):
    help = "Count everything anew (--rebuild), and say whether that differs from before (--check)."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--rebuild", action="store_true", help="count everything anew")
        parser.add_argument("--check", action="store_true", help="compare with what stands")

    def handle(self, *args: Any, **options: Any) -> None:
        if not (options["rebuild"] or options["check"]):
            raise CommandError("Say --rebuild, --check, or both.")
        site = settings.EXCHANGE_SITE
        with transaction.atomic():
            self._catch_up(site)
            growing.counted(site)
            before = growing.everything(site) if options["check"] else None
            for number in growing.rebuild(site):
                self.stderr.write(f"\rcounted to event {number:,}  ", ending="")
            differing = growing.differences(before, growing.everything(site)) if before else []
            if not options["rebuild"]:
                transaction.set_rollback(True)
        self.stderr.write("")
        for words in differing[:20]:
            self.stdout.write(words)
        if differing:
            raise CommandError(f"{len(differing)} rows differ from the journal.")
        self.stdout.write("Everything is as the journal says." if options["check"] else "Counted.")

    def _catch_up(self, site: str) -> None:
        while growing.catch_up(site):
            pass
