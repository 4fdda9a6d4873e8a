"""Lookup tables."""

from functools import partial

from django.apps import AppConfig


class LookupsConfig(AppConfig):
    name = "lookups"

    def ready(self) -> None:
        from accounts.things import ThingRule
        from accounts.things import register as say
        from callcore.lookups.table import THINGS
        from changelog.kinds import RecordedKind, never, register, register_use, when
        from lookups import models, services

        # Rows are asked for when a contact needs one: only what columns there are is checked ahead.
        table = RecordedKind(
            "table", models.Table, "Lookup table", "/guide/lookups", runs=when("name", "columns")
        )
        register(table)
        register(RecordedKind("table_row", models.Row, "Row of a lookup table", "/guide/lookups", runs=never))
        register_use("table", services.rows_in)
        for kind in THINGS:
            register_use(kind, partial(services.naming, kind))
        say(models.Table, ThingRule())
        say(models.Row, ThingRule())
