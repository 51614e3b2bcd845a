"""All that a yard has, out as lines of JSON and in again: the same lines come out of what was restored."""

import base64
import json
from collections.abc import Callable, Iterable, Iterator
from datetime import date, datetime
from typing import Any, Final, NamedTuple, cast
from uuid import UUID

from sqlalchemy import Column, Table, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from keeve.core.errors import Code, Fault, MixError
from keeve.core.said import Amount, Said, Words, mark
from keeve.store.tables import Base, BookRow, Crew, DayPlanRow, DayRow, EventRow, JobRow, PhotoRow, ProofRow, TicketRow

FORMAT: Final = "keeve-yard"
VERSION: Final = 1
MOST_LETTERS: Final = 4000
"""Of a text that is no document: nothing of ours is longer."""
_AT_ONCE: Final = 500
_LETTERS_AT_ONCE: Final = 4_000_000
"""Of pictures, which are larger than anything else."""
_TABLES: Final[dict[str, type[Base]]] = {
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


class Restored(NamedTuple):
    """What came of a restore."""

    new: int
    known: int
    """Lines whose row was there already; it stays as it is."""


def _table(kind: str) -> Table:
    return cast("Table", _TABLES[kind].__table__)


def _columns(kind: str) -> list[Column[Any]]:
    """Return what is written of a table: all but whose it is and what the database works out."""
    return [one for one in _table(kind).columns if one.name != "crew_id" and one.computed is None]


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
    for kind in _TABLES:
        columns, table = _columns(kind), _table(kind)
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
    kind = column.type.python_type if column.type.__class__.__name__ != "JSONB" else dict
    if given is None:
        if not column.nullable:
            raise ValueError(column.name)
        return None
    if kind is dict:
        return given
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
    if kind not in _TABLES:
        raise _broken(number, mark("nobody knows such a row."))
    try:
        return kind, {one.name: _value(one, given[one.name]) for one in _columns(kind)}
    except (KeyError, ValueError, TypeError, AttributeError, OverflowError):
        raise _broken(number, mark("a field of it is missing, or is none.")) from None


def _rows(lines: Iterable[str]) -> Iterator[tuple[str, dict[str, Any]]]:
    """Read the rows of a file; half of one is none."""
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


def restore(session: Session, crew_id: UUID, lines: Iterable[str]) -> Restored:
    """Put the rows of a file into a crew's yard; what is there already stays as it is. The caller commits.

    Raises
    ------
    MixError : another file, another version, half of one, or a row that is none; then the caller takes all back
    """
    new = known = 0
    for kind, rows in _parts(_rows(lines)):
        part = [row | {"crew_id": crew_id} for row in rows]
        keys = list(_table(kind).primary_key.columns)
        query = insert(_TABLES[kind]).values(part).on_conflict_do_nothing().returning(*keys)
        try:
            added = len(session.execute(query).all())
        except IntegrityError:
            said = mark("The file holds a row that belongs to nothing before it.")
            raise MixError(Fault(Code.UNREADABLE, said, mark("Nothing was changed. Take a whole file."))) from None
        new += added
        known += len(part) - added
    return Restored(new, known)


def _parts(rows: Iterable[tuple[str, dict[str, Any]]]) -> Iterator[tuple[str, list[dict[str, Any]]]]:
    """Hand rows on in their order, some hundreds of one kind at once: a large yard is never in the memory whole."""
    kind, letters = "", 0
    waiting: list[dict[str, Any]] = []
    for of, row in rows:
        if waiting and (of != kind or len(waiting) >= _AT_ONCE or letters >= _LETTERS_AT_ONCE):
            yield kind, waiting
            waiting, letters = [], 0
        kind = of
        waiting.append(row)
        letters += len(row.get("jpeg") or b"")
    if waiting:
        yield kind, waiting
