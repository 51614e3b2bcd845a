"""The list of jobs, a new job, and the two switches in the head of every page."""

from dataclasses import dataclass
from typing import Annotated, Literal

from fastapi import APIRouter, Form, Request, status
from fastapi.responses import RedirectResponse, Response

from keeve.core.batch import read_batch
from keeve.core.plan import Plan
from keeve.store.crew_store import CrewStore
from keeve.store.tables import JobRow
from keeve.web.deps import NIGHT_COOKIE, UNITS_COOKIE, Shelf, Store
from keeve.web.planning import try_plan
from keeve.web.render import page
from keeve.web.security import OwnPage

router = APIRouter(include_in_schema=False)
A_YEAR_S = 365 * 24 * 3600


@dataclass(frozen=True, slots=True)
class JobLine:
    """One job in the list."""

    job: JobRow
    plan: Plan | None
    mix_name: str
    stands: str
    station: str
    go: str


def _line(job: JobRow, store: CrewStore, shelf: Shelf) -> JobLine:
    tried = try_plan(store.sheet(job), shelf)
    mix_name = shelf.mixes[job.mix.based_on].name if job.mix.based_on in shelf.mixes else job.mix.based_on
    kept = store.kept(job)
    if kept is not None:
        batches = [read_batch(events) for events in kept.events.values()]
        done, loads = sum(1 for b in batches if b.ended == "accepted"), len(kept.plan.loads)
        if done >= loads:
            return JobLine(job, kept.plan, kept.request.mix.name, f"Done: {done} of {loads}", "look_back", "Look back")
        return JobLine(job, kept.plan, kept.request.mix.name, f"Mixing: {done} of {loads} done", "mixer", "Go on")
    if tried.plan is not None:
        count = len(tried.plan.loads)
        return JobLine(
            job, tried.plan, mix_name, f"Ready: {count} load{'s' if count > 1 else ''}", "loads", "See the loads"
        )
    return JobLine(job, None, mix_name, "To be measured", "measure", "Measure")


@router.get("/", name="jobs")
def jobs(request: Request, store: Store, shelf: Shelf) -> Response:
    """List the crew's jobs."""
    lines = [_line(job, store, shelf) for job in store.jobs()]
    return page(request, "jobs/page.html", jobs=lines, crew=store.crew())


@router.post("/jobs", name="new_job", dependencies=[OwnPage])
def new_job(
    request: Request,
    store: Store,
    name: Annotated[str, Form(max_length=120)],
    place: Annotated[str, Form(max_length=120)] = "",
    mix: Annotated[str, Form(max_length=80)] = "concrete-1-2-4",
) -> Response:
    """Open a job and go to its first station."""
    job = store.new_job({"job": name.strip() or "Job without a name", "place": place.strip(), "mix": mix})
    return RedirectResponse(request.url_for("measure", job_id=job.id), status.HTTP_303_SEE_OTHER)


def _back(request: Request) -> str:
    referer = request.headers.get("referer", "")
    return referer if referer.startswith(str(request.base_url)) else str(request.url_for("jobs"))


def _switched(request: Request, cookie: str, value: str) -> Response:
    answer = RedirectResponse(_back(request), status.HTTP_303_SEE_OTHER)
    answer.set_cookie(cookie, value, max_age=A_YEAR_S, samesite="strict", httponly=True)
    return answer


@router.post("/units", name="set_units", dependencies=[OwnPage])
def set_units(request: Request, units: Annotated[Literal["metric", "us"], Form()]) -> Response:
    """Remember the reader's units."""
    return _switched(request, UNITS_COOKIE, units)


@router.post("/night", name="set_night", dependencies=[OwnPage])
def set_night(request: Request, night: Annotated[Literal["0", "1"], Form()]) -> Response:
    """Remember day or night colours."""
    return _switched(request, NIGHT_COOKIE, night)
