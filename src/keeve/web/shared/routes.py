"""What the three stations that edit the sheet have in common: showing it, and keeping it."""

from datetime import UTC, datetime
from typing import Annotated, Any

from fastapi import APIRouter, Body, Query, Request
from fastapi.responses import HTMLResponse

from keeve.catalogue.trying import Tried, outlook, try_plan
from keeve.core.errors import Code
from keeve.core.ticket import Ticket
from keeve.store.crew_store import CrewStore, merge_sheet
from keeve.store.tables import JobRow
from keeve.web.deps import AtDesk, Shelf, View, get_reader, shelf_for
from keeve.web.faults import fault_rows
from keeve.web.measure.so_far import shape_faults, so_far_values
from keeve.web.measure.take_off import measured_values
from keeve.web.render import page
from keeve.web.security import OwnPage
from keeve.web.shared.typed import typed as typed_document
from keeve.web.shared.writes import Typed, Write, written
from keeve.words.reader import Reader

router = APIRouter(include_in_schema=False)


def _loads_values(ticket: Ticket) -> dict[str, Any]:
    """Return what the answer of the loads shows beside the ticket: numbers of the loads, and what bounds them."""
    bounds = [bound.volume_m3 for bound in ticket.bounds]
    numbers = [ticket.numbers(at) for at in range(len(ticket.cards))]
    return {"numbers": numbers, "largest_at": bounds.index(min(bounds))}


def answer_values(station: View, tried: Tried, job_id: str, reader: Reader) -> dict[str, Any]:
    """Return what the template of a station's answer needs."""
    common: dict[str, Any] = {
        "plan": tried.plan,
        "ticket": tried.ticket,
        "request_": tried.request,
        "job_id": job_id,
        "bagged": "",
    }
    if tried.request is None or tried.plan is None or tried.ticket is None:
        return common
    common["bagged"] = tried.request.mix.bagged().name
    if station == "measure":
        return common | measured_values(tried.request, tried.plan, reader)
    return common | _loads_values(tried.ticket) if station == "loads" else common


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
        "admixtures": [],
        "waste_percent": None,
    } | typed
    tables = ("changes", "moisture_percent", "bulking_percent", "struck_kg", "temperatures", "looked_at")
    kinds: dict[str, type] = dict.fromkeys(tables, dict) | dict.fromkeys(("gauges", "admixtures"), list)
    return whole | {name: kind() for name, kind in kinds.items() if not isinstance(whole[name], kind)}


def station_page(
    request: Request, station: View, job: JobRow, store: CrewStore, shelf: Shelf, **more: Any
) -> HTMLResponse:
    """Show a station with the sheet as typed and the answer to it."""
    typed = store.sheet(job)
    tried = more.pop("tried", None) or try_plan(typed, shelf, now=datetime.now(UTC))
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
    reader = get_reader(request)
    tried = try_plan(sheet, shelf_for(request, sheet), now=datetime.now(UTC))
    rows = _rows(view, tried, sheet, reader)
    template, more = _answer(view, tried, sheet, reader)
    drawn = page(request, template, **(answer_values(view, tried, job_id, reader) | more))
    return {"answer": bytes(drawn.body).decode(), "faults": rows, "whole": tried.plan is not None}


@router.put("/jobs/{job_id}/sheet", name="keep_sheet", dependencies=[OwnPage])
def keep_sheet(job_id: str, desk: AtDesk, write: Annotated[Write, Body()]) -> dict[str, Any]:
    """Keep the sheet as typed, right or wrong; what somebody else wrote meanwhile is merged with it, and told."""
    with desk() as at:
        job = at.job(job_id)
        settled = merge_sheet(at.store, job, write.sheet, write.base, write.version)
        if not settled.meanwhile or settled.document != at.store.sheet(job):
            at.store.save_sheet(job, settled.document, outlook(settled.document, at.shelf()))
        return written(settled, job.version)
