"""POST /api/plan: a job sheet in, a ticket out."""

from typing import Annotated, Any

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import JSONResponse, Response
from pydantic import BeforeValidator, Field

from keeve.catalogue import JobSheet, SandResult, SandTest, judge_sand, load_catalogue, resolve
from keeve.core.materials.field_tests import gravimetric_air_percent, yield_m3
from keeve.core.measure.quantities import Mass
from keeve.core.message.errors import Frozen
from keeve.core.message.said import Said
from keeve.core.planning.plan import plan
from keeve.core.takeoff.need import Need
from keeve.core.takeoff.reach import Reach
from keeve.core.takeoff.sureness import Sureness, sureness
from keeve.core.ticket.ticket import Ticket
from keeve.core.ticket.ticketing import issue
from keeve.core.vessels.scale_check import ScaleCheck, check_scale
from keeve.formats.writing.mix_exchange import MixFile, mix_schema
from keeve.web.asking.deps import ReadBy, Shelf, shelf_for
from keeve.web.edge.answers import REFUSALS
from keeve.web.stations.take_off import how_far
from keeve.words.beside import with_units
from keeve.words.putting import put

router = APIRouter(tags=["plan"], responses=REFUSALS)

Sheet = Annotated[JobSheet, BeforeValidator(with_units)]
"""A job sheet, as a program writes it or as a page sends it."""


@router.get("/api/mixes", name="api_mixes")
def api_mixes(shelf: Shelf) -> dict[str, str]:
    """List the mixes: key and name."""
    return {mix.key: put(mix.name) for mix in shelf.mixes.values()}


@router.get("/api/mixes/{key}", name="api_mix")
def api_mix(key: str, shelf: Shelf) -> MixFile:
    """Give one mix as an exchange file; its `mix` may stand in a job sheet, changed or not."""
    if key not in shelf.mixes:
        raise HTTPException(404, Said("There is no mix called “{key}”. /api/mixes lists them.", key=key[:40]))
    return MixFile(mix=shelf.mixes[key])


@router.get("/api/mix-schema", name="api_mix_schema")
def api_mix_schema() -> dict[str, Any]:
    """Give the JSON Schema of an exchange file."""
    return mix_schema()


class ScaleReading(Frozen):
    """What the scale said."""

    role: str = Field(max_length=20, description="role of the constituent, water or admixture")
    wanted_kg: float = Field(gt=0, le=1e6)
    weighed: Annotated[Mass, BeforeValidator(with_units)]
    tare_kg: float = Field(0.0, ge=0, le=1e4, description="what of the reading is the vessel")


@router.post("/api/weighed", name="api_weighed")
def api_weighed(reading: ScaleReading, reader: ReadBy) -> ScaleCheck:
    """Judge a reading of the scale against the ticket."""
    found = check_scale(reading.role, reading.wanted_kg, max(reading.weighed - reading.tare_kg, 0.0))
    return found.model_copy(update={"words": put(found.words, reader)})


class UnitWeight(Frozen):
    """A vessel of fresh concrete, weighed."""

    batch_kg: float = Field(gt=0, le=1e6, description="mass of all that went into the batch")
    fresh_kg_m3: float = Field(ge=300, le=4000, description="unit weight of the fresh concrete")
    without_air_kg_m3: float | None = Field(None, ge=300, le=4000, description="unit weight by absolute volumes")


class Yielded(Frozen):
    """What a unit weight tells."""

    yield_m3: float
    air_percent: float | None


@router.post("/api/unit-weight", name="api_unit_weight")
def api_unit_weight(weighed: UnitWeight) -> Yielded:
    """Say what a batch really made, and the air in it, by ASTM C138."""
    without = weighed.without_air_kg_m3
    return Yielded(
        yield_m3=yield_m3(weighed.batch_kg, weighed.fresh_kg_m3),
        air_percent=None if without is None else gravimetric_air_percent(without, weighed.fresh_kg_m3),
    )


@router.post("/api/sand", name="api_sand")
def api_sand(test: SandTest) -> SandResult:
    """Judge one sand, or two and their best blend, by their sieve sheets."""
    return judge_sand(test, load_catalogue())


class TakenOff(Frozen):
    """A take-off: what must be filled, how sure that is, and how far the material at hand goes."""

    need: Need
    sureness: Sureness
    reach: Reach | None = Field(description="where the sheet says what is at hand")


@router.post("/api/take-off", name="api_take_off")
def api_take_off(request: Request, sheet: Sheet) -> TakenOff:
    """Measure a job: volumes, what each measure's doubt does to them, and how far the material at hand goes."""
    full = resolve(sheet, shelf_for(request, sheet))
    result = plan(full)
    return TakenOff(need=result.need, sureness=sureness(full.shapes), reach=how_far(full, result))


@router.post("/api/plan", name="api_plan", response_model=Ticket)
def api_plan(request: Request, sheet: Sheet) -> Response:
    """Work out a job and answer with its ticket. Changes nothing and keeps nothing."""
    full = resolve(sheet, shelf_for(request, sheet))
    return JSONResponse(issue(full, plan(full)).model_dump(mode="json"))
