"""Files of reports: a table as CSV, XLSX or PDF."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from django.http import HttpResponse

from reports import printed, sheets
from reports.sheets import Table
from web.files import download
from web.problems import bad_request


class Kind(NamedTuple):
    """A kind of file: what it is on the web, and how it is made."""

    media: str
    made: Callable[[Table], bytes]


#: By their ending.
KINDS = {
    "csv": Kind("text/csv; charset=utf-8", sheets.comma_separated),
    "xlsx": Kind("application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", sheets.xlsx),
    "pdf": Kind("application/pdf", printed.pdf),
}


def file_response(table: Table, kind: str) -> HttpResponse:
    """A table as a file to keep.

    Raises:
        Problem: there is no such kind, or the table is too long for it.
    """
    if kind not in KINDS:
        words = f"A file is one of {', '.join(KINDS)}."
        raise bad_request(words, **{"as": [words]})
    return download(table.title, KINDS[kind].made(table), KINDS[kind].media, kind)
