"""Which loads and bags went into which piece of a job, for its page, its record and the labels."""

from datetime import datetime
from itertools import groupby
from typing import Annotated, Literal, NamedTuple
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from keeve.catalogue.trying import try_plan
from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import Words, mark, verbatim
from keeve.core.records.review import Review, review
from keeve.core.records.tracing import Delivery, Filled, Made, Piece, bags_of, filled_by
from keeve.store.rows.logs import Log
from keeve.store.tables import JobRow
from keeve.web.asking.deps import Desk, Looking, ReadBy
from keeve.web.asking.entries import try_stock
from keeve.web.edge.answers import REFUSALS, file_of
from keeve.web.edge.settings import here
from keeve.web.pages.press import Printed
from keeve.web.pages.render import rendered
from keeve.web.pages.shape_forms import title_of
from keeve.words.showing import runs_of

router = APIRouter(responses=REFUSALS)


class Traced(NamedTuple):
    """A piece with its loads, the days they were mixed, and the bags they came from."""

    filled: Filled
    runs: str
    """Numbers of its loads, said briefly."""
    days: tuple[datetime, ...]
    bags: tuple[tuple[Words, Delivery], ...]


def _pieces(at: Desk, job: JobRow) -> list[Piece]:
    """List the pieces of a job by its take-off as it stands."""
    tried = try_plan(at.store.sheet(job), at.shelf())
    if tried.plan is None or tried.request is None:
        return []
    found: list[Piece] = []
    for item in tried.plan.need.items:
        shape = tried.request.shapes[item.shape] if item.shape >= 0 else None
        typed = item.note or (getattr(shape, "name", None) or "" if shape else job.name)
        name = verbatim(typed) or (title_of(shape.kind) if shape else "")
        found += [Piece(name, n, item.count, item.order_m3 / item.count * 1000) for n in range(1, item.count + 1)]
    return found


def _deliveries(at: Desk) -> list[Delivery]:
    found = []
    for row in at.book.entries("stock"):
        sheet, _ = try_stock(row.entry)
        if sheet is not None and sheet.delivered is not None:
            found.append(Delivery(sheet.material, sheet.delivered, sheet.note))
    return found


def traced(at: Desk, job: JobRow, log: Log, found: Review) -> tuple[Traced, ...]:
    """Say which loads and bags are in which piece; nothing where no load was used or no piece is measured."""
    zone = ZoneInfo(here())
    used = [row for row in found.rows if row.state.ended == "accepted"]
    begun = {row.state.number: datetime.fromtimestamp(row.state.begun_ms / 1000, zone) for row in used}
    loads = [Made(row.state.number, row.state.made_m3 * 1000) for row in used]
    if not loads:
        return ()
    names = {dose.key: dose.name for ticket in log.tickets.values() for dose in ticket.cards[0].doses}
    deliveries = _deliveries(at)
    rows: list[Traced] = []
    for one in filled_by(_pieces(at, job), loads):
        moments = [begun[number] for number in one.loads]
        days = tuple(next(same) for _, same in groupby(sorted(moments), key=lambda moment: moment.date()))
        bags = {bag for day in days for bag in bags_of(deliveries, names, day.date())}
        told = tuple((names[bag.material], bag) for bag in sorted(bags, key=lambda bag: (bag.material, bag.on)))
        rows.append(Traced(one, runs_of(list(one.loads)), days, told))
    return tuple(rows)


@router.get("/jobs/{job_id}/labels.pdf", name="labels", **file_of("application/pdf"))
def labels(
    request: Request,
    job_id: str,
    desk: Looking,
    reader: ReadBy,
    paper: Annotated[Literal["a4", "letter"], Query()] = "a4",
) -> Response:
    """Hand out a label for each piece that was cast: what it is, of what and when, and from which loads and bags."""
    with desk() as at:
        job = at.seen(job_id).job
        log = at.runs.log(job)
        pieces = [one for one in traced(at, job, log, review(log.run, log.tickets)) if one.filled.loads]
    if not pieces:
        raise MixError(Fault(Code.MISSING, mark("Nothing was cast yet: there is no label to print."), ""))
    html = rendered("paper/labels.html", reader, job=job, log=log, pieces=pieces, paper=paper)
    headers = {"content-disposition": 'inline; filename="labels.pdf"'}
    return Printed(request, html, paper, headers)
