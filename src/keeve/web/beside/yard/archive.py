"""All of a yard as one file, and back."""

import json
import tempfile
from collections.abc import Iterator
from typing import Annotated

from fastapi import APIRouter, File, Request, UploadFile, status
from fastapi.responses import Response, StreamingResponse
from starlette.background import BackgroundTask

from keeve.core.message.errors import Code, Fault, MixError, TradeError
from keeve.core.message.said import mark
from keeve.store.whole.archive import dump
from keeve.store.whole.restoring import restore
from keeve.web.asking.deps import AtDesk, Crew, ReadBy
from keeve.web.edge.answers import GOES_OR_SHOWS, PAGE, REFUSALS, file_of
from keeve.web.edge.bodies import fault_of
from keeve.web.edge.security import OwnPage
from keeve.web.pages.faults import fault_rows
from keeve.web.pages.render import page

router = APIRouter(responses=REFUSALS)
_PART = 65_536
MOST_LINE_BYTES = 20_000_000
MOST_ENTRIES = 100_000
"""In one row: a ticket with all its workings has some thousand."""
MOST_MARKS = 4 * MOST_ENTRIES
"""Braces, brackets and commas in one row, those of its texts too: counted before anything is built of it."""


@router.get("/archive", name="archive", **PAGE)
def archive(request: Request) -> Response:
    """Show where the file is, and where one is taken in."""
    return page(request, "yard/archive.html", room="yard", faults=(), done=None)


@router.get("/archive.jsonl", name="archive_file", **file_of("application/x-ndjson"))
def archive_file(request: Request, crew: Crew) -> Response:
    """Hand all of the yard out, a line a row, as it was at one moment.

    It is written down first: whoever takes it slowly holds no transaction open.
    """
    written = tempfile.TemporaryFile()  # noqa: SIM115 - closed when it was sent
    try:
        with request.app.state.sessions.begin() as session:
            session.connection(execution_options={"isolation_level": "REPEATABLE READ"})
            for line in dump(session, crew):
                written.write(line.encode())
    except BaseException:
        written.close()
        raise
    written.seek(0)
    return StreamingResponse(
        iter(lambda: written.read(_PART), b""),
        media_type="application/x-ndjson",
        headers={"content-disposition": 'attachment; filename="keeve-yard.jsonl"'},
        background=BackgroundTask(written.close),
    )


@router.post("/archive/restore", name="restore_yard", dependencies=[OwnPage], **GOES_OR_SHOWS)
def restore_yard(
    request: Request, desk: AtDesk, reader: ReadBy, crew: Crew, file: Annotated[UploadFile, File()]
) -> Response:
    """Take a file of a yard in: all of it or nothing; where both have gone on, what both have stands afterwards."""
    faults: tuple[Fault, ...] = ()
    done = None
    try:
        with desk() as at:
            done = restore(at.store.session, crew, _lines(file))
    except TradeError as error:
        faults = error.faults
    code = status.HTTP_422_UNPROCESSABLE_CONTENT if faults else status.HTTP_200_OK
    shown = fault_rows(faults, reader)
    return page(request, "yard/archive.html", code, room="yard", faults=shown, done=done)


def _lines(file: UploadFile) -> Iterator[str]:
    for raw in iter(lambda: file.file.readline(MOST_LINE_BYTES), b""):
        if len(raw) == MOST_LINE_BYTES or sum(map(raw.count, (b"{", b"[", b","))) > MOST_MARKS:
            raise _strange()
        try:
            line = raw.decode("utf-8")
        except UnicodeDecodeError:
            raise _strange() from None
        if fault_of_line(line) is not None:
            raise _strange()
        yield line


def fault_of_line(line: str) -> Fault | None:
    """Find letters that cannot be kept, or too deep a nest; what is no JSON is told by who reads it."""
    try:
        return fault_of(json.loads(line), MOST_ENTRIES)
    except (ValueError, RecursionError):
        return None


def _strange() -> MixError:
    return MixError(
        Fault(
            Code.UNREADABLE,
            mark("The file holds letters that cannot be kept, or is nested deeper than anything here."),
            mark("Nothing was changed. Take a file as it came out of Keeve."),
        )
    )
