"""The yard: vessels of the crew's own, drawn to scale as they are described, beside those that everybody has."""

from typing import Annotated, Any, Final

from fastapi import APIRouter, Form, Request, status
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError

from keeve.catalogue import OWN
from keeve.catalogue.trying import pruned
from keeve.core.message.errors import Code, Fault, Frozen, TradeError, faults_of
from keeve.core.message.said import Words, mark
from keeve.core.vessels.own_scale import SCALES, ScaleSheet, scale_of
from keeve.core.vessels.own_vessel import OwnVessel, VesselSheet, vessel_of
from keeve.core.vessels.scales import Scale
from keeve.core.vessels.vessels import Container, Mixer
from keeve.store.rows.book_store import readable
from keeve.store.tables import BookRow
from keeve.web.asking.deps import Book, Desk, Looking, ReadBy
from keeve.web.asking.entries import find_entry
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
USES: Final[tuple[tuple[str, Words], ...]] = (
    ("measure", mark("Measure: pail, tin, box")),
    ("scoop", mark("Measure: shovel, trowel, spoon, cap")),
    ("jug", mark("Measure: jug or syringe with marks")),
    ("bucket", mark("Mixer: bucket or tub")),
    ("bowl", mark("Mixer: bowl")),
    ("two_buckets", mark("Mixer: two buckets")),
    ("tray", mark("Mixer: tray")),
    ("barrow", mark("Mixer: barrow")),
    ("sheet", mark("Mixer: sheet or board")),
    ("drum", mark("Mixer: drum")),
    ("pan", mark("Mixer: pan")),
    ("mortar", mark("Mixer: mortar mixer with paddles")),
    ("scale_hanging", mark("Scale: hanging")),
    ("scale_bench", mark("Scale: bench")),
    ("scale_kitchen", mark("Scale: kitchen")),
)
WORDS: Final[tuple[tuple[str, Words], ...]] = (
    ("", mark("by its name")),
    ("pail", mark("pail")),
    ("bucket", mark("bucket")),
    ("tin", mark("tin")),
    ("box", mark("box")),
    ("shovel", mark("shovel")),
    ("trowel", mark("trowel")),
    ("spoon", mark("spoon")),
    ("cap", mark("cap")),
    ("jug", mark("jug")),
)
UNITS: Final[tuple[tuple[str, Words], ...]] = (("kg", "kg"), ("g", "g"), ("lb", "lb"), ("oz", "oz"))


def try_vessel(entry: dict[str, Any], key: str) -> tuple[OwnVessel | Scale | None, tuple[Fault, ...]]:
    """Make a vessel or a scale of what was typed; what belongs to another use stays with the entry, unread."""
    try:
        if entry.get("use") in SCALES:
            return scale_of(ScaleSheet.model_validate(_mine(entry, ScaleSheet)), key), ()
        entry = _mine(entry, VesselSheet)
        return vessel_of(VesselSheet.model_validate(pruned(entry)), key), ()
    except ValidationError as error:
        return None, faults_of(error)
    except TradeError as error:
        return None, error.faults


def _mine(entry: dict[str, Any], sheet: type[Frozen]) -> Any:
    mine = pruned({name: value for name, value in entry.items() if name in sheet.model_fields})
    if isinstance(mine.get("fills"), list):  # a row nobody has written in says nothing
        mine["fills"] = [row for row in mine["fills"] if row not in (None, {})]
    return mine


def _choices(entry: dict[str, Any]) -> dict[str, Any]:
    """Return what the page of a vessel lets choose, and the heights it was filled to."""
    fills = entry.get("fills")
    rows = [typed(one) for one in fills] if isinstance(fills, list) else []
    return {"called": WORDS, "units_of_scales": UNITS, "fills": [*rows, *(typed({}) for _ in range(4 - len(rows)))]}


def _document(made: OwnVessel | Scale) -> dict[str, Any]:
    return (made if isinstance(made, Scale) else made.vessel).model_dump(mode="json")


def _in_row(vessels: list[Container | Mixer], reader: Reader) -> dict[str, Any]:
    own = frozenset(one.key for one in vessels if one.key.startswith(OWN))
    ordered = sorted(vessels, key=lambda one: one.key not in own)
    return {"vessels": ordered, "own": own, "names": [put(one.name, reader) for one in ordered]}


@router.get("/yard", name="yard", **PAGE)
def yard(request: Request, desk: Looking, reader: ReadBy, away: Away = None) -> Response:
    """Show all vessels side by side, to one scale."""
    with desk() as at:

        def make() -> Page:
            shelf = at.shelf()
            measures, mixers = list(shelf.containers.values()), list(shelf.mixers.values())
            unfinished = [row for row in at.book.entries("vessel") if row.document is None and readable(row)]
            lost = [one for one in at.unreadable() if one.kind == "vessel"]
            return page(
                request, "yard/page.html", measures=_in_row([*measures], reader), mixers=_in_row([*mixers], reader),
                scales=list(shelf.scales.values()),
                uses=USES, unfinished=unfinished, lost=lost, **gone(at.book, "vessel", away),
            )  # fmt: skip

        return remembered(request, ("yard", away), at.book_n(), make)


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
                **_choices(row.entry),
                faults=fault_rows(tuple(told), reader),
            )  # fmt: skip

        return remembered(request, ("vessel", key), at.book_n(), make)


def _answer(request: Request, _at: Desk, _row: BookRow, made: OwnVessel | Scale) -> Page:
    return page(request, "yard/answer.html", made=made)


VESSEL: Final = Thing(
    "vessel", "vessel", "/yard/{key}", "vessel", "yard",
    read=lambda _at, row, entry: try_vessel(entry, row.key),
    answer=_answer,
    document=_document,
)  # fmt: skip
router.include_router(routes_of(VESSEL))
