"""What the three stations that edit the sheet have in common: showing it, and keeping it."""

from collections.abc import Callable
from datetime import UTC, datetime
from typing import Annotated, Any, Final, NamedTuple

from fastapi import APIRouter, Body, Query, Request
from starlette.requests import HTTPConnection

from keeve.catalogue import Catalogue
from keeve.catalogue.trying import Tried, looks_hold_until, outlook, try_plan
from keeve.core.message.errors import Code
from keeve.core.message.said import Words, mark
from keeve.core.ticket.ticket import Ticket
from keeve.store.rows.crew_store import merge_sheet
from keeve.store.tables import JobRow
from keeve.web.asking.deps import At, AtDesk, Desk, View, get_reader, readable_sheet, shelf_for
from keeve.web.asking.writes import Typed, Write, written
from keeve.web.drawings.sketches import drawn, hatch_for
from keeve.web.edge.answers import REFUSALS
from keeve.web.edge.security import OwnPage
from keeve.web.pages.faults import fault_rows
from keeve.web.pages.remembered import remembered
from keeve.web.pages.render import Page, page, part_of_page
from keeve.web.pages.typed import typed as typed_document
from keeve.web.stations.so_far import shape_faults, so_far_values
from keeve.web.stations.take_off import measured_values
from keeve.words.putting import t
from keeve.words.reader import Reader

router = APIRouter(responses=REFUSALS)


WAYS: Final = {
    "whole_bags": mark("Whole bags"),
    "half_bags": mark("Half bags"),
    "n_bags": mark("So many bags"),
    "part_bags": mark("Bags in parts"),
    "whole_gauges": mark("Whole measures"),
    "equal": mark("All alike"),
    "fewest": mark("Full, short last"),
    "by_pace": mark("By pace"),
    "each_pour": mark("Each pour by itself"),
}


def _loads_values(ticket: Ticket, reader: Reader) -> dict[str, Any]:
    """Return what the answer of the loads shows beside the ticket: numbers of the loads, and what bounds them."""
    names: dict[str, Words] = {dose.key: dose.name for card in ticket.cards for dose in card.doses}
    bounds = [bound.volume_m3 for bound in ticket.bounds]
    numbers = [ticket.numbers(at) for at in range(len(ticket.cards))]
    return {
        "numbers": numbers,
        "largest_at": bounds.index(min(bounds)),
        "way_names": {key: t(reader, name) for key, name in WAYS.items()},
        "worst_names": names | {"water": mark("Water")},
    }


def answer_values(station: View, tried: Tried, job_id: str, reader: Reader) -> dict[str, Any]:
    """Return what the template of a station's answer needs."""
    common: dict[str, Any] = {
        "plan": tried.plan,
        "ticket": None,
        "request_": tried.request,
        "job_id": job_id,
        "bagged": "",
    }
    if tried.request is None or tried.plan is None:
        return common
    common["bagged"] = tried.request.mix.bagged().name
    if station == "measure":  # the plan says it all: no ticket is written for it
        return common | measured_values(tried.request, tried.plan, reader)
    ticket = common["ticket"] = tried.ticket if station == "loads" else tried.brief
    if ticket is None:
        return common
    return common | _loads_values(ticket, reader) if station == "loads" else common


def full_sheet(typed: dict[str, Any]) -> dict[str, Any]:
    """Return the sheet with every part there and of its kind, so that templates need not ask."""
    whole = {
        "shapes": [],
        "changes": {},
        "moisture_percent": {},
        "struck_kg": {},
        "looked_at": {},
        "temperatures": {},
        "bulking_percent": {},
        "gauges": [],
        "scales": [],
        "measured": {},
        "start": "",
        "admixtures": [],
        "waste_percent": None,
    } | typed
    tables = ("changes", "moisture_percent", "bulking_percent", "struck_kg", "temperatures", "looked_at", "measured")
    kinds: dict[str, type] = dict.fromkeys(tables, dict) | dict.fromkeys(("gauges", "scales", "admixtures"), list)
    return whole | {name: kind() for name, kind in kinds.items() if not isinstance(whole[name], kind)}


class Shown(NamedTuple):
    """What a station shows: the job with its sheet as typed, and what was worked out of it."""

    at: Desk
    job: JobRow
    typed: dict[str, Any]
    shelf: Catalogue
    tried: Tried


def seen_station(
    request: Request, desk: At, job_id: str, station: View, more: Callable[[Shown], dict[str, Any]]
) -> Page:
    """Show a station as it was last written, or write it; `more` gives what only this one shows."""
    with desk() as at:
        seen = at.seen(job_id)
        readable_sheet(request, seen.job)
        typed = at.store.sheet(seen.job)
        now = datetime.now(UTC)

        def make() -> Page:
            shelf = at.shelf()
            shown = Shown(at, seen.job, typed, shelf, try_plan(typed, shelf, now=now))
            return _station_page(request, station, shown, more(shown))

        stands_on = (seen.stamp, seen.book_n)
        return remembered(request, (station, seen.job.id), stands_on, make, looks_hold_until(typed, now))


def _station_page(request: Request, station: View, shown: Shown, more: dict[str, Any]) -> Page:
    _, job, typed, shelf, tried = shown
    rows = _rows(station, tried, typed, get_reader(request))
    template, part = _answer(station, tried, typed, get_reader(request))
    values = {
        "answer_template": template,
        "job": job,
        "station": station,
        "sheet": typed_document(full_sheet(typed)),
        "shelf": shelf,
        **part,
        "faults": rows,
    } | more
    return page(
        request, f"{station}/page.html", **(values | answer_values(station, tried, str(job.id), get_reader(request)))
    )


def _answer(station: View, tried: Tried, typed: Any, reader: Reader) -> tuple[str, dict[str, Any]]:
    """Choose the template of a station's answer, and what a sheet that cannot be planned shows in its place."""
    if tried.plan is not None:
        return f"{station}/answer.html", {}
    if station == "measure":
        return "measure/so_far.html", so_far_values(typed, reader)
    return "shared/refused.html", {}


def _rows(station: View, tried: Tried, typed: Any, reader: Reader) -> list[dict[str, Any]]:
    """Write the faults of a sheet; one who measures has not chosen a mix yet, and need not be told."""
    if station != "measure":
        return fault_rows(tried.faults, reader)
    faults = [fault for fault in tried.faults if (fault.field, fault.code) != ("mix", Code.MISSING)]
    if len(faults) < len(tried.faults):  # then the shapes were not looked at yet
        faults += shape_faults(typed)
    return fault_rows(tuple(faults), reader)


@router.post("/jobs/{job_id}/answer", name="station_answer")
def station_answer(
    request: Request, job_id: str, sheet: Annotated[Typed, Body()], view: Annotated[View, Query()]
) -> dict[str, Any]:
    """Work out a sheet as typed and draw a station's answer, with what is wrong beside it; keeps nothing."""
    return answered(request, job_id, sheet, view)


def answered(asked: HTTPConnection, job_id: str, sheet: dict[str, Any], view: View) -> dict[str, Any]:
    """Work out a sheet as typed: a station's answer as a part of a page, and what is wrong."""
    reader = get_reader(asked)
    tried = try_plan(sheet, shelf_for(asked, sheet), now=datetime.now(UTC))
    rows = _rows(view, tried, sheet, reader)
    template, more = _answer(view, tried, sheet, reader)
    shown = part_of_page(asked, template, **(answer_values(view, tried, job_id, reader) | more))
    answer = {"answer": shown, "faults": rows, "whole": tried.plan is not None}
    if view == "measure":  # every shape, also where the sheet is refused: a slip must be seen
        shapes = drawn(sheet.get("shapes"), hatch_for(tried))
        answer["drawn"] = part_of_page(asked, "measure/all_drawn.html", drawn=shapes)
    return answer


@router.put("/jobs/{job_id}/sheet", name="keep_sheet", dependencies=[OwnPage])
def keep_sheet(job_id: str, desk: AtDesk, write: Annotated[Write, Body()]) -> dict[str, Any]:
    """Keep the sheet as typed, right or wrong; what somebody else wrote meanwhile is merged with it, and told."""
    with desk() as at:
        job = at.job(job_id)
        settled = merge_sheet(at.store, job, write.sheet, write.base, write.version)
        if not settled.meanwhile or settled.document != at.store.sheet(job):
            at.store.save_sheet(job, settled.document, outlook(settled.document, at.shelf()))
        return written(settled, job.version)
