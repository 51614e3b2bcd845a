"""Loads that were mixed without the page beside the mixer, written down afterwards."""

import re
from datetime import UTC, datetime, timedelta
from typing import Annotated, Any, Final
from uuid import UUID, uuid5

from fastapi import APIRouter, Form, Request, status
from fastapi.responses import RedirectResponse, Response

from keeve.catalogue.trying import made_from, try_plan
from keeve.core.measure.reading import is_bare, read_number, read_volume_l
from keeve.core.message.errors import Code, Fault, MixError, TradeError
from keeve.core.message.said import Amount, Said, mark
from keeve.store.rows.logs import Log
from keeve.store.tables import JobRow
from keeve.web.asking.deps import AtDesk, Desk, ReadBy
from keeve.web.edge.answers import GOES_OR_SHOWS, REFUSALS
from keeve.web.edge.security import OwnPage
from keeve.web.pages.faults import fault_rows
from keeve.web.stations.look_back.proofs import Typed, moment
from keeve.web.stations.look_back.routes import looked
from keeve.words.reader import Reader

router = APIRouter(responses=REFUSALS)
MOST_LOADS: Final = 60
EVERY_MIN: Final = 20.0
_LONGEST_MIN: Final = 600.0
_APART: Final = re.compile(r"[\n;,]+")


def read_waters_l(text: str, reader: Reader) -> list[float]:
    """Read what each load took: amounts with commas, semicolons or lines between them; bare ones in the reader's unit.

    Raises
    ------
    MixError : none, more than a day holds, or one that is no amount
    """
    parts = [part.strip() for part in _APART.split(text) if part.strip()]
    if not parts:
        hint = mark("Write one after the other: 9.5, 9.2, 9.8.")
        raise MixError(Fault(Code.MISSING, mark("What water did the loads take?"), hint, field="water"))
    if len(parts) > MOST_LOADS:
        said = Said("That is more than {n} loads at once.", n=Amount(MOST_LOADS, "whole"))
        raise MixError(Fault(Code.TOO_MANY, said, mark("Write them down day by day."), field="water"))
    unit = "qt" if reader.us else "L"
    return [read_volume_l(f"{part} {unit}" if is_bare(part) else part) for part in parts]


def _every_min(text: str) -> float:
    every = read_number(text) if text.strip() else EVERY_MIN
    if not 1 <= every <= _LONGEST_MIN:
        raise MixError(
            Fault(Code.OUT_OF_RANGE, mark("A load takes between a minute and ten hours."), "", field="every")
        )
    return every


def _ticketed(at: Desk, job: JobRow, begun: datetime) -> Log:
    """Return the log of a job with a ticket in it; without one it is taken as it would have been that day."""
    log = at.runs.log(job)
    if log.newest is not None:
        return log
    tried = try_plan(at.store.sheet(job), at.shelf())
    if tried.request is None or tried.ticket is None:
        raise TradeError(*tried.faults)
    at.runs.keep(job, tried.ticket, made_from(tried.request), log, made_at=begun)
    return at.runs.log(job)


def _taps(log: Log, litres: float, at: datetime, every: timedelta, once: UUID, number: int) -> list[dict[str, Any]]:
    load = log.run.next
    newest = log.newest
    if load is None or newest is None:
        said = Said("The ticket plans no load after number {n}.", n=Amount(len(log.run.loads), "whole"))
        raise MixError(
            Fault(Code.TOO_MANY, said, mark("Write fewer, or begin one more load at the mixer."), field="water")
        )
    of = {"load": load.number, "mixer": load.mixer, "phone": "paper.1"}
    kinds: list[tuple[float, str, dict[str, Any]]] = [
        (0.0, "started", {"ticket": load.ticket} | ({} if load.slot is None else {"slot": load.slot})),
        (0.2, "poured", {"litres": litres}),
        (0.6, "judged", {"verdict": "right"}),
        (0.95, "accepted", {}),
    ]
    return [
        {"id": id_of(once, number, kind), "at": (at + every * share).isoformat(), "seq": number * 10 + n, "kind": kind}
        | of
        | more
        for n, (share, kind, more) in enumerate(kinds)
    ]


def id_of(once: UUID, number: int, kind: str) -> str:
    """Return the id of a tap: the same where the same page is sent twice."""
    return str(uuid5(once, f"{number}/{kind}"))


@router.post("/jobs/{job_id}/afterwards", name="afterwards", dependencies=[OwnPage], **GOES_OR_SHOWS)
def afterwards(
    request: Request,
    job_id: str,
    desk: AtDesk,
    reader: ReadBy,
    once: Annotated[UUID, Form()],
    water: Annotated[str, Form(max_length=600)] = "",
    begun: Typed = "",
    every: Typed = "",
) -> Response:
    """Write loads down that were mixed on paper or from memory: as if each had been tapped; sent twice it is once."""
    typed = {"water": water, "begun": begun, "every": every}
    with desk() as at:
        job = at.job(job_id)
        try:
            litres, step = read_waters_l(water, reader), timedelta(minutes=_every_min(every))
            first = moment(begun) if begun.strip() else datetime.now(UTC) - step * len(litres)
            if first + step * len(litres) > datetime.now(UTC) + timedelta(minutes=1):
                hint = mark("Look at the day and the hour.")
                raise MixError(
                    Fault(Code.OUT_OF_RANGE, mark("Some of it would still be to come."), hint, field="begun")
                )
            log = _ticketed(at, job, first)
            if any(event.id == id_of(once, 0, "started") for event in log.events):
                litres = []  # sent twice: it is there
            for number, one in enumerate(litres):
                posted = at.runs.append(job, _taps(log, one, first + step * number, step, once, number))
                if posted.refused:
                    raise MixError(Fault(Code.REFUSED, posted.refused[0].sentence, "", field="begun"))
                log = at.runs.log(job)
        except TradeError as error:
            at.store.session.rollback()
            with desk() as again:
                return looked(request, again.job(job_id), again, reader, fault_rows(error.faults, reader), typed)
    return RedirectResponse(request.url_for("look_back", job_id=job_id), status.HTTP_303_SEE_OTHER)
