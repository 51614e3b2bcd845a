"""The ticket on paper and as files: PDF in four sizes, JSON, CSV and XLSX."""

from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from importlib import import_module
from itertools import groupby
from pathlib import Path
from threading import BoundedSemaphore
from typing import Annotated, Final, Literal

from fastapi import APIRouter, HTTPException, Query, Request, status
from fastapi.responses import Response

from keeve.catalogue.trying import try_plan
from keeve.core.errors import Code, Fault, LoadError
from keeve.core.said import mark
from keeve.core.ticket import Ticket
from keeve.formats.ticket_table import as_csv, as_xlsx
from keeve.store.tables import JobRow
from keeve.web.answers import REFUSALS, file_of
from keeve.web.deps import AtDesk, Desk, ReadBy
from keeve.web.files import TYPES, Kind
from keeve.web.lan.routes import drawn, run_link
from keeve.web.render import STATIC, rendered

router = APIRouter(responses=REFUSALS)


MOST_AT_ONCE: Final = 2
"""Pages that are laid out at the same time: each takes a processor for a second."""
WAIT_S: Final = 30.0
_TURNS: Final = BoundedSemaphore(MOST_AT_ONCE)


@contextmanager
def turn() -> Iterator[None]:
    """Wait for a turn to lay out a page.

    Raises
    ------
    HTTPException : 429, it did not come in time
    """
    if not _TURNS.acquire(timeout=WAIT_S):
        said = mark("Too many tickets are being printed just now. Try again in a moment.")
        raise HTTPException(status.HTTP_429_TOO_MANY_REQUESTS, said)
    try:
        yield
    finally:
        _TURNS.release()


Paper = Literal["a4", "a5", "letter", "roll"]


def laid_out(html: str, paper: Paper) -> bytes:
    """Lay a page out as PDF.

    Raises
    ------
    LoadError : this machine lacks what draws it; everything else goes on
    """
    try:
        # Loaded when somebody prints: it takes a third of a second, and the libraries it stands on may be missing.
        pdf = import_module("keeve.formats.pdf")
    except OSError as error:
        said = mark("Nothing can be printed on this machine: it has no Pango.")
        raise LoadError(Fault(Code.REFUSED, said, mark("./keeve setup installs it."))) from error
    with turn():
        return bytes(pdf.as_pdf(html, paper, STATIC, drawing_style()))


@cache
def drawing_style() -> str:
    """Return the rules for what is drawn on paper."""
    return (Path(__file__).parent / "drawing.css").read_text(encoding="utf-8")


def runs_of(numbers: list[int]) -> str:
    """Say numbers briefly: 1 to 3, 5.

    >>> runs_of([1, 2, 3, 5])
    '1–3, 5'
    """
    runs = []
    for _, group in groupby(enumerate(numbers), lambda pair: pair[1] - pair[0]):
        found = [number for _, number in group]
        runs.append(str(found[0]) if len(found) == 1 else f"{found[0]}–{found[-1]}")
    return ", ".join(runs)


def ticket_of(at: Desk, job: JobRow, revision: int | None) -> Ticket:
    """Return a ticket that was taken, or the one of the sheet as it is now.

    Raises
    ------
    LoadError : the sheet cannot be planned, or there is no such ticket
    """
    if revision is not None:
        found = at.runs.log(job).tickets.get(revision)
        if found is None:
            raise LoadError(Fault(Code.UNKNOWN, mark("There is no ticket of this number."), "", "revision"))
        return found
    typed = at.store.sheet(job)
    tried = try_plan(typed, at.shelf())
    if tried.ticket is None:
        raise LoadError(*tried.faults)
    return tried.ticket


@router.get("/jobs/{job_id}/ticket.{kind}", name="ticket_file", **file_of(*TYPES.values()))
def ticket_file(
    request: Request,
    job_id: str,
    kind: Kind,
    desk: AtDesk,
    reader: ReadBy,
    paper: Annotated[Paper, Query()] = "a4",
    revision: Annotated[int | None, Query(ge=1, le=2**31 - 1)] = None,
) -> Response:
    """Hand the ticket out: on paper, or as a file."""
    with desk() as at:
        job = at.job(job_id)
        ticket = ticket_of(at, job, revision)
        name, place = job.name, job.place
        run = run_link(request, job_id) or str(request.url_for("mixer", job_id=job_id))
    body: bytes
    if kind == "json":
        body = ticket.model_dump_json(indent=1).encode()
    elif kind == "csv":
        body = as_csv(ticket, reader)
    elif kind == "xlsx":
        body = as_xlsx(ticket, reader)
    else:
        values = {
            "ticket": ticket, "job_name": name, "place": place, "paper": paper, "qr": drawn(run),
            "numbers": [ticket.numbers(at_) for at_ in range(len(ticket.cards))], "runs_of": runs_of,
        }  # fmt: skip
        body = laid_out(rendered("paper/ticket.html", reader, **values), paper)
    disposition = "inline" if kind == "pdf" else "attachment"
    return Response(
        body, media_type=TYPES[kind], headers={"content-disposition": f'{disposition}; filename="ticket.{kind}"'}
    )
