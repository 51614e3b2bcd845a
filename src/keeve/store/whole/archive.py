"""All that a yard has, out as lines of JSON, and such lines read; `restoring.py` puts them in again."""

import base64
import json
from collections.abc import Callable, Iterable, Iterator
from datetime import date, datetime
from typing import Any, Final, cast
from uuid import UUID

from sqlalchemy import BigInteger, Column, Integer, Table, select
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Session

from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import Amount, Said, Words, mark
from keeve.store.tables import Base, BookRow, Crew, DayPlanRow, DayRow, EventRow, JobRow, PhotoRow, ProofRow, TicketRow

FORMAT: Final = "keeve-yard"
VERSION: Final = 1
MOST_LETTERS: Final = 4000
"""Of a text that is no document: nothing of ours is longer."""
_AT_ONCE: Final = 500
_MOST: Final[dict[Any, int]] = {Integer: 2**31 - 2**20, BigInteger: 10**15}
"""Room is left for what is counted on from there."""
TABLES: Final[dict[str, type[Base]]] = {
    "book": BookRow,
    "job": JobRow,
    "ticket": TicketRow,
    "event": EventRow,
    "day": DayRow,
    "day plan": DayPlanRow,
    "proof": ProofRow,
    "photo": PhotoRow,
}
"""In an order in which each finds what it belongs to."""


def table_of(kind: str) -> Table:
    """Return the table of a kind of row."""
    return cast("Table", TABLES[kind].__table__)


def _columns(kind: str) -> list[Column[Any]]:
    """Return what is written of a table: all but whose it is, what opens it, and what the database works out."""
    return [one for one in table_of(kind).columns if one.name not in ("crew_id", "link_n") and one.computed is None]


COLUMNS: Final = {kind: _columns(kind) for kind in TABLES}


def _plain(value: Any) -> Any:
    if isinstance(value, datetime):
        return value.isoformat()
    if isinstance(value, bytes):
        return base64.b64encode(value).decode()
    return str(value) if isinstance(value, UUID | date) else value


def _line(document: dict[str, Any]) -> str:
    return json.dumps(document, sort_keys=True, ensure_ascii=False, separators=(",", ":")) + "\n"


def dump(session: Session, crew_id: UUID) -> Iterator[str]:
    """Write all that a crew has, a line a row, its own order always the same; the last line counts them.

    Tokens of programs are not in it: they are keys, not the yard's.
    """
    name = session.scalar(select(Crew.name).where(Crew.id == crew_id))
    yield _line({"format": FORMAT, "version": VERSION, "crew": name})
    many = 0
    for kind in TABLES:
        columns, table = COLUMNS[kind], table_of(kind)
        keys = [one for one in table.primary_key.columns if one.name != "crew_id"]
        query = select(*columns).where(table.c.crew_id == crew_id).order_by(*keys)
        for row in session.execute(query.execution_options(yield_per=_AT_ONCE if kind != "photo" else 20)):
            many += 1
            values = zip(columns, row, strict=True)
            yield _line({"row": kind} | {one.name: _plain(value) for one, value in values})
    yield _line({"end": many})


_WHOLE: Final = mark("Nothing was changed. Take a whole file, as it came out of Keeve.")


def _broken(number: int, why: Words) -> MixError:
    said = Said("Line {n} of the file cannot be taken in: {why}", n=Amount(number, "whole"), why=why)
    return MixError(Fault(Code.UNREADABLE, said, _WHOLE))


_OF_TEXT: Final[dict[Any, Callable[[str], Any]]] = {
    UUID: UUID,
    bytes: lambda given: base64.b64decode(given, validate=True),
}


def _value(column: Column[Any], given: Any) -> Any:
    """Read one value as its column keeps it; raises ValueError or TypeError where it is none."""
    if isinstance(column.type, JSONB):
        return given  # whatever it is: who reads it says so where it cannot be read
    if given is None:
        if not column.nullable:
            raise ValueError(column.name)
        return None
    kind = column.type.python_type
    if kind in (datetime, date):
        read = kind.fromisoformat(given)
        if kind is datetime and read.tzinfo is None:
            raise ValueError(column.name)
        return read
    if kind in _OF_TEXT:
        return _OF_TEXT[kind](given)
    if kind is float and isinstance(given, int) and not isinstance(given, bool):
        return float(given)
    if type(given) is not kind or (kind is str and len(given) > MOST_LETTERS):
        raise TypeError(column.name)
    if kind is int and abs(given) > _MOST[type(column.type)]:
        raise OverflowError(column.name)
    return given


def _head(line: str) -> None:
    try:
        head = json.loads(line)
    except (ValueError, RecursionError):
        head = None
    if not isinstance(head, dict) or head.get("format") != FORMAT:
        said = mark("This is no file of a whole yard.")
        raise MixError(Fault(Code.UNREADABLE, said, mark("Take the file that “All of this yard” writes.")))
    if head.get("version") != VERSION:
        version = str(head.get("version"))[:20]
        old = Said("This file was written by another version of Keeve: {version}.", version=version)
        raise MixError(Fault(Code.UNREADABLE, old, mark("Open it with that version, or bring this one up to date.")))


def _read(number: int, line: str) -> dict[str, Any]:
    try:
        given = json.loads(line)
    except (ValueError, RecursionError):
        raise _broken(number, mark("it is cut off, or no JSON.")) from None
    if not isinstance(given, dict):
        raise _broken(number, mark("it is no row."))
    return given


def _row(number: int, given: dict[str, Any]) -> tuple[str, dict[str, Any]]:
    kind = str(given.get("row"))
    if kind not in TABLES:
        raise _broken(number, mark("nobody knows such a row."))
    try:
        return kind, {one.name: _value(one, given[one.name]) for one in COLUMNS[kind]}
    except (KeyError, ValueError, TypeError, AttributeError, OverflowError):
        raise _broken(number, mark("a field of it is missing, or is none.")) from None


def rows_of(lines: Iterable[str]) -> Iterator[tuple[str, dict[str, Any]]]:
    """Read the rows of a file, each with its kind; half of a file is none.

    Raises
    ------
    MixError : another file, another version, half of one, or a row that is none
    """
    many, ended = 0, False
    for number, line in enumerate(lines, 1):
        if number == 1:
            _head(line)
            continue
        given = _read(number, line)
        if ended:
            raise _broken(number, mark("the file goes on after its end."))
        ended = "end" in given
        if not ended:
            many += 1
            yield _row(number, given)
        elif given["end"] != many:
            raise _broken(number, mark("rows are missing before it."))
    if not ended:
        raise MixError(Fault(Code.UNREADABLE, mark("This is half of a file: its end is missing."), _WHOLE))
