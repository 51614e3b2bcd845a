"""Letting a phone in: the code that opens one run, and what a phone is told when it comes with it."""

from typing import Annotated, Any, Final

from fastapi import APIRouter, HTTPException, Path, Query, Request, status
from fastapi.responses import RedirectResponse, Response

from keeve.core.message.said import mark
from keeve.web.asking.deps import AtDesk, Job
from keeve.web.drawings.common import code
from keeve.web.edge.answers import GOES, PAGE, REFUSALS, SHOWS_OR_GOES
from keeve.web.edge.links import MOST_HOURS, read_link, run_cookie, run_link, still_open
from keeve.web.edge.security import OwnPage
from keeve.web.pages.render import page

router = APIRouter(tags=["phones"], responses=REFUSALS)
NO_LINK = mark("This link is too old, was taken back, or is not of this yard. Ask at the table for a new one.")
OFFERED_HOURS: Final = (2, 8, 24)


Hours = Annotated[int, Query(ge=1, le=MOST_HOURS)]


@router.get("/jobs/{job_id}/phone", name="phone", **PAGE)
def phone(request: Request, job: Job, hours: Hours = MOST_HOURS) -> Response:
    """Show the code a phone scans to join the run."""
    settings = request.app.state.settings
    link = run_link(request, job, hours)
    codes: dict[str, Any] = {"link": link, "trust": settings.trust, "hours": hours, "offered": OFFERED_HOURS}
    if link:
        codes |= {"link_code": code(link), "trust_code": code(settings.trust)}
    answer = page(request, "lan/phone.html", job=job, station="mixer", **codes)
    answer.headers["cache-control"] = "no-store"
    return answer


@router.post("/jobs/{job_id}/phone/back", name="take_links_back", dependencies=[OwnPage], **GOES)
def take_links_back(request: Request, job_id: str, desk: AtDesk) -> Response:
    """Take every code of a run back, printed ones too: who came in by one sees nothing more."""
    with desk() as at:
        job = at.job(job_id)
        job.link_n += 1
        at.runs.tell(job)
    return RedirectResponse(request.url_for("phone", job_id=job_id), status.HTTP_303_SEE_OTHER)


@router.get("/run/{token}", name="run_link", **SHOWS_OR_GOES)
def join(request: Request, token: Annotated[str, Path(max_length=500)]) -> Response:
    """Let a phone in to the run of its link, as long as that is good."""
    settings = request.app.state.settings
    link = read_link(settings.secret, settings.crew, token)
    request.state.link = link
    if link is None or not still_open(request):
        raise HTTPException(status.HTTP_403_FORBIDDEN, NO_LINK)
    answer = RedirectResponse(f"/jobs/{link.job}/mixer", status.HTTP_303_SEE_OTHER)
    answer.headers.append("set-cookie", run_cookie(request, token, link))
    return answer
