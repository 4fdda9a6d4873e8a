"""The content of the whole database, kept and brought back within a second or two."""

from __future__ import annotations

from django.apps import apps
from django.core.management.color import no_style
from django.db import connection

_SCHEMA = "kept_state"


class KeptState:
    """A copy of every table beside the tables themselves. Processes that use them may go on."""

    def __init__(self) -> None:
        self.made = False

    @staticmethod
    def _tables() -> list[str]:
        names = connection.introspection.django_table_names(only_existing=True, include_views=False)
        return sorted(set(names) - {"django_migrations"})

    def make(self) -> None:
        """Keep what there is now."""
        with connection.cursor() as cursor:
            cursor.execute(f"DROP SCHEMA IF EXISTS {_SCHEMA} CASCADE")
            cursor.execute(f"CREATE SCHEMA {_SCHEMA}")
            for table in self._tables():
                cursor.execute(f'CREATE TABLE {_SCHEMA}."{table}" AS TABLE public."{table}"')
        self.made = True

    def bring_back(self) -> None:
        """Put everything back as it was kept, the numbers of new rows included."""
        tables = self._tables()
        numbers = connection.ops.sequence_reset_sql(no_style(), apps.get_models())
        with connection.cursor() as cursor:
            cursor.execute("TRUNCATE " + ", ".join(f'public."{t}"' for t in tables))
            # Rows come table by table: what refers to what is looked at no more than in a restore.
            cursor.execute("SET session_replication_role = replica")
            for table in tables:
                cursor.execute(f'INSERT INTO public."{table}" SELECT * FROM {_SCHEMA}."{table}"')  # noqa: S608  names of our own tables
            cursor.execute("SET session_replication_role = DEFAULT")
            for sql in numbers:
                cursor.execute(sql)
