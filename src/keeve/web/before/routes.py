"""Before you mix: materials judged, the air reckoned with, and what happened in the yard told in one tap."""

from datetime import UTC, datetime
from typing import Annotated, Any, Final, Literal, NamedTuple
from uuid import uuid4
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Form, Request, status
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError

from keeve.catalogue.trying import Tried, air_is_old, changed_heaps, old_looks, outlook, pruned, try_plan
from keeve.core.admixtures import Wanted
from keeve.core.card import Card
from keeve.core.checks import SILT_LIMIT_PERCENT, Standing, answered, rejected, silt_percent
from keeve.core.day_log import Change, Changed, Checked, Weather, last_change, last_weather
from keeve.core.errors import Code, Fault, MixError, TradeError, faults_of
from keeve.core.looks import SAND_LOOKS, HeapLook
from keeve.core.material import WET_HEAPS
from keeve.core.mix import Mix
from keeve.core.reading import is_bare, read_length_mm
from keeve.core.said import Words, mark
from keeve.core.temperature import MaterialTemperatures
from keeve.core.weather import REDUCES, WARM_C, AirNow, Batch, advice, drying, ice_for_kg, life_in_air_min, water_for_c
from keeve.devices.weather import station_air
from keeve.store.day_store import Entry
from keeve.store.tables import JobRow
from keeve.web.answers import GOES, GOES_OR_SHOWS, PAGE, REFUSALS
from keeve.web.before.standing import stands_of
from keeve.web.day.routes import here
from keeve.web.deps import AtDesk, Desk, Looking, ReadBy, readable_sheet
from keeve.web.faults import fault_rows
from keeve.web.render import Page, page
from keeve.web.security import OwnPage
from keeve.words.reader import Reader

router = APIRouter(responses=REFUSALS)
HAPPENED: Final[tuple[tuple[Change, Words], ...]] = (
    ("rain", mark("It rained")),
    ("uncovered", mark("Cover off")),
    ("bottom", mark("Bottom of the heap")),
    ("delivery", mark("Delivery")),
    ("bags", mark("New bags")),
)
TARGET_C: Final = 20.0
"""A mix that comes out so keeps its working life: common practice, no source."""


class Cooling(NamedTuple):
    """What brings a load to a temperature."""

    target_c: float
    water_c: float
    ice_kg: float
    possible: bool
    """Whether water and ice alone do it."""


def _cooling(card: Card, temperatures: MaterialTemperatures) -> Cooling:
    aggregate = sum(d.dry_kg for d in card.doses if d.role in WET_HEAPS)
    heaps = {d.material_key for d in card.doses if d.role in WET_HEAPS}
    surface = sum(max(line.litres, 0.0) for line in card.water.lines if line.key in heaps)
    whole = sum(d.dry_kg for d in card.doses)
    batch = Batch(aggregate, whole - aggregate, card.water.pour.target + card.water.ice_kg, surface)
    water, ice = water_for_c(TARGET_C, temperatures, batch), ice_for_kg(TARGET_C, temperatures, batch)
    return Cooling(TARGET_C, water, ice, ice <= batch.water_kg)


class _Asked(NamedTuple):
    """What the page is made of."""

    job: JobRow
    sheet: dict[str, Any]
    tried: Tried
    mix: Mix | None
    stands: tuple[Standing, ...]
    log: tuple[Entry, ...]
    now: datetime


def _asked(at: Desk, job: JobRow) -> _Asked:
    now = datetime.now(UTC)
    sheet = at.store.sheet(job)
    tried = try_plan(sheet, at.shelf(), now=now)
    mix = tried.mix or at.shelf().mixes.get(str(sheet.get("mix")))
    log = at.days.log(now)
    stands = stands_of(mix, sheet, at, now) if mix else ()
    return _Asked(job, sheet, tried, mix, stands, log, now)


def _weather_values(asked: _Asked) -> dict[str, Any]:
    """What the air asks for, as far as somebody said how it is."""
    request, plan = asked.tried.request, asked.tried.plan
    air = request.air if request else None
    if asked.mix is None or air is None or request is None or plan is None:
        return {"advice": (), "drying": None, "life_min": None, "cooling": None, "doses": []}
    batch = plan.batch_temperature
    mix_c = batch.result if batch else None
    cooling = None
    if (
        request.temperatures is not None
        and plan.cards[0].water.pour.target > 0
        and mix_c is not None
        and mix_c > TARGET_C
    ):
        cooling = _cooling(plan.cards[0], request.temperatures)
    return {
        "advice": advice(asked.mix, air, mix_c),
        "drying": drying(asked.mix, air, mix_c),
        "life_min": life_in_air_min(asked.mix, air.air_c),
        "cooling": cooling,
        "doses": _doses(asked.mix, air.air_c, request.admixtures),
    }


def _doses(mix: Mix, air_c: float, taken: tuple[Wanted, ...]) -> list[str]:
    """Which of retarder and accelerator this air asks for and nobody has put in."""
    cold = mix.temperatures is not None and air_c < mix.temperatures.low_c + 5
    wanted = ["retarder"] if air_c >= WARM_C else ["accelerator"] if cold else []
    has = {one.admixture.key for one in taken}
    return [one for one in wanted if mix.family in REDUCES and one not in has]


def _page(
    request: Request, asked: _Asked, reader: Reader, faults: tuple[Fault, ...] = (), typed: dict[str, str] | None = None
) -> Page:
    last = last_weather(asked.log)
    kept = asked.sheet.get("weather")
    old = air_is_old(asked.sheet, asked.now)
    air = kept if isinstance(kept, dict) and not old else {}
    return page(
        request,
        "before/page.html",
        status.HTTP_422_UNPROCESSABLE_CONTENT if faults else status.HTTP_200_OK,
        job=asked.job,
        station="mixer",
        mix=asked.mix,
        stands=asked.stands,
        open=[one for one in asked.stands if one.answer is None],
        stops=rejected(asked.stands),
        heaps=_heaps(asked),
        LOOKS=tuple(SAND_LOOKS),
        happened=[(kind, words, last_change(asked.log, (kind,), "")) for kind, words in HAPPENED],
        materials=[m for m in asked.mix.materials() if m.role in WET_HEAPS] if asked.mix else [],
        air=dict.fromkeys(AirNow.model_fields, "") | (typed or air),
        air_old=old,
        read=last,
        faults=fault_rows(faults, reader),
        seconds=lambda at: max(round((at - asked.now).total_seconds()), 0),
        minutes_ago=lambda at: max(round((asked.now - at).total_seconds() / 60), 0),
        **_weather_values(asked),
    )


@router.get("/jobs/{job_id}/before", name="before", **PAGE)
def before(request: Request, job_id: str, desk: Looking, reader: ReadBy) -> Response:
    """Show what is looked at before the first load of the day."""
    with desk() as at:
        seen = at.seen(job_id)
        readable_sheet(request, seen.job)
        return _page(request, _asked(at, seen.job), reader)


class Heap(NamedTuple):
    """A heap of the mix, and how wet somebody said it is."""

    key: str
    name: Words
    told: str
    is_look: bool
    rained: bool
    """Whether it changed since."""


def _heaps(asked: _Asked) -> list[Heap]:
    """List the heaps of a mix; what was said on another day or before rain counts as not said."""
    told = asked.sheet.get("moisture_percent")
    given = told if isinstance(told, dict) else {}
    old, changed = old_looks(asked.sheet, asked.now), changed_heaps(asked.sheet)
    found = []
    for one in asked.mix.materials() if asked.mix else ():
        if one.role in WET_HEAPS and not one.bagged_dry:
            said = "" if one.key in old else str(given.get(one.key) or "")[:40]
            found.append(Heap(one.key, one.name, said.strip().lower(), said in SAND_LOOKS, one.key in changed))
    return found


@router.post("/jobs/{job_id}/before/heap", name="before_heap", dependencies=[OwnPage], **GOES)
def heap(
    request: Request,
    job_id: str,
    desk: AtDesk,
    of: Annotated[str, Form(max_length=80)],
    look: Annotated[HeapLook, Form()],
) -> Response:
    """Keep how wet a heap looks, in the job's sheet."""
    with desk() as at:
        job = at.job(job_id)
        asked = _asked(at, job)
        if of in {one.key for one in _heaps(asked)}:
            sheet = dict(asked.sheet)
            for table, value in (("moisture_percent", look), ("looked_at", asked.now.isoformat())):
                kept = sheet.get(table)
                sheet[table] = (kept if isinstance(kept, dict) else {}) | {of: value}
            at.store.save_sheet(job, sheet, outlook(sheet, at.shelf()))
    return _back(request, job_id, f"heap-{of}")


def _back(request: Request, job_id: str, part: str = "") -> Response:
    address = str(request.url_for("before", job_id=job_id))
    return RedirectResponse(f"{address}#{part}" if part else address, status.HTTP_303_SEE_OTHER)


def _silt(layer: str, sand: str) -> float | None:
    if not (layer.strip() or sand.strip()):
        return None
    if not (layer.strip() and sand.strip()):
        raise MixError(
            Fault(Code.MISSING, mark("Both are wanted: the layer on top and the sand below it."), "", "layer_mm")
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
        asked = _asked(at, at.job(job_id))
        stand = next((one for one in asked.stands if (one.check.key, one.of) == (check, of)), None)
        try:
            if stand is None:
                raise MixError(Fault(Code.UNKNOWN, mark("That is not asked for today."), "", "answer"))
            percent = _silt(layer, sand)
            if percent is not None:
                answer = _by_silt(stand, percent)
            answered(stand.check, stand, answer, asked.now)
        except TradeError as error:
            return _page(request, asked, reader, error.faults)
        entry = Checked(id=str(uuid4()), at=asked.now, check=check, of=of, answer=answer, silt_percent=percent)
        at.days.append(entry)
    return _back(request, job_id, f"check-{check}-{of}")


def _by_silt(stand: Standing, percent: float) -> str:
    """Choose the answer of a jar by its layer."""
    wanted = "accept" if percent <= SILT_LIMIT_PERCENT else "test"
    return next(one.key for one in stand.check.answers if one.verdict == wanted)


@router.post("/jobs/{job_id}/before/well", name="before_well", dependencies=[OwnPage], **GOES)
def all_well(request: Request, job_id: str, desk: AtDesk) -> Response:
    """Keep that all that was still to be looked at is as it should be."""
    with desk() as at:
        asked = _asked(at, at.job(job_id))
        at.days.append(
            *(
                Checked(id=str(uuid4()), at=asked.now, check=one.check.key, of=one.of, answer=good.key)
                for one in asked.stands
                if one.answer is None and one.ready_at is None
                for good in one.check.answers[:1]
            )
        )
    return _back(request, job_id)


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
        at.days.append(Changed(id=str(uuid4()), at=datetime.now(UTC), kind=kind, of=of))
    return _back(request, job_id)


def _kept_air(at: Desk, job: JobRow, given: dict[str, Any], found: AirNow) -> None:
    """Keep the air in the job's sheet, for its plan, and in the yard's log."""
    now = datetime.now(UTC)
    sheet = dict(at.store.sheet(job)) | {"weather": given, "weather_at": now.isoformat()}
    at.days.append(Weather(id=str(uuid4()), at=now, **found.model_dump()))
    at.store.save_sheet(job, sheet, outlook(sheet, at.shelf()))


@router.post("/jobs/{job_id}/before/station", name="before_station", dependencies=[OwnPage], **GOES)
def station(request: Request, job_id: str, desk: AtDesk) -> Response:
    """Take the air from the weather station."""
    found = station_air(datetime.now(ZoneInfo(here())))
    with desk() as at:
        _kept_air(at, at.job(job_id), found.model_dump(mode="json"), found)
    return _back(request, job_id, "air")


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
    return _back(request, job_id, "air")


def _in_units(typed: dict[str, str], reader: Reader) -> dict[str, str]:
    """Put the reader's unit after a bare number."""
    units = {"air_c": "°F", "ground_c": "°F", "wind_km_h": "mph"} if reader.us else {}
    return {name: f"{text} {units[name]}" if name in units and is_bare(text) else text for name, text in typed.items()}


@router.post("/jobs/{job_id}/before/air", name="before_air", dependencies=[OwnPage], **GOES_OR_SHOWS)
def air(
    request: Request,
    job_id: str,
    desk: AtDesk,
    reader: ReadBy,
    air_c: Annotated[str, Form(max_length=40)] = "",
    humidity_percent: Annotated[str, Form(max_length=40)] = "",
    wind_km_h: Annotated[str, Form(max_length=40)] = "",
    ground_c: Annotated[str, Form(max_length=40)] = "",
) -> Response:
    """Keep how the air is: for this job's plan, and for the yard's day."""
    typed = {"air_c": air_c, "humidity_percent": humidity_percent, "wind_km_h": wind_km_h, "ground_c": ground_c}
    given = pruned(_in_units({name: text.strip() for name, text in typed.items()}, reader))
    with desk() as at:
        job = at.job(job_id)
        if given:
            try:
                found = AirNow.model_validate(given)
            except ValidationError as error:
                return _page(request, _asked(at, job), reader, faults_of(error), typed)
            _kept_air(at, job, given, found)
        else:
            sheet = {name: value for name, value in at.store.sheet(job).items() if not name.startswith("weather")}
            at.store.save_sheet(job, sheet, outlook(sheet, at.shelf()))
    return _back(request, job_id, "air")
