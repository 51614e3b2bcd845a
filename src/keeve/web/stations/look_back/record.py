"""The record of a job: one or two pages for the client as PDF; its loads as CSV, workbook and JSON."""

from datetime import datetime
from typing import Annotated, Literal
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import mark
from keeve.core.records.review import review
from keeve.formats.writing.log_table import as_csv, as_xlsx
from keeve.web.asking.deps import Looking, ReadBy
from keeve.web.edge.answers import REFUSALS, file_of
from keeve.web.edge.settings import here
from keeve.web.pages.files import TYPES, Kind
from keeve.web.pages.press import Printed
from keeve.web.pages.render import rendered
from keeve.web.stations.look_back.tested import values_of
from keeve.web.stations.look_back.traced import traced

router = APIRouter(responses=REFUSALS)


@router.get("/jobs/{job_id}/record.{kind}", name="record", **file_of(*TYPES.values()))
def record(
    request: Request,
    job_id: str,
    kind: Kind,
    desk: Looking,
    reader: ReadBy,
    paper: Annotated[Literal["a4", "letter"], Query()] = "a4",
) -> Response:
    """Hand the record of a job out: what went into it, what was tested, and with which bags."""
    with desk() as at:
        job = at.seen(job_id).job
        log = at.runs.log(job)
        found = review(log.run, log.tickets)
        if not found.rows:
            raise MixError(Fault(Code.MISSING, mark("Nothing was mixed yet: there is no record."), ""))
        tests = values_of(at, job, log.newest.dry_cast_kg if log.newest else None)
        pieces = traced(at, job, log, found)
    body: bytes
    if kind == "pdf":
        zone = ZoneInfo(here())
        begun = {
            f"{row.state.number}{row.state.mixer}": datetime.fromtimestamp(row.state.begun_ms / 1000, zone)
            for row in found.rows
        }
        values = {"job": job, "log": log, "review": found, "paper": paper, "begun": begun, "traced": pieces} | tests
        html = rendered("paper/record.html", reader, **values)
        return Printed(request, html, paper, {"content-disposition": 'inline; filename="record.pdf"'})
    if kind == "csv":
        body = as_csv(found)
    elif kind == "xlsx":
        body = as_xlsx(found)
    else:
        body = found.model_dump_json(indent=1).encode()
    headers = {"content-disposition": f'attachment; filename="record.{kind}"'}
    return Response(body, media_type=TYPES[kind], headers=headers)
