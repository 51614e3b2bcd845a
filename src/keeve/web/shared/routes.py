"""What the three stations that edit the sheet have in common: showing it, and keeping it."""

from typing import Annotated, Any

from fastapi import APIRouter, Body, Request, status
from fastapi.responses import HTMLResponse, Response

from keeve.store.crew_store import CrewStore
from keeve.store.tables import JobRow
from keeve.web.deps import Job, Shelf, Store, View, get_units
from keeve.web.faults import fault_rows
from keeve.web.planning import Tried, try_plan
from keeve.web.render import page
from keeve.web.security import OwnPage

router = APIRouter(include_in_schema=False)


def answer_values(tried: Tried, job_id: str) -> dict[str, Any]:
    """Return what an answer's template needs."""
    return {"plan": tried.plan, "request_": tried.request, "mix": tried.mix, "job_id": job_id}


def full_sheet(typed: dict[str, Any]) -> dict[str, Any]:
    """Return the sheet with every part there and of its kind, so that templates need not ask."""
    whole = {
        "shapes": [],
        "changes": {},
        "moisture_percent": {},
        "bulking_percent": {},
        "gauges": [],
        "admixtures": [],
        "waste_percent": None,
    } | typed
    kinds = {"moisture_percent": dict, "bulking_percent": dict, "gauges": list, "admixtures": list}
    return whole | {name: kind() for name, kind in kinds.items() if not isinstance(whole[name], kind)}


def station_page(
    request: Request, station: View, job: JobRow, store: CrewStore, shelf: Shelf, **more: Any
) -> HTMLResponse:
    """Show a station with the sheet as typed and the answer to it."""
    typed = store.sheet(job)
    tried = more.pop("tried", None) or try_plan(typed, shelf)
    rows = fault_rows(tried.faults, get_units(request))
    values = {"job": job, "station": station, "sheet": full_sheet(typed), "faults": rows, "shelf": shelf} | more
    return page(request, f"{station}/page.html", **(values | answer_values(tried, str(job.id))))


@router.put("/jobs/{job_id}/sheet", name="keep_sheet", dependencies=[OwnPage], status_code=status.HTTP_204_NO_CONTENT)
def keep_sheet(job: Job, store: Store, sheet: Annotated[dict[str, Any], Body()]) -> Response:
    """Keep the sheet as typed, right or wrong."""
    store.save_sheet(job, sheet)
    return Response(status_code=status.HTTP_204_NO_CONTENT)
