"""The air a job is mixed in, how warm its materials are, and what brings a load to the temperature wanted."""

from datetime import UTC, datetime
from typing import Annotated, Any, Final, Literal
from uuid import uuid4
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Form, Request
from fastapi.responses import Response
from pydantic import BeforeValidator, Field, ValidationError

from keeve.catalogue.trying import outlook, pruned
from keeve.core.conditions.temperature import MaterialTemperatures
from keeve.core.conditions.weather import AirNow
from keeve.core.measure.quantities import Temperature
from keeve.core.measure.reading import is_bare
from keeve.core.message.errors import Frozen, faults_of
from keeve.core.yard.day_log import Weather
from keeve.devices.weather import station_air, thermometers_c
from keeve.formats.reading.forecast import write_readings
from keeve.store.tables import JobRow
from keeve.web.asking.deps import AtDesk, Desk, Looking, ReadBy
from keeve.web.beside.before.shown import asked_of, back_to, shown
from keeve.web.edge.answers import GOES, GOES_OR_SHOWS, REFUSALS, file_of
from keeve.web.edge.security import OwnPage
from keeve.web.edge.settings import here
from keeve.words.reader import Reader

router = APIRouter(responses=REFUSALS)


Typed = Annotated[str, Form(max_length=40)]


def _kept_air(at: Desk, job: JobRow, given: dict[str, Any], found: AirNow | None, besides: dict[str, Any]) -> None:
    """Keep the air in the job's sheet, for its plan, and in the yard's log; and what else the sheet is to hold."""
    now = datetime.now(UTC)
    dropped = ("weather", "weather_at", *besides)
    sheet = {name: value for name, value in at.store.sheet(job).items() if name not in dropped} | pruned(besides)
    if found is not None:
        sheet |= {"weather": given, "weather_at": now.isoformat()}
        at.days.append(Weather(id=str(uuid4()), at=now, **found.model_dump()))
    at.store.save_sheet(job, sheet, outlook(sheet, at.shelf()))


@router.post("/jobs/{job_id}/before/station", name="before_station", dependencies=[OwnPage], **GOES)
def station(request: Request, job_id: str, desk: AtDesk) -> Response:
    """Take the air from the weather station, and how warm the materials are from their thermometers."""
    now = datetime.now(ZoneInfo(here()))
    found, warmth = station_air(now), thermometers_c(now)
    with desk() as at:
        job = at.job(job_id)
        _kept_air(at, job, found.model_dump(mode="json"), found, {"temperatures": warmth.model_dump(mode="json")})
    return back_to(request, job_id, "air")


@router.post("/jobs/{job_id}/before/ice", name="before_ice", dependencies=[OwnPage], **GOES)
def ice(request: Request, job_id: str, desk: AtDesk, ice_percent: Annotated[float, Form(ge=0, le=100)]) -> Response:
    """Put as much of the water as ice into the plan, or take it out again."""
    with desk() as at:
        job = at.job(job_id)
        sheet = dict(at.store.sheet(job)) | {"ice_percent": f"{ice_percent:.0f}" if ice_percent > 0 else ""}
        at.store.save_sheet(job, sheet, outlook(sheet, at.shelf()))
    return back_to(request, job_id, "air")


@router.post("/jobs/{job_id}/before/dose", name="before_dose", dependencies=[OwnPage], **GOES)
def dose(
    request: Request, job_id: str, desk: AtDesk, admixture: Annotated[Literal["retarder", "accelerator"], Form()]
) -> Response:
    """Put a retarder or an accelerator without chloride into the plan, in the middle of its label."""
    with desk() as at:
        job = at.job(job_id)
        sheet = dict(at.store.sheet(job))
        one = at.shelf().admixtures[admixture]
        given = [entry for entry in sheet.get("admixtures") or () if isinstance(entry, dict) and entry.get("admixture")]
        if not any(entry["admixture"] == admixture for entry in given):
            given.append({"admixture": admixture, "dose": f"{(one.least + one.most) / 2:g} {one.unit}"})
        sheet["admixtures"] = given
        at.store.save_sheet(job, sheet, outlook(sheet, at.shelf()))
    return back_to(request, job_id, "air")


_DEGREES: Final = ("air_c", "ground_c", "water_c", "aggregate_c", "stone_c", "binder_c", "wanted_c")


def _in_units(typed: dict[str, str], reader: Reader) -> dict[str, str]:
    """Put the reader's unit after a bare number."""
    units = dict.fromkeys(_DEGREES, "°F") | {"wind_km_h": "mph"} if reader.us else {}
    return {name: f"{text} {units[name]}" if name in units and is_bare(text) else text for name, text in typed.items()}


class _AirForm(Frozen):
    """All that the page's form about air and warmth holds, as typed."""

    weather: Annotated[AirNow | None, BeforeValidator(lambda given: given or None)] = None
    temperatures: Annotated[MaterialTemperatures | None, BeforeValidator(lambda given: given or None)] = None
    wanted_c: Annotated[Temperature, Field(ge=2, le=40)] | None = None


def _parts(given: dict[str, str]) -> dict[str, Any]:
    return {
        "weather": {name: given[name] for name in AirNow.model_fields if name in given},
        "temperatures": {name: given[name] for name in MaterialTemperatures.model_fields if name in given},
        "wanted_c": given.get("wanted_c"),
    }


@router.post("/jobs/{job_id}/before/air", name="before_air", dependencies=[OwnPage], **GOES_OR_SHOWS)
def air(
    request: Request,
    job_id: str,
    desk: AtDesk,
    reader: ReadBy,
    air_c: Typed = "",
    humidity_percent: Typed = "",
    wind_km_h: Typed = "",
    ground_c: Typed = "",
    sun_percent: Typed = "",
    water_c: Typed = "",
    aggregate_c: Typed = "",
    stone_c: Typed = "",
    binder_c: Typed = "",
    wanted_c: Typed = "",
) -> Response:
    """Keep how the air is, for this job's plan and for the yard's day, and how warm its materials are."""
    typed = {
        "air_c": air_c, "humidity_percent": humidity_percent, "wind_km_h": wind_km_h, "ground_c": ground_c,
        "sun_percent": sun_percent, "water_c": water_c, "aggregate_c": aggregate_c, "stone_c": stone_c,
        "binder_c": binder_c,
        "wanted_c": wanted_c,
    }  # fmt: skip
    parts = _parts(pruned(_in_units({name: text.strip() for name, text in typed.items()}, reader)))
    with desk() as at:
        job = at.job(job_id)
        try:
            found = _AirForm.model_validate(parts)
        except ValidationError as error:
            return shown(request, asked_of(at, job), reader, faults_of(error), typed)
        besides = {"temperatures": parts["temperatures"], "wanted_c": found.wanted_c}
        _kept_air(at, job, parts["weather"], found.weather, besides)
    return back_to(request, job_id, "air")


@router.get("/weather.csv", name="weather_file", **file_of("text/csv"))
def weather_file(desk: Looking) -> Response:
    """Hand out the air as it was read and typed in this yard: figures only, so a minus begins no formula."""
    with desk() as at:
        log = [one for one in at.days.log() if isinstance(one, Weather)]
    return Response(write_readings(log), media_type="text/csv")
