"""Sand tests of the crew: sieve sheets in, the curve and the best blend out."""

from typing import Annotated, Any, Final

from fastapi import APIRouter, Form, Request, status
from fastapi.responses import RedirectResponse, Response

from keeve.catalogue import Catalogue, SandResult
from keeve.store.rows.book_store import readable
from keeve.store.tables import BookRow
from keeve.web.asking.deps import Book, Desk, Looking, ReadBy
from keeve.web.asking.entries import find_entry, try_sand
from keeve.web.beside.own_things import Away, Thing, gone, routes_of
from keeve.web.edge.answers import GOES, PAGE, REFUSALS
from keeve.web.edge.security import OwnPage
from keeve.web.pages.faults import fault_rows
from keeve.web.pages.remembered import remembered
from keeve.web.pages.render import Page, page
from keeve.web.pages.typed import typed
from keeve.words.putting import put
from keeve.words.reader import Reader

router = APIRouter(responses=REFUSALS)
_SERIES = ("9.5", "4.75", "2.36", "1.18", "0.6", "0.3", "0.15")
_EUROPEAN = ("8", "4", "2", "1", "0.5", "0.25", "0.125", "0.063")


def blank(series: str) -> dict[str, Any]:
    """Return a sand test with the sieves of a series and nothing on them."""
    sieves = _EUROPEAN if series == "european" else _SERIES
    return {"envelope": "c33-fine", "rows": [{"sieve_mm": mm} for mm in sieves]}


@router.get("/book/own/sands", name="sands", **PAGE)
def sands(request: Request, desk: Looking, away: Away = None) -> Response:
    """List the crew's sand tests."""
    with desk() as at:

        def make() -> Page:
            every, shelf = at.book.entries("sand"), at.shelf()
            lost = [row for row in every if not readable(row)]
            rows = [(row, try_sand(row.entry, shelf)[0]) for row in every if readable(row)]
            return page(request, "book/sands.html", rows=rows, lost=lost, **gone(at.book, "sand", away))

        return remembered(request, ("sands", away), at.book_n(), make)


@router.post("/book/own/sands", name="new_sand", dependencies=[OwnPage], **GOES)
def new_sand(
    request: Request,
    book: Book,
    name: Annotated[str, Form(max_length=80)] = "",
    series: Annotated[str, Form(max_length=20)] = "",
) -> Response:
    """Begin a sand test."""
    row = book.add("sand", blank(series) | {"name": name.strip() or "Sand"}, None)
    return RedirectResponse(request.url_for("sand", key=row.key), status.HTTP_303_SEE_OTHER)


@router.get("/book/own/sands/{key}", name="sand", **PAGE)
def sand(request: Request, key: str, desk: Looking, reader: ReadBy) -> Response:
    """Show a sand test: what was weighed, and what comes of it."""
    with desk() as at:

        def make() -> Page:
            row, shelf = find_entry(request, at.book, "sand", key), at.shelf()
            result, faults = try_sand(row.entry, shelf)
            shown = _entries(row, shelf, reader) | judged_values(result)
            return page(request, "book/sand.html", row=row, faults=fault_rows(faults, reader), **shown)

        return remembered(request, ("sand", key), at.book_n(), make)


def _entries(row: BookRow, shelf: Catalogue, reader: Reader) -> dict[str, Any]:
    kinds = [(envelope.key, put(envelope.use, reader)) for envelope in shelf.envelopes.values()]
    return {"entry": typed(row.entry), "kinds": kinds}


def judged_values(result: SandResult | None) -> dict[str, Any]:
    """Return what the answer shows: each sand and their blend, and what of it passed each sieve of the envelope."""
    if result is None:
        return {"result": None}
    sides = [("first", result.first)]
    if result.second and result.blended:
        sides += [("second", result.second), ("blend", result.blended)]
    passed = [(bound, [side.grading.at(bound.sieve_mm) for _, side in sides]) for bound in result.envelope.bounds]
    return {"result": result, "sides": sides, "passed": passed}


def _answer(request: Request, _at: Desk, row: BookRow, result: SandResult) -> Page:
    return page(request, "book/sand_answer.html", **judged_values(result), row=row)


SAND: Final = Thing(
    "sand", "sand", "/book/own/sands/{key}", "sand", "sands",
    read=lambda at, _row, entry: try_sand(entry, at.shelf()),
    answer=_answer,
)  # fmt: skip
router.include_router(routes_of(SAND))
