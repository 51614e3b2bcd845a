"""Pages of the mix book: finding, reading, comparing; copying, changing, handing on and bringing in."""

import json
from typing import Annotated, Any, Final

from fastapi import APIRouter, Depends, HTTPException, Query, Request, UploadFile, status
from fastapi.responses import JSONResponse, RedirectResponse, Response
from pydantic import ValidationError

from keeve.catalogue import Catalogue, read_own_mix
from keeve.catalogue.trying import pruned
from keeve.core.message.errors import Fault, MixError, TradeError, faults_of
from keeve.core.message.letters import shown
from keeve.core.message.said import Said, plain
from keeve.core.mixes.mix import Mix
from keeve.core.vessels.vessels import Container
from keeve.formats.writing.mix_exchange import read_mix, write_mix
from keeve.store.rows.book_store import BookStore, Kind
from keeve.store.tables import BookRow
from keeve.web.asking.deps import Book, Desk, Looking, ReadBy, Shelf, get_reader
from keeve.web.asking.entries import NO_MIX, find_entry
from keeve.web.beside.book.shown import differences, read, try_read
from keeve.web.beside.own_things import Away, Thing, gone, routes_of
from keeve.web.edge.answers import GOES, PAGE, REFUSALS, file_of
from keeve.web.edge.bodies import TOO_DEEP, fault_of
from keeve.web.edge.security import OwnPage
from keeve.web.pages.asked_fields import asked_fields
from keeve.web.pages.faults import fault_rows
from keeve.web.pages.files import as_file
from keeve.web.pages.mix_rows import families, own_rows
from keeve.web.pages.remembered import remembered
from keeve.web.pages.render import Page, page
from keeve.web.pages.typed import typed
from keeve.words.putting import put, t
from keeve.words.reader import METRIC, Reader

router = APIRouter(responses=REFUSALS)


def get_mix_or_404(key: str, shelf: Shelf) -> Mix:
    """Find a mix on the crew's shelf."""
    if key not in shelf.mixes:
        raise HTTPException(status.HTTP_404_NOT_FOUND, NO_MIX)
    return shelf.mixes[key]


def _base_of(own: BookRow) -> Mix:
    return Mix.model_validate(own.base)


Chosen = Annotated[Mix, Depends(get_mix_or_404, scope="function")]


def _gauge(shelf: Catalogue, key: str | None) -> Container:
    gauges = {g.key: g for g in shelf.gauges()}
    return gauges.get(key or "", next(iter(gauges.values())))


def _listed(shelf: Catalogue, reader: Reader) -> dict[str, Any]:
    """Return the list of mixes: the crew's own before those that ship, and all of them for choosing a second."""
    ours = own_rows(shelf, reader)
    return {"ours": ours, "families": families([], reader), "all_families": families(ours, reader)}


_SHELF_ALONE: Final[dict[str, Any]] = {"chosen": None, "gone": None, "gone_name": "", "refused": (), "lost": ()}
"""What the page of the book shows before a mix is chosen."""


@router.get("/book", name="book", **PAGE)
def the_book(request: Request, desk: Looking, reader: ReadBy, away: Away = None) -> Response:
    """List the mixes."""
    with desk() as at:

        def make() -> Page:
            listed = _listed(at.shelf(), reader) | {"lost": at.unreadable()} | gone(at.book, "mix", away)
            return page(request, "book/page.html", **(_SHELF_ALONE | listed))

        return remembered(request, ("book", away), at.book_n(), make)


@router.get("/book/own/raw/{kind}/{key}", name="raw_entry", **file_of("application/json"))
def raw_entry(kind: Kind, key: str, book: Book) -> Response:
    """Hand an entry of the book out as it is kept, readable or not."""
    row = book.entry(kind, key)
    if row is None:
        raise HTTPException(status.HTTP_404_NOT_FOUND, NO_MIX)
    return as_file({"entry": row.entry, "document": row.document, "base": row.base}, f"keeve-{kind}")


@router.get("/book/{key}", name="book_mix", **PAGE)
def show_mix(
    request: Request,
    key: str,
    desk: Looking,
    beside: Annotated[str | None, Query(max_length=80, alias="with")] = None,
    gauge: Annotated[str | None, Query(max_length=80)] = None,
) -> Response:
    """Show one mix, or two side by side."""
    with desk() as at:
        revision = at.book_n()

        def make() -> Page:
            shelf = at.shelf()
            return _one_or_two(request, get_mix_or_404(key, shelf), shelf, beside, gauge)

        return remembered(request, ("book_mix", key, beside, gauge), revision, make)


def _one_or_two(request: Request, chosen: Mix, shelf: Catalogue, beside: str | None, gauge: str | None) -> Page:
    reader = get_reader(request)
    measure = _gauge(shelf, gauge)
    one = read(chosen, shelf, measure, reader)
    second = shelf.mixes.get(beside or "")
    other = try_read(second, shelf, measure, reader) if second and second.key != chosen.key else None
    return page(
        request,
        "book/page.html",
        **_listed(shelf, reader),
        chosen=chosen,
        one=one,
        other=other,
        lines=differences(one, other, reader) if other else (),
        gauge=measure,
        gauges=shelf.gauges(),
        gone=None,
        gone_name="",
        refused=(),
        lost=(),
    )


@router.post("/book/{key}/copy", name="copy_mix", dependencies=[OwnPage], **GOES)
def copy_mix(request: Request, chosen: Chosen, book: Book, reader: ReadBy) -> Response:
    """Copy a mix into the crew's own, ready to be changed."""
    row = _add(book, chosen, {"name": t(reader, "{mix}, ours", mix=chosen.name)})
    return RedirectResponse(request.url_for("change_mix", key=row.key), status.HTTP_303_SEE_OTHER)


def _add(book: BookStore, base: Mix, entry: dict[str, Any]) -> BookRow:
    document = base.model_copy(update=entry).model_dump(mode="json")
    return book.add("mix", entry, document, base=base.model_dump(mode="json"))


@router.get("/book/{key}/change", name="change_mix", **PAGE)
def change_mix(request: Request, key: str, desk: Looking) -> Response:
    """Show a mix of the crew's own with everything that may be changed, and what comes of it."""
    with desk() as at:
        revision = at.book_n()
        return remembered(
            request, ("change_mix", key), revision,
            lambda: _change(request, find_entry(request, at.book, "mix", key), at.shelf()),
        )  # fmt: skip


def _change(request: Request, own: BookRow, shelf: Catalogue) -> Page:
    reader = get_reader(request)
    base = _base_of(own)
    answer, faults = _tried(base, own.key, own.entry, shelf)
    gauge = _gauge(shelf, None)
    changed = answer or (Mix.model_validate(own.document) if own.document else base)
    base_materials = {m.key: m for m in base.materials()} | shelf.materials
    return page(
        request,
        "book/change.html",
        own=own,
        base=base,
        entry=typed(own.entry),
        changed=changed,
        shelf=shelf,
        choices=[
            (m.key, put(m.name, reader))
            for m in shelf.materials.values()
            if m.role != "premix" or m in base.materials()
        ],
        asked=asked_fields(base.basis, typed(own.entry.get("basis")), "basis", reader, for_job=False),
        bagged=base.bagged().name if base.basis.own_bag_kg() is None else "",
        materials=[(m, base_materials.get(m.key, m)) for m in changed.materials()],
        faults=fault_rows(faults, reader),
        one=try_read(answer, shelf, gauge, reader) if answer else None,
        gauge=gauge,
    )


def _tried(base: Mix, key: str, entry: dict[str, Any], shelf: Catalogue) -> tuple[Mix | None, tuple[Fault, ...]]:
    try:
        return read_own_mix(base, key, pruned(entry), shelf), ()
    except TradeError as error:
        return None, error.faults


def _answer(request: Request, at: Desk, _row: BookRow, mix: Mix) -> Page:
    shelf = at.shelf()
    gauge = _gauge(shelf, None)
    return page(request, "book/answer.html", one=read(mix, shelf, gauge, get_reader(request)), gauge=gauge)


MIX: Final = Thing(
    "mix", "mix", "/book/{key}", "book_mix", "book",
    read=lambda at, row, entry: _tried(_base_of(row), row.key, entry, at.shelf()),
    answer=_answer,
    document=lambda mix: mix.model_dump(mode="json"),
    kept=lambda at, row: at.store.stale(row.key),
)  # fmt: skip
router.include_router(routes_of(MIX))


@router.get("/book/{key}/file", name="mix_file", **file_of("application/json"))
def mix_file(chosen: Chosen) -> Response:
    """Hand a mix on as an exchange file."""
    headers = {"content-disposition": f'attachment; filename="{chosen.key}.keeve-mix.json"'}
    return Response(write_mix(chosen), media_type="application/json", headers=headers)


def _read_file(text: bytes) -> Mix:
    """Read an exchange file somebody sent as a file, which nobody has looked at yet."""
    try:
        fault = fault_of(json.loads(text))
    except RecursionError:
        fault = TOO_DEEP
    except ValueError:
        fault = None  # the reader of mixes says that it is no JSON
    if fault is not None:
        raise MixError(fault)
    return read_mix(text)


@router.post("/book/bring", name="bring_mix", dependencies=[OwnPage], **GOES)
def bring_mix(request: Request, file: UploadFile, book: Book, shelf: Shelf) -> Response:
    """Bring a mix in from an exchange file, as a mix of the crew's own."""
    try:
        mix = _read_file(file.file.read())
        read(mix, shelf, _gauge(shelf, None), METRIC)
    except (ValidationError, TradeError) as error:
        faults = error.faults if isinstance(error, TradeError) else faults_of(error)
        rows = fault_rows(faults[:8], get_reader(request))
        sentences = [
            f"{row['field'] + ': ' if row['field'] else ''}{row['sentence']} {row['hint']}".strip() for row in rows
        ]
        no_mix = Said("“{file}” is not a mix that Keeve can read.", file=shown(file.filename or "?"))
        return page(
            request,
            "book/page.html",
            status=status.HTTP_422_UNPROCESSABLE_CONTENT,
            **(_SHELF_ALONE | {"refused": [no_mix, *sentences]} | _listed(shelf, get_reader(request))),
        )
    row = _add(book, mix, {"name": plain(mix.name)})
    return RedirectResponse(request.url_for("book_mix", key=row.key), status.HTTP_303_SEE_OTHER)


@router.post("/api/mixes", name="api_bring_mix", tags=["mixes"], status_code=201, dependencies=[OwnPage])
def api_bring_mix(file: dict[str, Any], book: Book) -> JSONResponse:
    """Bring a mix in: an exchange file as `/api/mixes/{key}` gives it. Answers with its new key."""
    mix = read_mix(json.dumps(file))
    row = _add(book, mix, {"name": plain(mix.name)})
    return JSONResponse({"key": row.key}, status.HTTP_201_CREATED)
