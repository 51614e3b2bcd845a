"""Lists of things to fill, as CSV or XLSX: in, row by row with what is wrong, and out."""

import csv
import io
import re
import zipfile
from contextlib import closing
from pathlib import Path
from typing import Any, Final

import openpyxl
from openpyxl.utils.exceptions import InvalidFileException
from pydantic import TypeAdapter, ValidationError

from keeve.core.message.errors import Code, Fault, TakeoffError, TradeError, faults_of
from keeve.core.message.letters import cleaned, harmless, shown
from keeve.core.message.said import Amount, Said, Words
from keeve.core.takeoff.shapes import Shape
from keeve.formats.writing.tables import MARKED, csv_of, xlsx_of

SHAPE: Final[TypeAdapter[Any]] = TypeAdapter(Shape)
COMMON: Final = ("kind", "note", "group", "count", "waste_percent")
MOST_ROWS: Final = 200
MOST_UNPACKED: Final = 60_000_000
"""Bytes a spreadsheet may hold once unpacked; a list of 200 rows holds a hundredth of it."""
_SEPARATORS: Final = (";", "\t", "|", ",")
# Lists written before had the mark before figures too.
_MARKED: Final = re.compile(rf"(^|[;,|\t\r\n])([\s\"]*)'(?='*[{MARKED}])")

# Kinds a list can hold: those whose measures all fit into single cells.
_NOT_IN_LISTS: Final = ("mould", "scan")


def _models() -> dict[str, type[Any]]:
    union = Shape.__args__[0].__args__
    models = [part.__origin__ for part in union]
    return {m.model_fields["kind"].default: m for m in models if m.model_fields["kind"].default not in _NOT_IN_LISTS}


MODELS: Final = _models()


def columns() -> tuple[str, ...]:
    """Name every column a list may have, the common ones first. Common practice, no source."""
    found = dict.fromkeys(COMMON)
    for model in MODELS.values():
        found |= dict.fromkeys(name for name in model.model_fields if name not in ("unsure", "off"))
    return tuple(found)


COLUMNS: Final = columns()

ListRow = dict[str, str]


def read_csv(data: bytes) -> list[ListRow]:
    """Read a list as comma, semicolon, tab or bar separated text.

    Parameters
    ----------
    data : the file; UTF-8 with or without a mark, else Western European

    Returns
    -------
    one mapping a row, by column, empty cells left out

    Raises
    ------
    TakeoffError : no header, a column nobody knows, too many rows
    """
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("cp1252", errors="replace")
    if "\0" in text:
        raise _refused("This is no text file.", "Save the list as CSV or as XLSX.")
    lines = [line for line in text.splitlines() if line.strip()]
    if not lines:
        raise _refused(
            "The list is empty.",
            Said("Its first row names the columns: {columns} and the measures.", columns=", ".join(COMMON)),
        )
    separator = max(_SEPARATORS, key=lambda mark: sum(word.strip(' "') in COLUMNS for word in lines[0].split(mark)))
    try:
        rows = [row for row in csv.reader(io.StringIO(text), delimiter=separator) if any(cell.strip() for cell in row)]
    except csv.Error:
        raise _refused("The list cannot be read as CSV.", "Look for a quote that is not closed.") from None
    return _named(rows)


def read_xlsx(path: Path) -> list[ListRow]:
    """Read a list from the first sheet of a workbook.

    Parameters
    ----------
    path : of the file

    Returns
    -------
    as `read_csv`; a formula counts with the result saved beside it

    Raises
    ------
    TakeoffError : no workbook, one that unpacks to a flood, a formula without a result, or as `read_csv`
    """
    try:
        with zipfile.ZipFile(path) as packed:
            if sum(part.file_size for part in packed.infolist()) > MOST_UNPACKED:
                raise _refused("This workbook unpacks to far more than a list holds.", "Copy the list into a new one.")
        with (
            closing(openpyxl.load_workbook(path, read_only=True, data_only=True)) as shown,
            closing(openpyxl.load_workbook(path, read_only=True, data_only=False)) as behind,
        ):
            return _named(_rows(shown.worksheets[0], behind.worksheets[0]))
    except TakeoffError:  # said above; it is a ValueError too
        raise
    except (zipfile.BadZipFile, InvalidFileException, KeyError, IndexError, ValueError, OSError):
        raise _refused("This is no workbook that can be read.", "Save it as XLSX or CSV again.") from None


def _rows(shown: Any, behind: Any) -> list[list[str]]:
    """Read the cells as shown; where nothing is shown and a formula stands behind, say so."""
    rows: list[list[str]] = []
    pairs = zip(
        shown.iter_rows(max_row=MOST_ROWS + 2, values_only=True),
        behind.iter_rows(max_row=MOST_ROWS + 2, values_only=True),
        strict=False,
    )
    for number, (values, formulas) in enumerate(pairs, 1):
        for at, (value, formula) in enumerate(zip(values, formulas, strict=False)):
            if value is None and isinstance(formula, str) and formula.startswith("="):
                raise _refused(
                    Said(
                        "Row {row}, column {column} holds a formula without a saved result.",
                        row=str(number),
                        column=str(at + 1),
                    ),
                    "Open and save it in the spreadsheet, or paste the value.",
                )
        rows.append(["" if value is None else _cell(value) for value in values])
    return [row for row in rows if any(row)]


def _cell(value: Any) -> str:
    if isinstance(value, float):
        return f"{value:.12g}"
    return str(value).strip()


def _refused(sentence: Words, hint: Words) -> TakeoffError:
    return TakeoffError(Fault(Code.UNREADABLE, sentence, hint))


def _named(rows: list[list[str]]) -> list[ListRow]:
    if not rows:
        raise _refused(
            "The list is empty.",
            Said("Its first row names the columns: {columns} and the measures.", columns=", ".join(COMMON)),
        )
    header = [name.strip().lower().replace(" ", "_") for name in rows[0]]
    if "kind" not in header:
        raise _refused(
            "The first row does not name the columns: there is no “kind”.",
            Said("Known kinds are {known}; a slab wants kind, length_mm, width_mm, depth_mm.", known=", ".join(MODELS)),
        )
    unknown = [name for name in header if name and name not in COLUMNS]
    if unknown:
        raise _refused(
            Said("Nobody knows the column “{column}”.", column=shown(unknown[0])),
            Said("Known are: {known}.", known=", ".join(COLUMNS)),
        )
    if len(rows) - 1 > MOST_ROWS:
        raise _refused(
            Said("The list has more than {n} rows.", n=Amount(MOST_ROWS, "whole")), "Split it over several jobs."
        )
    if len(rows) == 1:
        raise _refused("The list names its columns and then ends.", "Write one row for each thing to fill.")
    found = []
    for number, row in enumerate(rows[1:], 2):
        strange = next((cell for cell in row if not harmless(cell)), None)
        if strange is not None:
            raise _refused(
                Said("Row {row} holds letters that cannot be kept: “{typed}”.", row=str(number), typed=shown(strange)),
                "Write that cell again by hand: it was copied from somewhere.",
            )
        cells = {name: _plain(cell) for name, cell in zip(header, row, strict=False) if name and cell.strip()}
        if [cell for cell in row[len(header) :] if cell.strip()]:
            cells["note"] = f"{cells.get('note', '')} (cells beyond the last column)".strip()
        found.append(cells)
    return found


def _plain(cell: str) -> str:
    # Written out by us with a mark so that no spreadsheet takes it for a formula.
    return _MARKED.sub(r"\1\2", cell.strip())


def check_row(row: ListRow) -> tuple[Fault, ...]:
    """Say what is wrong with one row; nothing where it makes a shape. Fields as columns."""
    try:
        shape_of(row)
    except TradeError as error:
        return error.faults
    return ()


def shape_of(row: ListRow) -> Shape:
    """Make the shape of one row.

    Raises
    ------
    TakeoffError : what is wrong with it, by column
    """
    given = {name: value for name, value in row.items() if value.strip()}
    kind = given.get("kind", "").strip().lower().replace(" ", "_")
    if kind not in MODELS:
        raise TakeoffError(
            Fault(
                Code.UNKNOWN,
                Said("“{kind}” is no kind of shape.", kind=kind[:30]),
                Said("Known are: {known}.", known=", ".join(MODELS)),
                field="kind",
            )
        )
    fits = MODELS[kind].model_fields
    beside = [name for name in given if name not in fits]
    if beside:
        raise TakeoffError(
            Fault(
                Code.UNKNOWN,
                Said("A {kind} has no “{column}”.", kind=kind, column=beside[0]),
                "Leave this cell empty.",
                field=beside[0],
            )
        )
    try:
        shape: Shape = SHAPE.validate_python(given | {"kind": kind})
    except ValidationError as error:
        raise TakeoffError(*faults_of(error)) from error
    shape.volume()
    return shape


def rows_of(typed_shapes: list[dict[str, Any]]) -> list[ListRow]:
    """Turn shapes as typed in a sheet into rows; those a list cannot hold are left out."""
    found = []
    for typed in typed_shapes:
        if not isinstance(typed, dict) or str(typed.get("kind")) not in MODELS:
            continue
        found.append({n: cleaned(str(v)) for n, v in typed.items() if n in COLUMNS and v not in ("", None)})
    return found


def _used(rows: list[ListRow]) -> list[str]:
    return [name for name in COLUMNS if name in COMMON or any(name in row for row in rows)]


def write_csv(rows: list[ListRow]) -> str:
    """Write rows as CSV with a mark for spreadsheets; what could pass for a formula gets an apostrophe."""
    names = _used(rows)
    return csv_of([names, *([row.get(name, "") for name in names] for row in rows)])


def write_xlsx(rows: list[ListRow]) -> bytes:
    """Write rows as a workbook of text cells."""
    names = _used(rows)
    return xlsx_of([names, *([row.get(name, "") for name in names] for row in rows)])
