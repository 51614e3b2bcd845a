"""What a crew's loads tell of a mix: its own clock, yield and pace, with what they stand on; used by one tap."""

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from typing import Annotated, Any, Final, Literal, get_args
from uuid import uuid4

from fastapi import APIRouter, Form, Request, status
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError

from keeve.core.lessons.own_figures import OwnFigure, What, Worked, own_figures, stiffens
from keeve.core.measure.reading import is_bare, read_number, read_temperature_c, read_volume_l
from keeve.core.message.errors import Code, Fault, MixError, TradeError, faults_of
from keeve.core.message.said import mark
from keeve.core.mixes.mix import Mix
from keeve.core.yard.day_log import Entry, Figured, Filled, Stiffened, figures_of, filled_l, stiffened
from keeve.store.tables import JobRow
from keeve.web.asking.deps import AtDesk, Desk, Looking, ReadBy
from keeve.web.asking.standing import own_of
from keeve.web.edge.answers import GOES_OR_SHOWS, PAGE, REFUSALS
from keeve.web.edge.security import OwnPage
from keeve.web.pages.faults import fault_rows
from keeve.web.pages.render import Page, page
from keeve.web.stations.look_back.proofs import Typed
from keeve.words.reader import Reader

router = APIRouter(responses=REFUSALS)
MOST_JOBS: Final = 12
LOOKED_BACK: Final = timedelta(days=400)
MOST_STIFF_MIN: Final = 1440
_ASKED: Final = mark("What did they really fill?")


def _mix_of(at: Desk, job: JobRow) -> Mix | None:
    """Return the mix as the book has it: a crew's own figures are held against that."""
    return at.shelf().mixes.get(job.mix_key)


def _seen(at: Desk, mix: Mix, log: tuple[Entry, ...]) -> tuple[OwnFigure, ...]:
    """Read the jobs of this mix that were worked on last."""
    rows = [row for row, _ in at.days.worked_since(datetime.now(UTC) - LOOKED_BACK, MOST_JOBS, mix.key)]
    kept = zip(rows, at.runs.logs(rows), strict=True)
    return own_figures(
        [Worked(one.run, one.tickets, filled_l(log, str(row.id))) for row, one in kept], mix, stiffened(log, mix.key)
    )


@router.get("/jobs/{job_id}/own", name="own_figures", **PAGE)
def show_own(request: Request, job_id: str, desk: Looking) -> Response:
    """Show what the crew's loads tell of this job's mix."""
    with desk() as at:
        return _page(request, at, at.seen(job_id).job)


def _page(
    request: Request,
    at: Desk,
    job: JobRow,
    faults: Sequence[dict[str, Any]] = (),
    typed: str = "",
    stiff: tuple[str, str] = ("", ""),
) -> Page:
    mix = _mix_of(at, job)
    log = at.days.log()
    run = at.runs.log(job).run
    return page(
        request,
        "look_back/own.html",
        status.HTTP_422_UNPROCESSABLE_CONTENT if faults else status.HTTP_200_OK,
        job=job,
        station="look_back",
        mix=mix,
        figures=_seen(at, mix, log) if mix is not None else (),
        used=figures_of(log).get(job.mix_key, {}),
        made_m3=run.made_m3,
        filled=filled_l(log, str(job.id)),
        stiffens=mix is not None and stiffens(mix),
        faults=faults,
        typed=typed,
        stiff=stiff,
    )


@router.post("/jobs/{job_id}/stiffened", name="stiffened", dependencies=[OwnPage], **GOES_OR_SHOWS)
def tell_stiffened(
    request: Request, job_id: str, desk: AtDesk, reader: ReadBy, minutes: Typed = "", air_c: Typed = ""
) -> Response:
    """Write down when a load began to stiffen, and in what air: the clock of this cement."""
    with desk() as at:
        job = at.job(job_id)
        mix = _mix_of(at, job)
        try:
            if mix is None or not stiffens(mix):
                raise MixError(
                    Fault(Code.REFUSED, mark("The clock of this mix is told by its stages."), "", field="minutes")
                )
            if not minutes.strip() or not air_c.strip():
                hint = mark("The minutes since its water, and the air it stood in.")
                raise MixError(Fault(Code.MISSING, mark("Both are wanted."), hint, field="minutes"))
            air = read_temperature_c(f"{air_c} °F" if reader.us and is_bare(air_c) else air_c)
            took_min = read_number(minutes)
            if not 0 < took_min <= MOST_STIFF_MIN:
                said = mark("A load stiffens after its water and within a day.")
                raise MixError(
                    Fault(Code.OUT_OF_RANGE, said, mark("Write the minutes between the two."), field="minutes")
                )
            given = {"id": str(uuid4()), "at": datetime.now(UTC), "of": mix.key, "air_c": air}
            entry = Stiffened.model_validate(given | {"minutes": took_min})
        except ValidationError as error:
            return _page(request, at, job, fault_rows(faults_of(error), reader), stiff=(minutes, air_c))
        except TradeError as error:
            return _page(request, at, job, fault_rows(error.faults, reader), stiff=(minutes, air_c))
        at.days.append(entry)
    return RedirectResponse(request.url_for("own_figures", job_id=job_id), status.HTTP_303_SEE_OTHER)


@router.post("/jobs/{job_id}/filled", name="filled", dependencies=[OwnPage], **GOES_OR_SHOWS)
def tell_filled(request: Request, job_id: str, desk: AtDesk, reader: ReadBy, filled: Typed = "") -> Response:
    """Write down what a job's loads really filled."""
    with desk() as at:
        job = at.job(job_id)
        try:
            litres = _read_l(filled, at.runs.log(job).run.made_m3 * 1000, reader)
        except TradeError as error:
            return _page(request, at, job, fault_rows(error.faults, reader), filled)
        at.days.append(Filled(id=str(uuid4()), at=datetime.now(UTC), job=str(job.id), litres=litres))
    return RedirectResponse(request.url_for("own_figures", job_id=job_id), status.HTTP_303_SEE_OTHER)


def _read_l(text: str, made_l: float, reader: Reader) -> float:
    if not text.strip():
        raise MixError(Fault(Code.MISSING, _ASKED, mark("Write it as measured: 96 L, or 0.34 m3."), field="filled"))
    litres = read_volume_l(f"{text} {'ft3' if reader.us else 'L'}" if is_bare(text) else text)
    if made_l <= 0:
        hint = mark("Write it down when the first load is used up.")
        raise MixError(Fault(Code.OUT_OF_RANGE, mark("Nothing was made yet."), hint, field="filled"))
    if not made_l / 2 <= litres <= made_l * 2:
        hint = mark("Say it in litres or cubic metres, with the unit.")
        said = mark("That is not half of what was made, or more than twice.")
        raise MixError(Fault(Code.OUT_OF_RANGE, said, hint, field="filled"))
    return litres


@router.post("/jobs/{job_id}/own", name="use_own", dependencies=[OwnPage], **GOES_OR_SHOWS)
def use_own(
    request: Request,
    job_id: str,
    desk: AtDesk,
    reader: ReadBy,
    what: Typed,
    use: Annotated[Literal["own", "book"], Form()] = "own",
) -> Response:
    """Go by a figure of one's own from now on, or by the book's again; every open job is told."""
    with desk() as at:
        job, now = at.job(job_id), datetime.now(UTC)
        mix = _mix_of(at, job)
        found = {one.what: one for one in _seen(at, mix, at.days.log())} if mix is not None else {}
        kind = next((one for one in get_args(What) if one == what), None)
        if mix is None or kind is None or (use == "own" and (kind not in found or not found[kind].enough)):
            hint = mark("Mix on: it is offered when there are.")
            fault = Fault(Code.REFUSED, mark("There are too few loads to go by yet."), hint)
            return _page(request, at, job, fault_rows((fault,), reader))
        value = found[kind].value if use == "own" else None
        seen = found[kind].seen if kind in found else 0
        at.days.append(Figured(id=str(uuid4()), at=now, of=mix.key, what=kind, value=value, seen=seen))
        at.days.tell("own", own_of(at.days.log(now)))
    return RedirectResponse(request.url_for("own_figures", job_id=job_id), status.HTTP_303_SEE_OTHER)
