"""Station 1: the take-off."""

from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Body, Query, Request
from fastapi.responses import Response

from keeve.catalogue.trying import try_plan
from keeve.web.deps import SheetedJob, Shelf, Store, get_reader
from keeve.web.measure.drawn import drawn, hatch_for
from keeve.web.render import fixed_part, page
from keeve.web.shared.routes import full_sheet, station_page
from keeve.web.shared.writes import Typed

router = APIRouter(include_in_schema=False)


@router.get("/jobs/{job_id}/measure", name="measure")
def measure(request: Request, job: SheetedJob, store: Store, shelf: Shelf) -> Response:
    """Show the shapes and what they add up to."""
    typed = store.sheet(job)
    tried = try_plan(typed, shelf, now=datetime.now(UTC))
    hatch = hatch_for(tried)
    shapes = drawn(full_sheet(typed)["shapes"], hatch)
    forms = fixed_part("measure/empty_forms.html", get_reader(request))
    return station_page(
        request, "measure", job, store, shelf, tried=tried, hatch=hatch, drawn=shapes, empty_forms=forms
    )


@router.post("/measure/drawn", name="drawn")
def draw(
    request: Request,
    sheet: Annotated[Typed, Body()],
    hatch: Annotated[str, Query(max_length=20, pattern="^[a-z]+$")] = "sand",
) -> Response:
    """Draw every shape of a sheet as typed; keeps nothing."""
    return page(request, "measure/all_drawn.html", drawn=drawn(sheet.get("shapes"), hatch))
