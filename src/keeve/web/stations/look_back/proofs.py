"""Tests of a job's work, written down: specimens, results, what is asked for, a plaster cast on its way to dry."""

from datetime import UTC, datetime
from typing import Annotated, Any, Final, Literal
from uuid import uuid4
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import TypeAdapter, ValidationError
from starlette import status

from keeve.core.measure.moments import of_our_days
from keeve.core.measure.quantities import Mass
from keeve.core.measure.reading import is_bare, read_number
from keeve.core.measure.units import LB_KG, STRENGTH_MPA
from keeve.core.message.errors import Code, Fault, MixError, TradeError, faults_of
from keeve.core.message.said import mark
from keeve.core.records.proofs import Asked, Cast, Result, Rule, Trace, Weighing, check_result
from keeve.core.records.specimens import Shape, stress_mpa
from keeve.formats.reading.warmth import read_trace
from keeve.store.tables import JobRow
from keeve.web.asking.deps import AtDesk, Desk, ReadBy
from keeve.web.edge.answers import GOES_OR_SHOWS, REFUSALS
from keeve.web.edge.security import OwnPage
from keeve.web.edge.settings import here
from keeve.web.pages.faults import fault_rows
from keeve.web.stations.look_back.routes import looked
from keeve.words.reader import Reader

router = APIRouter(responses=REFUSALS)
Typed = Annotated[str, Form(max_length=40)]
KN_LBF: Final = LB_KG * 9.80665 / 1000
_MASS: Final = TypeAdapter(Mass)


def moment(text: str) -> datetime:
    """Read a day, or a day and a time, on the clock of the place; now where nothing is said."""
    zone = ZoneInfo(here())
    if not text.strip():
        return datetime.now(UTC)
    try:
        found = of_our_days(datetime.fromisoformat(text.strip()))
    except ValueError:
        hint = mark("Write it like 2026-09-14, or 2026-09-14 15:30.")
        raise MixError(Fault(Code.UNREADABLE, mark("That is no day."), hint, field="at")) from None
    return (found if found.tzinfo else found.replace(tzinfo=zone)).astimezone(UTC)


def _taken(request: Request, job_id: str, desk: AtDesk, reader: Reader, make: Any, typed: dict[str, str]) -> Response:
    """Keep an entry that `make` reads, or show the page with what is wrong."""
    with desk() as at:
        job = at.job(job_id)
        try:
            at.proofs.append(job.id, make(at, job))
        except ValidationError as error:
            return looked(request, job, at, reader, fault_rows(faults_of(error), reader), typed)
        except TradeError as error:
            return looked(request, job, at, reader, fault_rows(error.faults, reader), typed)
    return RedirectResponse(f"{request.url_for('look_back', job_id=job_id)}#proofs", status.HTTP_303_SEE_OTHER)


@router.post("/jobs/{job_id}/proofs/cast", name="proof_cast", dependencies=[OwnPage], **GOES_OR_SHOWS)
def proof_cast(
    request: Request,
    job_id: str,
    desk: AtDesk,
    reader: ReadBy,
    shape: Annotated[Shape, Form()],
    label: Annotated[str, Form(max_length=60)] = "",
    load: Typed = "",
    due_days: Typed = "28",
    at: Typed = "",
) -> Response:
    """Write down a specimen that was cast."""

    def make(desk: Desk, job: JobRow) -> Cast:  # noqa: ARG001
        given = {"id": str(uuid4()), "at": moment(at), "shape": shape, "label": label.strip(), "due_days": due_days}
        return Cast.model_validate(given | ({"load": load} if load.strip() else {}))

    return _taken(request, job_id, desk, reader, make, {"label": label, "load": load, "due_days": due_days, "at": at})


@router.post("/jobs/{job_id}/proofs/result", name="proof_result", dependencies=[OwnPage], **GOES_OR_SHOWS)
def proof_result(
    request: Request,
    job_id: str,
    desk: AtDesk,
    reader: ReadBy,
    of: Annotated[str, Form(max_length=40)],
    found: Typed = "",
    by: Annotated[Literal["force", "stress"], Form()] = "force",
    at: Typed = "",
    sure: Annotated[str, Form(max_length=4)] = "",
) -> Response:
    """Write down what a specimen carried: the force of the press, or a stress."""

    def make(desk: Desk, job: JobRow) -> Result:
        entries = desk.proofs.of(job.id)
        cast = next((one for one in entries if isinstance(one, Cast) and one.id == of), None)
        if cast is None:
            raise MixError(Fault(Code.UNKNOWN, mark("There is no such specimen."), "", field="of"))
        number = read_number(found)
        mpa = number * (STRENGTH_MPA["psi"] if reader.us else 1)
        if by == "force":
            mpa = stress_mpa(cast.shape, number * (KN_LBF if reader.us else 1))
        result = Result.model_validate({"id": str(uuid4()), "at": moment(at), "of": of, "mpa": mpa})
        asked = next((one.mpa for one in reversed(entries) if isinstance(one, Asked)), None)
        check_result(cast, result, asked, sure=bool(sure))
        return result

    return _taken(request, job_id, desk, reader, make, {"of": of, "found": found})


@router.post("/jobs/{job_id}/proofs/asked", name="proof_asked", dependencies=[OwnPage], **GOES_OR_SHOWS)
def proof_asked(
    request: Request,
    job_id: str,
    desk: AtDesk,
    reader: ReadBy,
    mpa: Typed = "",
    rule: Annotated[Rule, Form()] = "en-206",
    sigma: Typed = "",
) -> Response:
    """Write down what strength is asked for, by which rule it is judged, and the deviation where it is known."""

    def make(desk: Desk, job: JobRow) -> Asked:  # noqa: ARG001
        unit = STRENGTH_MPA["psi"] if reader.us else 1
        given = {"id": str(uuid4()), "at": datetime.now(UTC), "mpa": read_number(mpa) * unit, "rule": rule}
        return Asked.model_validate(given | ({"sigma_mpa": read_number(sigma) * unit} if sigma.strip() else {}))

    return _taken(request, job_id, desk, reader, make, {"mpa": mpa, "sigma": sigma})


@router.post("/jobs/{job_id}/proofs/trace", name="proof_trace", dependencies=[OwnPage], **GOES_OR_SHOWS)
def proof_trace(
    request: Request,
    job_id: str,
    desk: AtDesk,
    reader: ReadBy,
    trace: Annotated[str, Form(max_length=800_000)] = "",
    label: Annotated[str, Form(max_length=60)] = "",
    at: Typed = "",
) -> Response:
    """Keep how warm a cast was, from a logger's lines."""

    def make(desk: Desk, job: JobRow) -> Trace:  # noqa: ARG001
        if not at.strip():
            hint = mark("Write it like 2026-09-14, or 2026-09-14 15:30.")
            raise MixError(
                Fault(Code.MISSING, mark("A trace begins when it was cast: when was that?"), hint, field="at")
            )
        cast_at = moment(at)
        readings = read_trace(trace, cast_at, ZoneInfo(here()))
        return Trace(id=str(uuid4()), at=cast_at, label=label.strip(), readings=tuple(tuple(one) for one in readings))

    return _taken(request, job_id, desk, reader, make, {"trace": trace[:20_000], "label": label, "at": at})


@router.post("/jobs/{job_id}/proofs/weighing", name="proof_weighing", dependencies=[OwnPage], **GOES_OR_SHOWS)
def proof_weighing(
    request: Request, job_id: str, desk: AtDesk, reader: ReadBy, kg: Typed = "", at: Typed = ""
) -> Response:
    """Write down what a plaster cast weighs."""

    def make(desk: Desk, job: JobRow) -> Weighing:  # noqa: ARG001
        text = f"{kg} {'lb' if reader.us else 'kg'}" if is_bare(kg) else kg
        return Weighing(id=str(uuid4()), at=moment(at), kg=_MASS.validate_python(text))

    return _taken(request, job_id, desk, reader, make, {"kg": kg, "at": at})
