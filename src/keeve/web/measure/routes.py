"""Station 1: the take-off."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from keeve.web.deps import Job, Shelf, Store
from keeve.web.shared.routes import station_page

router = APIRouter(include_in_schema=False)


@router.get("/jobs/{job_id}/measure", name="measure")
def measure(request: Request, job: Job, store: Store, shelf: Shelf) -> Response:
    """Show the shapes and what they add up to."""
    return station_page(request, "measure", job, store, shelf)
