"""A good load made a recipe of the crew's own."""

from typing import Annotated, Any

from fastapi import APIRouter, Form, Request, status
from fastapi.responses import RedirectResponse, Response

from keeve.catalogue import read_own_mix
from keeve.catalogue.trying import try_plan
from keeve.core.lessons.pinned import Pinned, pinned, real_share
from keeve.core.message.errors import Code, Fault, MixError, TradeError
from keeve.core.message.said import mark
from keeve.store.tables import BookRow, JobRow
from keeve.web.asking.deps import AtDesk, Desk, ReadBy
from keeve.web.edge.answers import GOES_OR_SHOWS, REFUSALS
from keeve.web.edge.security import OwnPage
from keeve.web.pages.faults import fault_rows
from keeve.web.stations.look_back.routes import looked
from keeve.words.putting import t
from keeve.words.reader import Reader

router = APIRouter(responses=REFUSALS)


@router.post("/jobs/{job_id}/pin", name="pin_load", dependencies=[OwnPage], **GOES_OR_SHOWS)
def pin_load(
    request: Request, job_id: str, desk: AtDesk, reader: ReadBy, load: Annotated[str, Form(max_length=120)] = ""
) -> Response:
    """Make a mix of the crew's own with the water a good load really had."""
    with desk() as at:
        job = at.job(job_id)
        try:
            row = _pin(at, job, load, reader)
        except TradeError as error:
            return looked(request, job, at, reader, fault_rows(error.faults, reader))
        address = request.url_for("change_mix", key=row.key)
    return RedirectResponse(address, status.HTTP_303_SEE_OTHER)


def _pin(at: Desk, job: JobRow, load: str, reader: Reader) -> BookRow:
    number, _, mixer = load.partition(" ")
    log = at.runs.log(job)
    found = next((one for one in log.run.loads if (str(one.number), one.mixer) == (number, mixer)), None)
    ticket = log.tickets.get(found.ticket) if found is not None else None
    mix = at.shelf().mixes.get(ticket.mix_key) if ticket is not None else None
    if found is None or ticket is None or found.card is None or mix is None:
        why = mark("Of this load, or of its mix, too little is known.")
        raise MixError(Fault(Code.UNKNOWN, why, mark("Choose another load."), field="load"))
    tried = try_plan(at.store.sheet(job), at.shelf())
    if tried.mix is not None and tried.mix.key == mix.key:
        mix = tried.mix  # with what the job changed in it
    change = pinned(mix.basis, real_share(found, ticket.cards[found.card].water))
    name = t(reader, "{mix}, as load {number} of {job}", mix=mix.name, number=number, job=job.name)
    entry = {"name": name[:80], "basis": _nested(change)}
    row = at.book.add("mix", entry, None, base=mix.model_dump(mode="json"))
    at.book.save(row, entry, read_own_mix(mix, row.key, entry, at.shelf()).model_dump(mode="json"))
    return row


def _nested(change: Pinned) -> dict[str, Any]:
    """Put the change where a form of the book has it."""
    whole, _, part = change.field.partition(".")
    return {whole: {part: change.value}} if part else {whole: change.value}
