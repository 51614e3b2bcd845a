"""Before you mix: materials judged, the air reckoned with, and what happened in the yard told in one tap."""

from datetime import UTC, datetime
from typing import Annotated, Any, Final, Literal
from uuid import uuid4

from fastapi import APIRouter, Form, Request
from fastapi.responses import Response
from pydantic import TypeAdapter, ValidationError

from keeve.catalogue.trying import outlook
from keeve.core.materials.heap_doors import Bulking, HeapMoisture
from keeve.core.materials.looks import HeapLook
from keeve.core.measure.reading import read_length_mm, read_number
from keeve.core.message.errors import Code, Fault, MixError, TradeError, faults_of
from keeve.core.message.said import Words, mark
from keeve.core.yard.checks import SILT_LIMIT_PERCENT, Standing, answered, silt_percent
from keeve.core.yard.day_log import Changed, Checked, Sieved
from keeve.web.asking.deps import AtDesk, Looking, ReadBy, readable_sheet
from keeve.web.asking.standing import tell_aged
from keeve.web.beside.before.shown import asked_of, back_to, heaps_of, shown
from keeve.web.edge.answers import GOES, GOES_OR_SHOWS, PAGE, REFUSALS
from keeve.web.edge.security import OwnPage

Typed = Annotated[str, Form(max_length=40)]
_DRIED: Final = mark("Dried sand weighs no more than wet.")
_FLOODED: Final = mark("Flooded sand stands no higher than damp.")
router = APIRouter(responses=REFUSALS)


@router.get("/jobs/{job_id}/before", name="before", **PAGE)
def before(request: Request, job_id: str, desk: Looking, reader: ReadBy) -> Response:
    """Show what is looked at before the first load of the day."""
    with desk() as at:
        seen = at.seen(job_id)
        readable_sheet(request, seen.job)
        return shown(request, asked_of(at, seen.job), reader)


@router.post("/jobs/{job_id}/before/heap", name="before_heap", dependencies=[OwnPage], **GOES_OR_SHOWS)
def heap(
    request: Request,
    job_id: str,
    desk: AtDesk,
    of: Annotated[str, Form(max_length=80)],
    reader: ReadBy,
    look: Annotated[HeapLook | Literal[""], Form()] = "",
    wet: Typed = "",
    dry: Typed = "",
    damp: Typed = "",
    flooded: Typed = "",
    sieve: Typed = "",
) -> Response:
    """Keep how wet a heap looks and what pan and jar say, in the job's sheet; which sieve sheet is its, in the yard."""
    with desk() as at:
        job = at.job(job_id)
        asked = asked_of(at, job)
        if of in {one.key for one in heaps_of(asked)}:
            try:
                told = {"moisture_percent": look or _two(wet, dry, _DRIED, HeapMoisture)}
                bulks = _two(damp, flooded, _FLOODED, Bulking)
            except TradeError as error:
                return shown(request, asked, reader, error.faults)
            sheet = dict(asked.sheet)
            if told["moisture_percent"]:
                told["looked_at"] = asked.now.isoformat()
            for table, value in (told | {"bulking_percent": bulks}).items():
                kept = sheet.get(table)
                if value:
                    sheet[table] = (kept if isinstance(kept, dict) else {}) | {of: value}
            at.store.save_sheet(job, sheet, outlook(sheet, at.shelf()))
            if sieve != (asked.sieves[of].key if of in asked.sieves else "") and sieve in ("", *dict(asked.sands)):
                at.days.append(Sieved(id=str(uuid4()), at=asked.now, of=of, sheet=sieve))
    return back_to(request, job_id, f"heap-{of}")


def _two(first: str, second: str, swapped: Words, kind: Any) -> str:
    """Put two readings of one test together as a sheet takes them, the greater first; empty where neither was made."""
    if not (first.strip() or second.strip()):
        return ""
    if not (first.strip() and second.strip()):
        raise MixError(
            Fault(Code.MISSING, mark("Both readings are wanted: before and after."), "", field="moisture_percent")
        )
    before, after = read_number(first), read_number(second)
    if before < after:
        raise MixError(Fault(Code.OUT_OF_RANGE, swapped, mark("Exchange the two readings."), field="moisture_percent"))
    test = f"{before!r}/{after!r}"
    try:
        TypeAdapter(kind).validate_python(test)
    except ValidationError as error:
        raise MixError(*faults_of(error)) from None
    return test


def _silt(layer: str, sand: str) -> float | None:
    if not (layer.strip() or sand.strip()):
        return None
    if not (layer.strip() and sand.strip()):
        raise MixError(
            Fault(Code.MISSING, mark("Both are wanted: the layer on top and the sand below it."), "", field="layer_mm")
        )
    return silt_percent(read_length_mm(layer), read_length_mm(sand))


@router.post("/jobs/{job_id}/before/look", name="before_look", dependencies=[OwnPage], **GOES_OR_SHOWS)
def look(
    request: Request,
    job_id: str,
    desk: AtDesk,
    reader: ReadBy,
    check: Annotated[str, Form(max_length=40)],
    answer: Annotated[str, Form(max_length=40)] = "",
    of: Annotated[str, Form(max_length=80)] = "",
    layer: Annotated[str, Form(max_length=40)] = "",
    sand: Annotated[str, Form(max_length=40)] = "",
) -> Response:
    """Keep what somebody saw of one thing."""
    with desk() as at:
        asked = asked_of(at, at.job(job_id))
        stand = next((one for one in asked.stands if (one.check.key, one.of) == (check, of)), None)
        try:
            if stand is None:
                raise MixError(Fault(Code.UNKNOWN, mark("That is not asked for today."), "", field="answer"))
            percent = _silt(layer, sand)
            if percent is not None:
                answer = _by_silt(stand, percent)
            answered(stand.check, stand, answer, asked.now)
        except TradeError as error:
            return shown(request, asked, reader, error.faults)
        entry = Checked(id=str(uuid4()), at=asked.now, check=check, of=of, answer=answer, silt_percent=percent)
        at.days.append(entry)
        tell_aged(at, asked.now)
    return back_to(request, job_id, f"check-{check}-{of}")


def _by_silt(stand: Standing, percent: float) -> str:
    """Choose the answer of a jar by its layer."""
    wanted = "accept" if percent <= SILT_LIMIT_PERCENT else "test"
    return next(one.key for one in stand.check.answers if one.verdict == wanted)


@router.post("/jobs/{job_id}/before/well", name="before_well", dependencies=[OwnPage], **GOES)
def all_well(request: Request, job_id: str, desk: AtDesk) -> Response:
    """Keep that all that was still to be looked at is as it should be."""
    with desk() as at:
        asked = asked_of(at, at.job(job_id))
        at.days.append(
            *(
                Checked(id=str(uuid4()), at=asked.now, check=one.check.key, of=one.of, answer=good.key)
                for one in asked.stands
                if one.answer is None and one.ready_at is None
                for good in one.check.answers[:1]
            )
        )
        tell_aged(at, asked.now)
    return back_to(request, job_id)


@router.post("/jobs/{job_id}/before/happened", name="before_happened", dependencies=[OwnPage], **GOES)
def happened(
    request: Request,
    job_id: str,
    desk: AtDesk,
    kind: Annotated[Literal["rain", "uncovered", "bottom", "delivery", "bags"], Form()],
    of: Annotated[str, Form(max_length=80)] = "",
) -> Response:
    """Keep what happened to the heaps or the bags: what was answered before it is asked again."""
    with desk() as at:
        at.job(job_id)
        now = datetime.now(UTC)
        at.days.append(Changed(id=str(uuid4()), at=now, kind=kind, of=of))
        tell_aged(at, now)
    return back_to(request, job_id)
