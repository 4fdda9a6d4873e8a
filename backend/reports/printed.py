"""A report as a PDF: its table over as many pages as it takes, then what its columns mean."""

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence
from functools import cache
from pathlib import Path
from typing import Any
from xml.sax.saxutils import escape

from django.conf import settings
from reportlab.lib import colors
from reportlab.lib.pagesizes import A4, landscape
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, LongTable, Paragraph, SimpleDocTemplate, Spacer, TableStyle

from callcore import wording
from exchange.services import site_clock_ms
from reports.sheets import Column, Table
from web.problems import bad_request

#: What is longer is for a sheet: nobody leafs through a hundred pages.
MOST_ROWS = 3_000
#: Columns beside the first that fit on a page side by side; the others follow below.
_COLUMNS = 10
_LONGEST_CELL = 120
_INK, _PALE, _LINE = (colors.HexColor("#22302b"), colors.HexColor("#5d6a64"), colors.HexColor("#c9d2cc"))
#: Of Debian's package fonts-dejavu-core, which has nearly every script's letters; reportlab's own
#: has those of western Europe.
_FONTS = Path("/usr/share/fonts/truetype/dejavu")
_FACES = {"Report": ("DejaVuSans.ttf", "Vera.ttf"), "Report-Bold": ("DejaVuSans-Bold.ttf", "VeraBd.ttf")}


@cache
def _register_fonts() -> None:
    for name, (full, own) in _FACES.items():
        face = _FONTS / full
        pdfmetrics.registerFont(TTFont(name, str(face) if face.exists() else own))


def pdf(table: Table) -> bytes:
    """A table as a PDF, A4 across.

    Raises:
        Problem: it has more rows than anybody would leaf through.
    """
    if len(table.rows) > MOST_ROWS:
        words = f"A PDF holds {MOST_ROWS:,} rows, and this report has more: take XLSX or CSV."
        raise bad_request(words, **{"as": [words]})
    _register_fonts()
    out = io.BytesIO()
    page = SimpleDocTemplate(
        out,
        pagesize=landscape(A4),
        title=table.title,
        author=settings.CENTRE_NAME,
        leftMargin=14 * mm,
        rightMargin=14 * mm,
        topMargin=14 * mm,
        bottomMargin=16 * mm,
    )
    page.build(list(_story(table, page.width)), onFirstPage=_foot, onLaterPages=_foot)
    return out.getvalue()


def _style(size: float, *, bold: bool = False, right: bool = False) -> ParagraphStyle:
    return ParagraphStyle(
        "words",
        fontName="Report-Bold" if bold else "Report",
        fontSize=size,
        leading=size * 1.3,
        textColor=_INK,
        alignment=2 if right else 0,
    )


def _story(table: Table, width: float) -> Iterator[Flowable]:
    yield Paragraph(escape(table.title), _style(15, bold=True))
    made = wording.moment(site_clock_ms(), settings.CENTRE_TIME_ZONE)
    yield Paragraph(escape(f"{settings.CENTRE_NAME} · made {made}"), _style(8))
    others = range(1, len(table.columns))
    for first in range(0, max(1, len(others)), _COLUMNS):
        yield Spacer(1, 5 * mm)
        yield _block(table, [0, *others[first : first + _COLUMNS]], width)
    yield Spacer(1, 6 * mm)
    yield Paragraph("What the columns mean", _style(10, bold=True))
    for column in table.columns:
        if column.meaning:
            words = f"<b>{escape(column.name)}</b>: {escape(column.meaning)}"
            yield Paragraph(words, _style(7.5))


def _block(table: Table, places: Sequence[int], width: float) -> LongTable:
    columns = [table.columns[place] for place in places]
    heads = [
        Paragraph(escape(column.name), _style(7, bold=True, right=_is_number(column))) for column in columns
    ]
    cells = [[_cell(table.columns[at], row[at]) for at in places] for row in table.rows]
    shares = [1 if _is_number(column) else 2 for column in columns]
    widths = [width * share / sum(shares) for share in shares]
    made = LongTable([heads, *cells], repeatRows=1, colWidths=widths)
    made.setStyle(
        TableStyle(
            [
                ("FONT", (0, 1), (-1, -1), "Report", 7.5),
                ("TEXTCOLOR", (0, 0), (-1, -1), _INK),
                ("LINEBELOW", (0, 0), (-1, 0), 0.8, _INK),
                ("LINEBELOW", (0, 1), (-1, -1), 0.3, _LINE),
                ("VALIGN", (0, 0), (-1, 0), "BOTTOM"),
                ("VALIGN", (0, 1), (-1, -1), "TOP"),
                ("TOPPADDING", (0, 0), (-1, -1), 2),
                ("BOTTOMPADDING", (0, 0), (-1, -1), 2),
                *(("ALIGN", (at, 1), (at, -1), "RIGHT") for at, c in enumerate(columns) if _is_number(c)),
                *(_TOTAL if table.total and cells else []),
            ]
        )
    )
    return made


_TOTAL = [("FONT", (0, -1), (-1, -1), "Report-Bold", 7.5), ("LINEABOVE", (0, -1), (-1, -1), 0.8, _INK)]


def _is_number(column: Column) -> bool:
    return column.unit in ("count", "ms", "share")


def _cell(column: Column, value: Any) -> str | Paragraph:
    if value is None:
        return "–"
    if column.unit == "moment":
        return wording.moment(value, settings.CENTRE_TIME_ZONE)
    if column.unit == "ms":
        return wording.length(value)
    if column.unit == "share":
        return wording.share(value)
    if column.unit == "count":
        return f"{value:,}"
    told = str(value)
    cut = told if len(told) <= _LONGEST_CELL else told[: _LONGEST_CELL - 1] + "…"
    return Paragraph(escape(cut), _style(7.5))


def _foot(canvas: Canvas, page: SimpleDocTemplate) -> None:
    canvas.saveState()
    canvas.setFont("Report", 7)
    canvas.setFillColor(_PALE)
    canvas.drawString(page.leftMargin, 9 * mm, page.title)
    canvas.drawRightString(page.pagesize[0] - page.rightMargin, 9 * mm, str(canvas.getPageNumber()))
    canvas.restoreState()
