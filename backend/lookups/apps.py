"""Lookup tables."""

from django.apps import AppConfig


class LookupsConfig(AppConfig):
    name = "lookups"

    def ready(self) -> None:
        from changelog.kinds import Kind, register, register_use
        from lookups import models, services

        register(Kind("table", models.Table, "Lookup table", "/guide/lookups"))
        register(Kind("table_row", models.Row, "Row of a lookup table", "/guide/lookups"))
        register_use("table", services.rows_in)
