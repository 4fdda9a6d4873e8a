"""What other apps may ask of lookup tables, and how rows come in."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from typing import Any

from django.core.cache import cache
from django.db import transaction
from django.db.models import F

from accounts.services import user_with
from callcore.flow.catalogue import TableFacts
from callcore.lookups.table import Column, NotATable, Rows, read, row
from changelog import config_store
from lookups.keys import key_of
from lookups.models import Row, Table
from lookups.things import Things
from web.errors import Refused, Use

#: Rows are written in parts of this size; between them an import can be cancelled.
PART = 5_000


class Cancelled(Refused):
    """Somebody cancelled the import; nothing was taken."""

    def __init__(self) -> None:
        super().__init__("cancelled", "Cancelled: the table is as it was.")


def columns_of(table: Table) -> list[Column]:
    """The columns, the key first."""
    return [Column(c["name"], c["type"]) for c in table.columns]


def look_up(table_id: str, key: Any) -> dict[str, Any] | None:
    """The row with a key, by column name; None where there is none."""
    rows = Row.objects.filter(table=table_id, key=key_of(key), generation=F("table__generation"))
    found = rows.order_by().values_list("cells", "table__columns").first()
    if found is None:
        return None
    cells, columns = found
    return dict(zip([c["name"] for c in columns], cells, strict=True))


def preview(table: Table, data: bytes) -> tuple[Rows, dict[str, int]]:
    """What a file would do: its rows, and how many are new, changed, the same and gone.

    Raises:
        Refused: the file as a whole cannot be read.
    """
    try:
        found = read(columns_of(table), data, key_of, Things().find)
    except NotATable as error:
        fields = {"file": [str(error)]}
        raise Refused("not-a-table", str(error), status=400, fields=fields) from None
    there = dict(_rows(table).values_list("key", "cells"))
    coming = {key_of(cells[0]): cells for cells in found.rows}
    counts = {
        "new": sum(key not in there for key in coming),
        "changed": sum(key in there and there[key] != cells for key, cells in coming.items()),
        "same": sum(there.get(key) == cells for key, cells in coming.items()),
        "gone": sum(key not in coming for key in there),
    }
    return found, counts


def import_file(
    user: Any, table: Table, revision: int, data: bytes, progress: Callable[[float], None]
) -> Table:
    """Put a file's rows in place of the table's, all or nothing.

    Args:
        progress: told the share done (0..1); may raise `Cancelled`.

    Raises:
        Refused: lines of the file cannot be taken.
    """
    found, _ = preview(table, data)
    if found.bad:
        first = found.bad[0]
        words = f"Line {first.line}, {first.column}: {first.words}."
        raise Refused("bad-lines", words, status=400, fields={"file": [words]})
    with transaction.atomic():
        newest = table.rows.order_by("-generation").values_list("generation", flat=True).first()
        generation = max(newest or 0, table.generation) + 1
        for begin in range(0, len(found.rows), PART):
            part = found.rows[begin : begin + PART]
            Row.objects.bulk_create(
                Row(table=table, generation=generation, key=key_of(cells[0]), cells=cells) for cells in part
            )
            progress((begin + len(part)) / len(found.rows))
        before = table.generation
        changed = config_store.change(user, table, revision, generation=generation)
        # The generation before stays, so that the file can be taken back.
        table.rows.exclude(generation__in=(before, generation)).delete()
    return changed


def change_row(user: Any, table: Table, found: Row | None, typed: list[Any]) -> Row:
    """Keep a typed row: a new one, or in place of one that is there.

    Raises:
        Refused: a cell does not fit, or the key is another row's.
    """
    columns = columns_of(table)
    if len(typed) != len(columns):
        raise Refused("not-valid", f"A row has {len(columns)} cells.", status=400)
    try:
        cells = row(columns, typed, Things().find)
    except ValueError as error:
        column = str(error).partition(": ")[0]
        raise Refused("not-valid", str(error), status=400, fields={column: [str(error)]}) from None
    key = key_of(cells[0])
    other = _rows(table).filter(key=key).exclude(pk=found.pk if found else None).exists()
    if other:
        message = f"{columns[0].name}: “{cells[0]}” stands in the table already."
        raise Refused("not-valid", message, status=400, fields={columns[0].name: [message]})
    if found is None:
        return config_store.create(user, Row, table=table, generation=table.generation, key=key, cells=cells)
    return config_store.change(user, found, None, key=key, cells=cells)


def change_columns(
    user: Any, table: Table, revision: int, columns: list[dict[str, str]] | None, **values: Any
) -> Table:
    """Change a table; its columns only while it has no rows.

    Raises:
        Refused: it has rows.
    """
    if columns is not None and columns != table.columns:
        if _rows(table).exists():
            message = "The columns can be changed while the table is empty; delete the rows first."
            raise Refused("has-rows", message, fields={"columns": [message]})
        values["columns"] = columns
    return config_store.change(user, table, revision, **values)


def empty(user: Any, table: Table, revision: int) -> Table:
    """Delete every row; can be taken back."""
    return config_store.change(user, table, revision, generation=table.generation + 1)


def _rows(table: Table) -> Any:
    return Row.objects.filter(table=table, generation=table.generation)


def rows_of(table: Table) -> Any:
    """The rows that count."""
    return _rows(table)


def facts() -> dict[str, TableFacts]:
    """Every table as a flow sees it, by reference."""
    rows = Table.objects.values_list("pk", "name", "columns")
    return {
        f"table:{pk}": TableFacts(name, tuple(c["name"] for c in columns), tuple(c["type"] for c in columns))
        for pk, name, columns in rows
    }


def rows_in(table_id: str) -> list[Use]:
    """That a table holds rows, which keep it from being deleted."""
    table = Table.objects.filter(pk=table_id).first()
    count = _rows(table).count() if table else 0
    if table is None or not count:
        return []
    words = "1 row" if count == 1 else f"{count:,} rows"
    return [Use("table", table_id, words, "kept in it")]


# An import runs in the worker: the file and how far it is stand in the cache for an hour.

_KEPT_S = 3600


def begin_import(user: Any, table: Table, revision: int, data: bytes) -> str:
    """Hand a file over to the worker; gives the import's name."""
    name = uuid.uuid4().hex
    cache.set(f"lookups:file:{name}", data, _KEPT_S)
    cache.set(f"lookups:user:{name}", user.pk, _KEPT_S)
    set_state(name, "waiting")
    return name


def run_import(name: str, table_id: str, revision: int) -> None:
    """The worker's part: take the file in, or say why not."""
    data = cache.get(f"lookups:file:{name}")
    user = user_with(cache.get(f"lookups:user:{name}"))
    table = Table.objects.filter(pk=table_id).first()
    if data is None or user is None or table is None:
        set_state(name, "failed", words="The file or the table is gone. Nothing was taken.")
        return

    def progress(share: float) -> None:
        if cache.get(f"lookups:cancel:{name}"):
            raise Cancelled
        set_state(name, "running", share=share)

    try:
        progress(0.0)
        import_file(user, table, revision, data, progress)
    except Cancelled as refused:
        set_state(name, "cancelled", words=str(refused))
    except Refused as refused:
        set_state(name, "failed", words=str(refused))
    else:
        set_state(name, "done", share=1.0)
    finally:
        cache.delete(f"lookups:file:{name}")


def cancel_import(name: str) -> None:
    """Ask the worker to stop; what is done by then counts, and nothing is half done."""
    cache.set(f"lookups:cancel:{name}", True, _KEPT_S)
    if (state_of(name) or {}).get("state") == "waiting":
        set_state(name, "cancelled", words=str(Cancelled()))


def set_state(name: str, state: str, share: float = 0.0, words: str = "") -> None:
    """Say how far an import is."""
    cache.set(f"lookups:import:{name}", {"state": state, "share": share, "words": words}, _KEPT_S)


def state_of(name: str) -> dict[str, Any] | None:
    """How far an import is; None where there is none (any more)."""
    return cache.get(f"lookups:import:{name}")


def search(text: str) -> list[Use]:
    """Tables whose name holds a text."""
    found = Table.objects.filter(name__icontains=text)[:5]
    return [Use("table", str(t.pk), t.name, "lookup table") for t in found]


def naming(kind: str, identity: str) -> list[Use]:
    """The tables in whose rows a thing stands."""
    # Only tables with such a column are looked through: the others may have many rows.
    holding = Row.objects.filter(
        table__in=Table.objects.filter(columns__contains=[{"type": kind}]),
        cells__contains=[f"{kind}:{identity}"],
        generation=F("table__generation"),
    )
    found = Table.objects.filter(pk__in=holding.values("table"))
    return [Use("table", str(table.pk), table.name, "stands in its rows") for table in found]
