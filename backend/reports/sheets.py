"""A report as one table with what its columns mean, and sheets that are made of it."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Any, Literal, NamedTuple
from zoneinfo import ZoneInfo

from django.conf import settings
from openpyxl import Workbook
from openpyxl.cell import WriteOnlyCell
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

from callcore.lookups.table import guarded

Unit = Literal["text", "moment", "count", "ms", "share"]
_FORMATS: dict[str, str] = {
    "moment": "yyyy-mm-dd hh:mm",
    "count": "#,##0",
    "ms": "[h]:mm:ss",
    "share": "0.0 %",
}


class Column(NamedTuple):
    """A column of a table: `meaning` goes to the sheet of definitions."""

    name: str
    unit: Unit
    meaning: str = ""


class Table(NamedTuple):
    """A report as a table. Moments and times are in ms, shares from 0 to 1, nothing is None.
    `total`: the last row is all of them together."""

    title: str
    columns: Sequence[Column]
    rows: Sequence[Sequence[Any]]
    total: bool = False


def comma_separated(table: Table) -> bytes:
    """A table as CSV in UTF-8: times in seconds, shares from 0 to 1, nothing that is a formula."""
    out = io.StringIO()
    rows = csv.writer(out)
    rows.writerow(_csv_name(column) for column in table.columns)
    for row in table.rows:
        rows.writerow(_csv_cell(c, v) for c, v in zip(table.columns, row, strict=True))
    return out.getvalue().encode()


def xlsx(table: Table) -> bytes:
    """A workbook: the table with real numbers and times, and what its columns mean."""
    book = Workbook(write_only=True)
    sheet = book.create_sheet("Report")
    sheet.freeze_panes = "B2"
    for number, _ in enumerate(table.columns, 1):
        sheet.column_dimensions[get_column_letter(number)].width = 16
    sheet.append([_bold(sheet, column.name) for column in table.columns])
    for row in table.rows:
        sheet.append([_cell(sheet, c, v) for c, v in zip(table.columns, row, strict=True)])
    meanings = book.create_sheet("Definitions")
    meanings.append([_bold(meanings, "Column"), _bold(meanings, "What it is")])
    for column in table.columns:
        meanings.append([column.name, column.meaning])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _bold(sheet: Any, words: str) -> WriteOnlyCell:
    cell = WriteOnlyCell(sheet, words)
    cell.font = Font(bold=True)
    return cell


def _cell(sheet: Any, column: Column, value: Any) -> Any:
    if value is None:
        return None
    cell = WriteOnlyCell(sheet, _real(column.unit, value))
    if column.unit == "text":
        cell.data_type = "s"  # never a formula, whatever it begins with
    else:
        cell.number_format = _FORMATS[column.unit]
    return cell


def _real(unit: Unit, value: Any) -> Any:
    if unit == "moment":
        return _local(value).replace(tzinfo=None)
    if unit == "ms":
        return timedelta(milliseconds=round(value))
    return value


def _local(at_ms: int) -> datetime:
    return datetime.fromtimestamp(at_ms / 1000, ZoneInfo(settings.CENTRE_TIME_ZONE))


def _csv_name(column: Column) -> str:
    return f"{column.name} (s)" if column.unit == "ms" else column.name


def _csv_cell(column: Column, value: Any) -> Any:
    if value is None or column.unit == "count":
        return value
    if column.unit == "text":
        return guarded(str(value))
    if column.unit == "moment":
        return _local(value).isoformat(timespec="minutes")
    return round(value / 1000, 3) if column.unit == "ms" else round(value, 5)
