"""Tables as files for spreadsheets: CSV and workbooks whose cells begin no formula."""

import csv
import io
import re
from collections.abc import Sequence
from typing import Final

import openpyxl

ACTIVE: Final = r"=+\-@＝＋－＠"
"""Inside brackets of an expression."""
MARKED: Final = rf"{ACTIVE}0-9.,/:;<>?"
"""Inside brackets too: before these an apostrophe is a mark, and taken off again when a list is read."""
_BEGINS: Final = re.compile(rf"(^|[;,|\t\r\n])([\s\"]*)(?='*[{ACTIVE}]|'+[{MARKED}])")
"""Where a spreadsheet may take what follows for a formula: at the beginning of a cell, whatever parts cells there; and
where what was typed looks like a mark."""


def safe(text: str) -> str:
    """Return a cell that no spreadsheet takes for a formula: an apostrophe stands before what would begin one."""
    return _BEGINS.sub(r"\1\2'", text)


def csv_of(rows: Sequence[Sequence[str]]) -> str:
    """Write rows as CSV with a mark for spreadsheets."""
    out = io.StringIO()
    writer = csv.writer(out, quoting=csv.QUOTE_ALL)
    for row in rows:
        writer.writerow([safe(cell) for cell in row])
    return "\ufeff" + out.getvalue()


def xlsx_of(rows: Sequence[Sequence[str]], numbers: frozenset[int] = frozenset()) -> bytes:
    """Write rows as a workbook of text cells; columns in `numbers` hold figures below their heading."""
    book = openpyxl.Workbook()
    sheet = book.active
    assert sheet is not None  # noqa: S101 - a new workbook has one
    for number, row in enumerate(rows, 1):
        for at, text in enumerate(row, 1):
            cell = sheet.cell(number, at)
            if number > 1 and at - 1 in numbers and text:
                cell.value = float(text)
                continue
            cell.value = text or None
            cell.data_type = "s" if text else "n"
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()
