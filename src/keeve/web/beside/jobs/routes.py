"""The list of jobs, a new job, and the two switches in the head of every page."""

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Form, Query, Request, status
from fastapi.responses import RedirectResponse, Response

from keeve.catalogue.trying import outlook
from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import Said, Words, many, mark
from keeve.store.rows.crew_store import ON_A_PAGE, JobLine
from keeve.store.tables import JobRow
from keeve.web.asking.coats import coat_above, coats_above
from keeve.web.asking.deps import NIGHT_COOKIE, UNITS_COOKIE, AtDesk, Desk, Job, Looking, ReadBy, readable_sheet
from keeve.web.asking.standing import with_told
from keeve.web.edge.answers import GOES, PAGE, REFUSALS, file_of
from keeve.web.edge.security import OwnPage, cookie_name, is_tls
from keeve.web.pages.files import as_file
from keeve.web.pages.remembered import remembered
from keeve.web.pages.render import Page, page
from keeve.words.putting import t

router = APIRouter(responses=REFUSALS)
A_YEAR_S = 365 * 24 * 3600


@dataclass(frozen=True, slots=True)
class ListedJob:
    """One job as the list shows it."""

    line: JobLine
    stands: Words
    station: str
    go: Words


def listed(line: JobLine) -> ListedJob:
    """Say of a job where it stands, and where one goes on."""
    if not line.readable:
        return ListedJob(line, mark("Its sheet cannot be read"), "mixer" if line.loads else "measure", mark("Look"))
    if line.state == "done":
        return ListedJob(
            line,
            Said("Done: {made} of {loads}", made=str(line.made), loads=str(line.loads)),
            "look_back",
            mark("Look back"),
        )
    if line.state == "mixing":
        return ListedJob(
            line,
            Said("Mixing: {made} of {loads} done", made=str(line.made), loads=str(line.loads)),
            "mixer",
            mark("Go on"),
        )
    if line.state == "ready":
        return ListedJob(
            line, many("Ready: {n} load", "Ready: {n} loads", line.loads or 0), "loads", mark("See the loads")
        )
    if line.state == "measure":
        return ListedJob(line, mark("To be measured"), "measure", mark("Measure"))
    return ListedJob(line, mark("Its mix was changed: look at it"), "loads", mark("See the loads"))


@router.get("/", name="jobs", **PAGE)
def jobs(
    request: Request,
    desk: Looking,
    number: Annotated[int, Query(alias="page", ge=1, le=10_000)] = 1,
    find: Annotated[str, Query(max_length=200)] = "",
    away: Annotated[int, Query(ge=0, le=1)] = 0,
    gone: Annotated[str, Query(max_length=40)] = "",
) -> Response:
    """List the crew's jobs, all or those found by some words; one query, and nothing is worked out."""
    with desk() as at:
        lines = tuple(at.store.jobs(number, find, away=bool(away)))
        put_away = at.store.job_named(gone) if gone else None
    taken = (str(put_away.id), put_away.name) if put_away is not None and put_away.away else None

    def make() -> Page:
        return page(
            request,
            "jobs/page.html",
            jobs=[listed(line) for line in lines[:ON_A_PAGE]],
            more=len(lines) > ON_A_PAGE,
            number=number,
            find=find.strip(),
            away=bool(away),
            gone=taken,
            crew_name=request.app.state.settings.crew,
        )

    return remembered(request, ("jobs", number, find, away, taken), lines, make)


@router.post("/jobs", name="new_job", dependencies=[OwnPage], **GOES)
def new_job(
    request: Request,
    desk: AtDesk,
    reader: ReadBy,
    name: Annotated[str, Form(max_length=120)],
    place: Annotated[str, Form(max_length=120)] = "",
    mix: Annotated[str, Form(max_length=80)] = "",
) -> Response:
    """Open a job and go to its first station."""
    sheet = {"job": name.strip() or t(reader, "Job without a name"), "place": place.strip(), "mix": mix}
    with desk() as at:
        address = request.url_for("measure", job_id=_opened(at, sheet).id)
    return RedirectResponse(address, status.HTTP_303_SEE_OTHER)


def _opened(at: Desk, sheet: dict[str, Any]) -> JobRow:
    sheet = with_told(at, sheet, datetime.now(UTC))
    return at.store.new_job(sheet, outlook(sheet, at.shelf()))


@router.post("/jobs/{job_id}/copy", name="copy_job", dependencies=[OwnPage], **GOES)
def copy_job(request: Request, job_id: str, desk: AtDesk, reader: ReadBy) -> Response:
    """Open a job of the same sheet; the log stays where it is."""
    with desk() as at:
        job = at.job(job_id)
        readable_sheet(request, job)
        sheet = at.store.sheet(job)
        sheet = sheet | {"job": t(reader, "{job}, again", job=str(sheet.get("job", ""))[:100])}
        address = request.url_for("measure", job_id=_opened(at, sheet).id)
    return RedirectResponse(address, status.HTTP_303_SEE_OTHER)


@router.post("/jobs/{job_id}/next-coat", name="next_coat", dependencies=[OwnPage], **GOES)
def next_coat(
    request: Request,
    job_id: str,
    desk: AtDesk,
    reader: ReadBy,
    mix: Annotated[str, Form(max_length=80)] = "",
) -> Response:
    """Open the job of the coat that follows on the same measured wall: the usual one, or the one named."""
    with desk() as at:
        job = at.job(job_id)
        sheet, shelf = at.store.sheet(job), at.shelf()
        coats = [coat for coat, _ in coats_above(shelf, job.mix_key) if mix in ("", coat.mix)]
        if not coats:
            raise MixError(
                Fault(Code.UNKNOWN, mark("No coat follows this mix."), mark("Copy the job and choose a mix."))
            )
        name = t(reader, "{job}, next coat", job=job.name[:100])
        above = coat_above(sheet, job, coats[0], name)
        address = request.url_for("measure", job_id=_opened(at, above).id)
    return RedirectResponse(address, status.HTTP_303_SEE_OTHER)


@router.post("/jobs/{job_id}/away", name="put_job_away", dependencies=[OwnPage], **GOES)
def put_job_away(request: Request, job_id: str, desk: AtDesk, back: Annotated[int, Form()] = 0) -> Response:
    """Take a job out of the list, or bring it back; nothing of it is lost."""
    with desk() as at:
        at.store.put_away(at.job(job_id), away=not back)
    gone = "" if back else f"?gone={job_id}"
    return RedirectResponse(f"{request.url_for('jobs')}{gone}", status.HTTP_303_SEE_OTHER)


@router.post("/jobs/{job_id}/delete", name="delete_job", dependencies=[OwnPage], **GOES)
def delete_job(request: Request, job_id: str, desk: AtDesk) -> Response:
    """Delete a job for good that was put away and never mixed."""
    with desk() as at:
        if not at.store.delete(at.job(job_id)):
            raise MixError(
                Fault(
                    Code.REFUSED,
                    mark("This job was mixed or tested, or is not put away: what was written down stays."),
                    mark("Put away, it is in nobody's way; its log can still be found."),
                )
            )
    return RedirectResponse(f"{request.url_for('jobs')}?away=1", status.HTTP_303_SEE_OTHER)


@router.post("/jobs/{job_id}/name", name="rename_job", dependencies=[OwnPage], **GOES)
def rename_job(
    request: Request,
    job_id: str,
    desk: AtDesk,
    reader: ReadBy,
    name: Annotated[str, Form(max_length=120)] = "",
    place: Annotated[str, Form(max_length=120)] = "",
) -> Response:
    """Give a job another name and place."""
    with desk() as at:
        at.store.rename(at.job(job_id), name.strip() or t(reader, "Job without a name"), place.strip())
    return RedirectResponse(request.url_for("jobs"), status.HTTP_303_SEE_OTHER)


@router.get("/jobs/{job_id}/raw", name="raw_sheet", **file_of("application/json"))
def raw_sheet(job: Job) -> Response:
    """Hand a job's sheet out as it is kept, readable or not."""
    return as_file(job.sheet, "keeve-sheet")


def _back(request: Request) -> str:
    referer = request.headers.get("referer", "")
    return referer if referer.startswith(str(request.base_url)) else str(request.url_for("jobs"))


def _switched(request: Request, cookie: str, value: str) -> Response:
    answer = RedirectResponse(_back(request), status.HTTP_303_SEE_OTHER)
    named, tls = cookie_name(request, cookie), is_tls(request)
    answer.set_cookie(named, value, max_age=A_YEAR_S, samesite="strict", httponly=True, secure=tls)
    return answer


@router.post("/units", name="set_units", dependencies=[OwnPage], **GOES)
def set_units(request: Request, units: Annotated[Literal["metric", "us"], Form()]) -> Response:
    """Remember the reader's units."""
    return _switched(request, UNITS_COOKIE, units)


@router.post("/night", name="set_night", dependencies=[OwnPage], **GOES)
def set_night(request: Request, night: Annotated[Literal["0", "1"], Form()]) -> Response:
    """Remember day or night colours."""
    return _switched(request, NIGHT_COOKIE, night)
