"""Entries of a crew's book and yard as they were typed: found, and read as far as they can be."""

from typing import Any, Final

from fastapi import HTTPException, Request, status
from pydantic import ValidationError

from keeve.catalogue import Catalogue, SandResult, SandTest, judge_sand
from keeve.catalogue.trying import pruned
from keeve.core.message.errors import Fault, TradeError, faults_of
from keeve.core.message.said import mark
from keeve.core.yard.buying import StockSheet
from keeve.store.rows.book_store import BookStore, Kind, readable
from keeve.store.tables import BookRow
from keeve.web.asking.deps import CannotBeRead
from keeve.words.putting import put

NO_MIX: Final = mark("There is no such mix in the book. It may have been put away, or the address was cut short.")
_NOT_THERE: Final = {
    "mix": NO_MIX,
    "admixture": mark("There is no such admixture in the book."),
    "sand": mark("There is no such sand test here."),
    "vessel": mark("There is no such vessel in your yard."),
    "stock": mark("There is no such entry in your stock."),
}
_WHAT: Final = {
    "mix": mark("This mix cannot be read"),
    "admixture": mark("This admixture cannot be read"),
    "sand": mark("This sand test cannot be read"),
    "vessel": mark("This vessel cannot be read"),
    "stock": mark("This entry of the stock cannot be read"),
}


def find_entry(request: Request, book: BookStore, kind: Kind, key: str, *, lock: bool = False) -> BookRow:
    """Find an entry of the crew's book, put away or not; one that cannot be read is told as such, with its raw file."""
    row = book.entry(kind, key, lock=lock)
    if row is None:
        raise HTTPException(status.HTTP_404_NOT_FOUND, _NOT_THERE[kind])
    if not readable(row):
        raise CannotBeRead(_WHAT[kind], key, str(request.url_for("raw_entry", kind=kind, key=key)))
    return row


def try_sand(entry: dict[str, Any], shelf: Catalogue) -> tuple[SandResult | None, tuple[Fault, ...]]:
    """Judge a sand test as typed."""
    try:
        return judge_sand(SandTest.model_validate(pruned(entry)), shelf), ()
    except ValidationError as error:
        return None, faults_of(error)
    except TradeError as error:
        return None, error.faults


def finenesses(book: BookStore, shelf: Catalogue) -> list[tuple[str, str]]:
    """Name the crew's sands that have a fineness modulus, with it."""
    found = []
    for row in book.entries("sand"):
        result, _ = try_sand(row.entry, shelf)
        for side in (result.first, result.second) if result else ():
            if side and side.fineness:
                found.append((put(side.grading.name), f"{side.fineness.result:.2f}"))
    return found


def try_stock(entry: dict[str, Any]) -> tuple[StockSheet | None, tuple[Fault, ...]]:
    """Read an entry of the stock as typed."""
    known = {name: value for name, value in entry.items() if name in StockSheet.model_fields}
    try:
        return StockSheet.model_validate(pruned(known)), ()
    except ValidationError as error:
        return None, faults_of(error)
    except TradeError as error:
        return None, error.faults
