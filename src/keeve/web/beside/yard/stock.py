"""Stock and buying: what lies in the yard, what the jobs take, what has to be bought and what it costs."""

from datetime import UTC, date, datetime
from typing import Annotated, Final, Literal, NamedTuple
from uuid import UUID

from fastapi import APIRouter, Form, Query, Request, status
from fastapi.responses import RedirectResponse, Response

from keeve.catalogue import Catalogue
from keeve.catalogue.trying import try_plan
from keeve.core.measure.moments import of_our_days
from keeve.core.message.errors import Code
from keeve.core.records.review import review
from keeve.core.yard.buying import BuyLine, Needed, Stocked, StockSheet, Sum, buying
from keeve.formats.writing.tables import csv_of, xlsx_of
from keeve.store.rows.book_store import readable
from keeve.store.rows.crew_store import JobLine
from keeve.store.tables import BookRow, Document, JobRow
from keeve.web.asking.deps import Book, Desk, Looking, ReadBy
from keeve.web.asking.entries import find_entry, try_stock
from keeve.web.beside.own_things import Away, Thing, gone, routes_of
from keeve.web.beside.paper.routes import Paper
from keeve.web.drawings.common import hatch_of
from keeve.web.edge.answers import GOES, PAGE, REFUSALS, file_of
from keeve.web.edge.security import OwnPage
from keeve.web.pages.faults import fault_rows
from keeve.web.pages.files import TYPES
from keeve.web.pages.press import Printed
from keeve.web.pages.render import page, rendered
from keeve.web.pages.typed import typed
from keeve.words.putting import put
from keeve.words.reader import Reader

router = APIRouter(responses=REFUSALS)
MOST_JOBS: Final = 50
COUNTED: Final = "counted_at"
"""In an entry: when somebody last said how much there is."""


def _counted_at(row: BookRow) -> datetime:
    try:
        found = of_our_days(datetime.fromisoformat(str(row.entry.get(COUNTED, ""))))
    except ValueError:
        return row.changed_at
    return found if found.tzinfo is not None else row.changed_at


class Shelved(NamedTuple):
    """One entry of the stock as a page shows it."""

    row: BookRow
    sheet: StockSheet
    used_kg: float

    @property
    def left_kg(self) -> float:
        """What is there now [kg]."""
        return max(self.sheet.held_kg - self.used_kg, 0.0)


def shelved(at: Desk) -> list[Shelved]:
    """Return the stock as it is now: what was counted, less what was used since."""
    rows = [row for row in at.book.entries("stock") if readable(row)]
    read = [(row, sheet) for row in rows if (sheet := try_stock(row.entry)[0]) is not None]
    used = at.stock.used_since(sorted({_counted_at(row) for row, _ in read}))
    return [Shelved(row, sheet, used[_counted_at(row)].get(sheet.material, 0.0)) for row, sheet in read]


@router.get("/stock", name="stock", **PAGE)
def stock(request: Request, desk: Looking, reader: ReadBy, away: Away = None) -> Response:
    """Show what lies in the yard."""
    with desk() as at:
        shelf = at.shelf()
        names = {material.key: put(material.name, reader) for material in shelf.materials.values()}
        unread = [row for row in at.book.entries("stock") if not readable(row) or try_stock(row.entry)[0] is None]
        hatches = {material.key: hatch_of(material.role) for material in shelf.materials.values()}
        return page(
            request, "yard/stock.html", shelved=shelved(at), names=names, unread=unread, hatch_names=hatches,
            **gone(at.book, "stock", away),
        )  # fmt: skip


@router.post("/stock", name="new_stock", dependencies=[OwnPage], **GOES)
def new_stock(request: Request, book: Book, material: Annotated[str, Form(max_length=80)] = "") -> Response:
    """Put something into the stock."""
    entry = {"material": material, COUNTED: datetime.now(UTC).isoformat()}
    row = book.add("stock", entry, None)
    return RedirectResponse(request.url_for("stock_entry", key=row.key), status.HTTP_303_SEE_OTHER)


@router.get("/stock/{key}", name="stock_entry", **PAGE)
def stock_entry(request: Request, key: str, desk: Looking, reader: ReadBy) -> Response:
    """Show one entry of the stock."""
    with desk() as at:
        row = find_entry(request, at.book, "stock", key)
        sheet, faults = try_stock(row.entry)
        told = tuple(fault for fault in faults if fault.code != Code.MISSING)
        materials = [(m.key, put(m.name, reader)) for m in at.shelf().materials.values()]
        return page(
            request, "yard/stock_entry.html", row=row, entry=typed(row.entry), sheet=sheet, materials=materials,
            now=next((one for one in shelved(at) if one.row.key == key), None),
            faults=fault_rows(told, reader),
        )  # fmt: skip


def _entered(row: BookRow, entry: Document) -> Document:
    """Whoever writes how much there is has counted it just now."""
    amounts = ("packs", "opened_percent", "pack_kg")
    counted = any(entry.get(name) != row.entry.get(name) for name in amounts)
    return entry | {COUNTED: datetime.now(UTC).isoformat()} if counted else entry


STOCK: Final = Thing(
    "stock", "stock", "/stock/{key}", "stock_entry", "stock",
    read=lambda _at, _row, entry: try_stock(entry),
    answer=lambda request, _at, _row, sheet: page(request, "yard/stock_answer.html", sheet=sheet),
    entered=_entered,
)  # fmt: skip
router.include_router(routes_of(STOCK))


class Bought(NamedTuple):
    """A buying list, and the jobs it is for."""

    lines: tuple[BuyLine, ...]
    sums: tuple[Sum, ...]
    jobs: list[JobLine]
    chosen: frozenset[UUID]
    unplanned: list[str]
    """Jobs that were chosen and cannot be planned yet."""


def needs_of(at: Desk, job: JobRow, shelf: Catalogue) -> list[Needed] | None:
    """Return what a job still takes; None where it cannot be planned."""
    tried = try_plan(at.store.sheet(job), shelf)
    if tried.request is None or tried.plan is None or tried.brief is None:
        return None
    mix = tried.request.mix
    pack = {mix.bagged().key: mix.sold_kg()}
    sold = {m.key: m.packs[0].mass_kg for m in mix.materials() if m.packs}
    kg = {total.key: total.batch_kg for total in tried.brief.totals}
    if job.event_n > 0:
        log = at.runs.log(job)
        kg = {used.key: used.to_come_kg for used in review(log.run, log.tickets).used if used.key in kg}
    return [
        Needed(m.key, m.name, m.role, kg[m.key], pack.get(m.key) or sold.get(m.key))
        for m in mix.materials()
        if kg.get(m.key, 0.0) > 0
    ]


def bought(at: Desk, wanted: list[UUID], spare_percent: float) -> Bought:
    """Draw up the list for some jobs; with none named, for all that are not done."""
    jobs = [line for line in at.store.jobs() if line.readable][:MOST_JOBS]
    open_jobs = [line.id for line in jobs if line.state in ("ready", "mixing")]
    chosen = [line.id for line in jobs if line.id in wanted] or open_jobs
    shelf, needs, unplanned = at.shelf(), [], []
    for line in jobs:
        if line.id not in chosen:
            continue
        job = at.store.job(line.id)
        found = needs_of(at, job, shelf) if job is not None else None
        if found is None:
            unplanned.append(line.name)
        else:
            needs += found
    stocked: dict[str, list[Stocked]] = {}
    for one in shelved(at):
        stocked.setdefault(one.sheet.material, []).append(Stocked(one.sheet, one.used_kg))
    lines, sums = buying(needs, stocked, spare_percent, datetime.now(UTC).date())
    return Bought(lines, sums, jobs, frozenset(chosen), unplanned)


Jobs = Annotated[list[UUID], Query(max_length=MOST_JOBS)]
Spare = Annotated[float, Query(ge=0, le=100)]


@router.get("/buying", name="buying", **PAGE)
def buying_list(request: Request, desk: Looking, job: Jobs = [], spare: Spare = 5.0) -> Response:  # noqa: B006
    """Show what has to be bought for the jobs."""
    with desk() as at:
        found = bought(at, job, spare)
        return page(request, "yard/buying.html", found=found, spare=spare, today=date.today())  # noqa: DTZ011


def _rows(found: Bought, reader: Reader) -> list[list[str]]:
    amounts = ["needed_kg", "in_stock_kg", "packs", "pack_kg", "buy_kg", "left_kg"]
    head = ["material", *amounts, "keeps_until", "cost_bought", "cost_used", "currency"]
    rows = [head]
    for line in found.lines:
        money = ["" if cost is None else f"{cost:.2f}" for cost in (line.bought, line.used)]
        rows.append(
            [put(line.name, reader), f"{line.needed_kg:.6g}", f"{line.in_stock_kg:.6g}", str(line.packs),
             f"{line.pack_kg:g}" if line.pack_kg else "", f"{line.buy_kg:.6g}", f"{line.left_kg:.6g}",
             line.keeps_until.isoformat() if line.keeps_until else "", *money, line.currency]
        )  # fmt: skip
    return rows


@router.get("/buying.{kind}", name="buying_file", **file_of(TYPES["pdf"], TYPES["csv"], TYPES["xlsx"]))
def buying_file(
    request: Request,
    kind: Literal["pdf", "csv", "xlsx"],
    desk: Looking,
    reader: ReadBy,
    job: Jobs = [],  # noqa: B006
    spare: Spare = 5.0,
    paper: Annotated[Paper, Query()] = "a4",
) -> Response:
    """Hand the buying list out: on paper, or as a table."""
    with desk() as at:
        found = bought(at, job, spare)
    if kind == "pdf":
        html = rendered("paper/buying.html", reader, found=found, paper=paper, spare=spare)
        return Printed(request, html, paper, {"content-disposition": 'inline; filename="buying.pdf"'})
    if kind == "csv":
        body = csv_of(_rows(found, reader)).encode()
    else:
        body = xlsx_of(_rows(found, reader), frozenset({1, 2, 3, 4, 5, 6, 8, 9}))
    headers = {"content-disposition": f'attachment; filename="buying.{kind}"'}
    return Response(body, media_type=TYPES[kind], headers=headers)
