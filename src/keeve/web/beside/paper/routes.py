"""The ticket on paper and as files: PDF in four sizes, JSON, CSV and XLSX."""

import json
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from keeve.catalogue.trying import try_plan
from keeve.core.message.errors import Code, Fault, LoadError
from keeve.core.message.said import mark
from keeve.core.ticket.ticket import Ticket
from keeve.formats.writing.ticket_table import as_csv, as_xlsx
from keeve.store.tables import JobRow
from keeve.web.asking.deps import Desk, Looking, ReadBy
from keeve.web.drawings.common import code
from keeve.web.edge.answers import REFUSALS, file_of
from keeve.web.edge.links import MOST_HOURS, run_link
from keeve.web.pages.files import TYPES, Kind
from keeve.web.pages.press import Printed
from keeve.web.pages.render import rendered
from keeve.words.showing import runs_of

router = APIRouter(responses=REFUSALS)

Paper = Literal["a4", "a5", "letter", "roll"]


def ticket_of(at: Desk, job: JobRow, revision: int | None) -> Ticket:
    """Return a ticket that was taken, or the one of the sheet as it is now.

    Raises
    ------
    LoadError : the sheet cannot be planned, or there is no such ticket
    """
    if revision is not None:
        found = at.runs.log(job).tickets.get(revision)
        if found is None:
            raise LoadError(Fault(Code.UNKNOWN, mark("There is no ticket of this number."), "", field="revision"))
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
    desk: Looking,
    reader: ReadBy,
    paper: Annotated[Paper, Query()] = "a4",
    revision: Annotated[int | None, Query(ge=1, le=2**31 - 1)] = None,
    link_hours: Annotated[int, Query(ge=0, le=MOST_HOURS)] = MOST_HOURS,
) -> Response:
    """Hand the ticket out: on paper, with a code to its run that is good for some hours, or as a file."""
    with desk() as at:
        job = at.seen(job_id).job
        ticket = ticket_of(at, job, revision)
        name, place = job.name, job.place
        link = run_link(request, job, link_hours)
        run = link or str(request.url_for("mixer", job_id=job_id))
    body: bytes
    if kind == "pdf":
        values = {
            "ticket": ticket, "job_name": name, "place": place, "paper": paper, "qr": code(run),
            "link_hours": link_hours if link else 0,
            "numbers": [ticket.numbers(at_) for at_ in range(len(ticket.cards))], "runs_of": runs_of,
        }  # fmt: skip
        html = rendered("paper/ticket.html", reader, **values)
        return Printed(request, html, paper, {"content-disposition": 'inline; filename="ticket.pdf"'})
    if kind == "json":
        body = json.dumps(ticket.document(), indent=1, ensure_ascii=False).encode()
    elif kind == "csv":
        body = as_csv(ticket, reader)
    else:
        body = as_xlsx(ticket, reader)
    headers = {"content-disposition": f'attachment; filename="ticket.{kind}"'}
    return Response(body, media_type=TYPES[kind], headers=headers)
