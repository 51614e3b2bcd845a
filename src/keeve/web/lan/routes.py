"""Letting a phone in: the code that opens one run, and what a phone is told when it comes with it."""

from typing import Annotated, Any

import segno
from fastapi import APIRouter, HTTPException, Path, Request, status
from fastapi.responses import RedirectResponse, Response
from markupsafe import Markup

from keeve.core.said import mark
from keeve.web.answers import PAGE, REFUSALS, SHOWS_OR_GOES
from keeve.web.deps import Job
from keeve.web.lan.links import make_link, read_link, run_cookie
from keeve.web.render import page

router = APIRouter(tags=["phones"], responses=REFUSALS)
NO_LINK = mark("This link is a day old, or not of this yard. Ask at the table for a new one.")


def drawn(address: str) -> Markup:
    """Draw an address as a QR code."""
    return Markup(segno.make(address, error="m", micro=False).svg_inline(omitsize=True, border=4))  # noqa: S704


def run_link(request: Request, job_id: str) -> str:
    """Return the address that opens one run on a phone; empty where nobody may come over the network."""
    settings = request.app.state.settings
    return f"{settings.lan}/run/{make_link(settings.secret, settings.crew, job_id)}" if settings.lan else ""


@router.get("/jobs/{job_id}/phone", name="phone", **PAGE)
def phone(request: Request, job: Job) -> Response:
    """Show the code a phone scans to join the run."""
    settings = request.app.state.settings
    link = run_link(request, str(job.id))
    codes: dict[str, Any] = {"link": link, "trust": settings.trust}
    if link:
        codes |= {"link_code": drawn(link), "trust_code": drawn(settings.trust)}
    answer = page(request, "lan/phone.html", job=job, station="mixer", **codes)
    answer.headers["cache-control"] = "no-store"
    return answer


@router.get("/run/{token}", name="run_link", **SHOWS_OR_GOES)
def join(request: Request, token: Annotated[str, Path(max_length=500)]) -> Response:
    """Let a phone in to the run of its link, for a day."""
    settings = request.app.state.settings
    job = read_link(settings.secret, settings.crew, token)
    if job is None:
        raise HTTPException(status.HTTP_403_FORBIDDEN, NO_LINK)
    answer = RedirectResponse(f"/jobs/{job}/mixer", status.HTTP_303_SEE_OTHER)
    answer.headers.append("set-cookie", run_cookie(request, token))
    return answer
