"""The yard: vessels of the crew's own, drawn to scale as they are described, beside those that everybody has."""

from typing import Annotated, Any, Final

from fastapi import APIRouter, Body, Form, Request, status
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError

from keeve.catalogue import OWN
from keeve.catalogue.trying import pruned
from keeve.core.errors import Code, Fault, LoadError, TradeError, faults_of
from keeve.core.own_vessel import OwnVessel, VesselSheet, vessel_of
from keeve.core.said import Amount, Said, Words, mark
from keeve.core.vessels import Container, Mixer
from keeve.store.book_store import readable
from keeve.store.merging import settle
from keeve.store.tables import BookRow
from keeve.web.answers import GOES, PAGE, REFUSALS
from keeve.web.book.routes import find_entry
from keeve.web.deps import AtDesk, Book, Looking, ReadBy
from keeve.web.faults import fault_rows
from keeve.web.remembered import remembered
from keeve.web.render import Page, page
from keeve.web.security import OwnPage
from keeve.web.shared.typed import typed
from keeve.web.shared.writes import Typed, Write, written
from keeve.words.putting import put
from keeve.words.reader import Reader

router = APIRouter(responses=REFUSALS)
USES: Final[tuple[tuple[str, Words], ...]] = (
    ("measure", mark("Measure: pail, tin, box")),
    ("jug", mark("Measure: jug with marks")),
    ("bucket", mark("Mixer: bucket or tub")),
    ("tray", mark("Mixer: tray or barrow")),
    ("drum", mark("Mixer: drum")),
    ("pan", mark("Mixer: pan")),
)


def try_vessel(entry: dict[str, Any], key: str) -> tuple[OwnVessel | None, tuple[Fault, ...]]:
    """Make a vessel of what was typed."""
    try:
        return vessel_of(VesselSheet.model_validate(pruned(entry)), key), ()
    except ValidationError as error:
        return None, faults_of(error)
    except TradeError as error:
        return None, error.faults


def _in_row(vessels: list[Container | Mixer], reader: Reader) -> dict[str, Any]:
    own = frozenset(one.key for one in vessels if one.key.startswith(OWN))
    ordered = sorted(vessels, key=lambda one: one.key not in own)
    return {"vessels": ordered, "own": own, "names": [put(one.name, reader) for one in ordered]}


@router.get("/yard", name="yard", **PAGE)
def yard(request: Request, desk: Looking, reader: ReadBy) -> Response:
    """Show all vessels side by side, to one scale."""
    with desk() as at:

        def make() -> Page:
            shelf = at.shelf()
            measures, mixers = list(shelf.containers.values()), list(shelf.mixers.values())
            unfinished = [row for row in at.book.entries("vessel") if row.document is None and readable(row)]
            lost = [one for one in at.unreadable() if one.kind == "vessel"]
            return page(
                request, "yard/page.html", measures=_in_row([*measures], reader), mixers=_in_row([*mixers], reader),
                uses=USES, unfinished=unfinished, lost=lost,
            )  # fmt: skip

        return remembered(request, ("yard",), at.book_n(), make)


@router.post("/yard", name="new_vessel", dependencies=[OwnPage], **GOES)
def new_vessel(
    request: Request,
    book: Book,
    name: Annotated[str, Form(max_length=80)] = "",
    use: Annotated[str, Form(max_length=20)] = "measure",
) -> Response:
    """Begin to describe a vessel."""
    known = use if use in dict(USES) else "measure"
    row = book.add("vessel", {"name": name.strip() or "Bucket", "use": known}, None)
    return RedirectResponse(request.url_for("vessel", key=row.key), status.HTTP_303_SEE_OTHER)


@router.get("/yard/{key}", name="vessel", **PAGE)
def vessel(request: Request, key: str, desk: Looking, reader: ReadBy) -> Response:
    """Show a vessel: what is said of it, and what it holds."""
    with desk() as at:

        def make() -> Page:
            row = find_entry(request, at.book, "vessel", key)
            made, faults = try_vessel(row.entry, row.key)
            told = [fault for fault in faults if fault.code != Code.MISSING]
            return page(
                request, "yard/vessel.html", row=row, entry=typed(row.entry), uses=USES, made=made,
                faults=fault_rows(tuple(told), reader),
            )  # fmt: skip

        return remembered(request, ("vessel", key), at.book_n(), make)


@router.post("/yard/{key}/try", name="try_vessel", **PAGE)
def try_one(request: Request, key: str, entry: Annotated[Typed, Body()]) -> Response:
    """Draw a vessel as it is described; keeps nothing."""
    made, faults = try_vessel(entry, key)
    if made is None:
        raise LoadError(*faults)
    return page(request, "yard/answer.html", made=made)


@router.put("/yard/{key}/entry", name="keep_vessel", dependencies=[OwnPage])
def keep_vessel(request: Request, key: str, desk: AtDesk, write: Annotated[Write, Body()]) -> dict[str, Any]:
    """Keep a vessel as described; jobs go on with the last form that could be understood."""
    with desk() as at:
        row = find_entry(request, at.book, "vessel", key, lock=True)
        settled = settle(row.entry, row.version, write.sheet, write.base, write.version)
        made, _ = try_vessel(settled.document, row.key)
        at.book.save(row, settled.document, made.vessel.model_dump(mode="json") if made else None)
        return written(settled, row.version)


@router.post("/yard/{key}/away", name="put_vessel_away", dependencies=[OwnPage], **GOES)
def put_vessel_away(request: Request, key: str, book: Book) -> Response:
    """Take a vessel out of the yard, unless a job is measured or mixed with it."""
    row: BookRow = find_entry(request, book, "vessel", key)
    jobs = book.in_sheets(key)
    if jobs:
        said = (
            Said("It is needed for “{job}” and {n} more.", job=jobs[0], n=Amount(len(jobs) - 1, "whole"))
            if len(jobs) > 1
            else Said("It is needed for “{job}”.", job=jobs[0])
        )
        raise LoadError(Fault(Code.REFUSED, said, "Choose another there first."))
    book.put_away(row, away=True)
    return RedirectResponse(request.url_for("yard"), status.HTTP_303_SEE_OTHER)
