"""What a crew keeps of its own, written once for every kind: tried, kept, copied, put away and put back."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import APIRouter, Body, Query, Request, status
from fastapi.responses import RedirectResponse, Response

from keeve.core.message.errors import Code, Fault, TradeError
from keeve.core.message.said import Amount, Said, mark, verbatim
from keeve.store.rows.book_store import BookStore, Kind, readable
from keeve.store.rows.merging import settle
from keeve.store.tables import BookRow, Document
from keeve.web.asking.deps import AtDesk, Desk, ReadBy
from keeve.web.asking.entries import find_entry
from keeve.web.asking.writes import Typed, Write, written
from keeve.web.edge.answers import GOES, PAGE, REFUSALS
from keeve.web.edge.security import OwnPage
from keeve.web.pages.render import Page
from keeve.words.putting import t

Read = tuple[Any | None, tuple[Fault, ...]]
"""What was understood of an entry; or, where nothing was, why."""
Away = Annotated[str | None, Query(max_length=40)]
"""In the address of a shelf: what was put away just now, and may be put back."""


@dataclass(frozen=True, slots=True)
class Thing:
    """A kind of things a crew has of its own."""

    kind: Kind
    name: str
    """Of its routes: `keep_sand`, `put_sand_away`."""
    address: str
    """Of one of them, with its `{key}`."""
    page: str
    """Name of the route that shows one."""
    shelf: str
    """Name of the route that lists them."""
    read: Callable[[Desk, BookRow, Document], Read]
    answer: Callable[[Request, Desk, BookRow, Any], Page]
    """Shows what was understood, beside the entries."""
    document: Callable[[Any], Document | None] = lambda _: None
    """What jobs go on with, where they take it from the shelf."""
    entered: Callable[[BookRow, Document], Document] = lambda _, entry: entry
    """What is written down besides what was typed."""
    kept: Callable[[Desk, BookRow], None] = lambda _at, _row: None


def routes_of(thing: Thing) -> APIRouter:
    """Build the routes that every kind has."""
    router = APIRouter(responses=REFUSALS)
    for add in (_trying, _copying, _putting_away):
        add(router, thing)
    return router


def _trying(router: APIRouter, thing: Thing) -> None:
    @router.post(f"{thing.address}/try", name=f"try_{thing.name}", **PAGE)
    def try_thing(request: Request, key: str, desk: AtDesk, entry: Annotated[Typed, Body()]) -> Response:
        """Work out what is typed; keeps nothing."""
        with desk() as at:
            row = find_entry(request, at.book, thing.kind, key)
            found, faults = thing.read(at, row, entry)
            if found is None:
                raise TradeError(*faults)
            return thing.answer(request, at, row, found)

    @router.put(f"{thing.address}/entry", name=f"keep_{thing.name}", dependencies=[OwnPage])
    def keep_thing(request: Request, key: str, desk: AtDesk, write: Annotated[Write, Body()]) -> dict[str, Any]:
        """Keep an entry as typed; jobs go on with the last form that could be understood."""
        with desk() as at:
            row = find_entry(request, at.book, thing.kind, key, lock=True)
            settled = settle(row.entry, row.version, write.sheet, write.base, write.version)
            entry = thing.entered(row, settled.document)
            found, _ = thing.read(at, row, entry)
            at.book.save(row, entry, None if found is None else thing.document(found))
            if found is not None:
                thing.kept(at, row)
            return written(settled, row.version)


def _copying(router: APIRouter, thing: Thing) -> None:
    if thing.kind == "mix":
        return  # those that ship are copied too: the book's own page does it

    @router.post(f"{thing.address}/copy", name=f"copy_{thing.name}", dependencies=[OwnPage], **GOES)
    def copy_thing(request: Request, key: str, desk: AtDesk, reader: ReadBy) -> Response:
        """Copy an entry, ready to be changed."""
        with desk() as at:
            row = find_entry(request, at.book, thing.kind, key)
            name = str(row.entry.get("name") or "")
            named = {"name": t(reader, "{typed}, a copy", typed=name)[:80]} if name else {}
            copied = at.book.add(thing.kind, row.entry | named, row.document, base=row.base)
            found, _ = thing.read(at, copied, copied.entry)
            at.book.save(copied, copied.entry, None if found is None else thing.document(found))
            address = request.url_for(thing.page, key=copied.key)
        return RedirectResponse(address, status.HTTP_303_SEE_OTHER)


def _putting_away(router: APIRouter, thing: Thing) -> None:
    @router.post(f"{thing.address}/away", name=f"put_{thing.name}_away", dependencies=[OwnPage], **GOES)
    def put_away(request: Request, key: str, desk: AtDesk) -> Response:
        """Take an entry from its shelf, unless a job needs it."""
        with desk() as at:
            row = find_entry(request, at.book, thing.kind, key)
            _refuse_needed(at.book.in_sheets(key))
            at.book.put_away(row, away=True)
        address = request.url_for(thing.shelf).include_query_params(away=key)
        return RedirectResponse(address, status.HTTP_303_SEE_OTHER)

    @router.post(f"{thing.address}/back", name=f"put_{thing.name}_back", dependencies=[OwnPage], **GOES)
    def put_back(request: Request, key: str, desk: AtDesk) -> Response:
        """Put an entry back on its shelf."""
        with desk() as at:
            at.book.put_away(find_entry(request, at.book, thing.kind, key), away=False)
        return RedirectResponse(request.url_for(thing.page, key=key), status.HTTP_303_SEE_OTHER)


def _refuse_needed(jobs: list[str]) -> None:
    if not jobs:
        return
    more = Amount(len(jobs) - 1, "whole")
    one, several = mark("It is needed for “{job}”."), mark("It is needed for “{job}” and {n} more.")
    said = Said(several, job=jobs[0], n=more) if len(jobs) > 1 else Said(one, job=jobs[0])
    raise TradeError(Fault(Code.REFUSED, said, "Choose another there first."))


def gone(book: BookStore, kind: Kind, key: str | None) -> dict[str, Any]:
    """Return what a shelf shows of a thing that was put away just now: its row, and what it is called."""
    row = book.entry(kind, key) if key else None
    if row is None or not row.away or not readable(row):
        return {"gone": None, "gone_name": ""}
    return {"gone": row, "gone_name": verbatim(str(row.entry.get("name") or ""))}
