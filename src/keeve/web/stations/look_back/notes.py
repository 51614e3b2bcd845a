"""Notes and photos of a job and its loads."""

import base64
import shutil
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated, Any
from uuid import uuid4

from fastapi import APIRouter, File, Form, HTTPException, Request, UploadFile, status
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError

from keeve.core.measure.reading import read_number
from keeve.core.message.errors import Code, Fault, MixError, TradeError, faults_of
from keeve.core.message.said import mark
from keeve.core.records.notes import notes_of
from keeve.core.records.proofs import Note
from keeve.core.run.events import MOST_LOADS
from keeve.formats.reading.bounded import read_now
from keeve.formats.reading.kept_files import new_file
from keeve.store.tables import PhotoRow
from keeve.web.asking.deps import AtDesk, Looking, ReadBy
from keeve.web.edge.answers import GOES_OR_SHOWS, REFUSALS, file_of
from keeve.web.edge.bounds import MOST_LIST_BYTES
from keeve.web.edge.security import OwnPage
from keeve.web.pages.faults import fault_rows
from keeve.web.stations.look_back.routes import looked

router = APIRouter(responses=REFUSALS)
Words = Annotated[str, Form(max_length=500)]
Number = Annotated[str, Form(max_length=40)]
MOST_NOTES = 500


def _load(text: str) -> int | None:
    """Read which load it is of; None for the whole job."""
    if not text.strip():
        return None
    number = read_number(text)
    if not 1 <= number <= MOST_LOADS or number != int(number):
        raise MixError(
            Fault(Code.OUT_OF_RANGE, mark("There is no such load."), mark("Choose one of the list."), field="load")
        )
    return int(number)


def _back(request: Request, job_id: str) -> Response:
    return RedirectResponse(f"{request.url_for('look_back', job_id=job_id)}#notes", status.HTTP_303_SEE_OTHER)


@router.post("/jobs/{job_id}/notes", name="add_note", dependencies=[OwnPage], **GOES_OR_SHOWS)
def add_note(
    request: Request,
    job_id: str,
    desk: AtDesk,
    reader: ReadBy,
    says: Words = "",
    on_load: Number = "",
    corrects: Number = "",
) -> Response:
    """Write a note down, of the job or of one load; or put another in the place of one: the old one stays readable."""
    typed = {"says": says, "note_load": on_load}
    with desk() as at:
        job = at.job(job_id)
        try:
            there = {one.first for one in notes_of(at.proofs.of(job.id))}
            _check_note(says.strip(), corrects, there)
            given: dict[str, Any] = {"id": str(uuid4()), "at": datetime.now(UTC), "text": says.strip()}
            at.proofs.append(job.id, Note.model_validate(given | {"load": _load(on_load), "corrects": corrects}))
        except ValidationError as error:
            return looked(request, job, at, reader, fault_rows(faults_of(error), reader), typed)
        except TradeError as error:
            return looked(request, job, at, reader, fault_rows(error.faults, reader), typed)
    return _back(request, job_id)


def _check_note(text: str, corrects: str, there: set[str]) -> None:
    if corrects and corrects not in there:
        raise MixError(Fault(Code.UNKNOWN, mark("There is no such note."), "", field="corrects"))
    if not text and not corrects:
        raise MixError(
            Fault(Code.MISSING, mark("A note says something."), mark("Write it, then keep it."), field="says")
        )
    if len(there) >= MOST_NOTES and not corrects:
        raise MixError(Fault(Code.TOO_MANY, mark("This job has as many notes as are kept."), "", field="says"))


@router.post("/jobs/{job_id}/photo", name="add_photo", dependencies=[OwnPage], **GOES_OR_SHOWS)
def add_photo(
    request: Request,
    job_id: str,
    desk: AtDesk,
    reader: ReadBy,
    file: Annotated[UploadFile, File()],
    says: Words = "",
    on_load: Number = "",
) -> Response:
    """Keep a photo of the job or of a load, made small, with nothing in it but the picture."""
    typed = {"shows": says, "photo_load": on_load}
    try:
        small = _small(file)
    except TradeError as error:
        with desk() as at:
            return looked(
                request,
                at.job(job_id),
                at,
                reader,
                fault_rows(error.faults, reader),
                typed,
            )
    jpeg = base64.b64decode(small["jpeg"])
    with desk() as at:
        job = at.job(job_id)
        try:
            row = PhotoRow(
                id=str(uuid4()), job_id=job.id, at=datetime.now(UTC), load=_load(on_load), says=says.strip(),
                wide=small["wide"], high=small["high"], jpeg=jpeg,
            )  # fmt: skip
            at.photos.add(row)
        except TradeError as error:
            return looked(request, job, at, reader, fault_rows(error.faults, reader), typed)
    return _back(request, job_id)


def _small(file: UploadFile) -> dict[str, Any]:
    """Make a photo small in a process that can neither take long nor swell."""
    if file.size is not None and file.size > MOST_LIST_BYTES:
        raise MixError(
            Fault(Code.TOO_MANY, mark("This photo is larger than 20 MB."), mark("Send it smaller."), field="file")
        )
    with new_file("photo") as kept:
        try:
            shutil.copyfileobj(file.file, kept)
            kept.flush()
            return dict(read_now("photo", Path(kept.name)))
        finally:
            Path(kept.name).unlink()


@router.get("/jobs/{job_id}/photos/{photo_id}.jpg", name="photo", **file_of("image/jpeg"))
def photo(job_id: str, photo_id: str, desk: Looking) -> Response:
    """Hand a photo out."""
    with desk() as at:
        jpeg = at.photos.picture(at.seen(job_id).job.id, photo_id[:40])
    if jpeg is None:
        raise HTTPException(status.HTTP_404_NOT_FOUND, mark("There is no such photo."))
    return Response(jpeg, media_type="image/jpeg", headers={"cache-control": "private, max-age=31536000, immutable"})


@router.post("/jobs/{job_id}/photos/{photo_id}/out", name="photo_out", dependencies=[OwnPage], **GOES_OR_SHOWS)
def photo_out(request: Request, job_id: str, photo_id: str, desk: AtDesk) -> Response:
    """Take a photo out; it is gone then."""
    with desk() as at:
        at.photos.take_out(at.job(job_id).id, photo_id[:40])
    return _back(request, job_id)
