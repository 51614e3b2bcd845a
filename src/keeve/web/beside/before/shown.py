"""What the page before the mixing is made of: the checks, the heaps, and what the air asks for."""

from datetime import UTC, datetime
from typing import Any, Final, NamedTuple

from fastapi import Request, status
from fastapi.responses import RedirectResponse, Response

from keeve.catalogue.trying import Tried, air_is_old, changed_heaps, old_looks, try_plan
from keeve.core.conditions.temperature import MaterialTemperatures, of_heaps
from keeve.core.conditions.weather import (
    WARM_C,
    AirNow,
    Batch,
    advice,
    drying,
    ice_for_kg,
    life_in_air_min,
    water_for_c,
)
from keeve.core.dosing.card import Card
from keeve.core.hardening.waiting import HOT_GROUND_C, Wetting
from keeve.core.materials.looks import SAND_LOOKS
from keeve.core.materials.material import WET_HEAPS
from keeve.core.message.errors import Fault
from keeve.core.message.said import Words
from keeve.core.mixes.admixtures import Wanted
from keeve.core.mixes.mix import Mix
from keeve.core.yard.checks import Standing, rejected
from keeve.core.yard.day_log import Entry, last_change, last_weather
from keeve.store.tables import JobRow
from keeve.web.asking.deps import Desk
from keeve.web.asking.heap_told import HAPPENED
from keeve.web.asking.standing import stands_of
from keeve.web.beside.before.sieves import HeapSieve, sieves_of
from keeve.web.pages.faults import fault_rows
from keeve.web.pages.render import Page, page
from keeve.words.reader import Reader

TARGET_C: Final = 20.0
"""A mix that comes out so keeps its working life: common practice, no source."""
WARMEST_WATER_C: Final = 60.0
"""Hotter water than that is asked about: house ruling."""
SAND_FIRST_C: Final = 40.0
"""Cement met by hotter water sets in lumps, so sand goes into it first: common practice, no source."""
ABOVE_LEAST_C: Final = 5.0
"""So much above the least it may have a load is warmed: house ruling."""
COOL_C: Final = 10.0
"""From here to `WARM_C` nobody who named no other wish need do anything: common practice, no source."""
NEAR_C: Final = 1.0
"""So near the wanted temperature nothing is done: own assumption."""


class Tempering(NamedTuple):
    """What brings a load to a temperature."""

    wanted_c: float
    water_c: float
    ice_kg: float
    ice_percent: float
    """Of the water to add."""
    warms: bool
    sand_first: bool
    """Whether the water is so warm that cement must not meet it alone."""
    possible: bool
    """Whether water and ice alone do it."""


def _tempering(card: Card, temperatures: MaterialTemperatures, wanted_c: float, mix_c: float) -> Tempering | None:
    """Say what water or ice brings a load to a temperature; None where it comes out so anyway."""
    if abs(mix_c - wanted_c) < NEAR_C:
        return None
    aggregate = sum(d.dry_kg for d in card.doses if d.role in WET_HEAPS)
    heaps = {d.material_key for d in card.doses if d.role in WET_HEAPS}
    surface = sum(max(line.litres, 0.0) for line in card.water.lines if line.key in heaps)
    whole = sum(d.dry_kg for d in card.doses)
    temperatures = of_heaps(card, temperatures)
    batch = Batch(aggregate, whole - aggregate, card.water.pour.target + card.water.ice_kg, surface)
    water, ice = water_for_c(wanted_c, temperatures, batch), ice_for_kg(wanted_c, temperatures, batch)
    warms = mix_c < wanted_c
    possible = water <= WARMEST_WATER_C if warms else ice <= batch.water_kg
    return Tempering(wanted_c, water, ice, ice / batch.water_kg * 100, warms, warms and water > SAND_FIRST_C, possible)


class Asked(NamedTuple):
    """What the page is made of."""

    job: JobRow
    sheet: dict[str, Any]
    tried: Tried
    mix: Mix | None
    stands: tuple[Standing, ...]
    log: tuple[Entry, ...]
    now: datetime
    sands: tuple[tuple[str, str], ...]
    """Keys and names of the crew's sieve sheets."""
    sieves: dict[str, HeapSieve]
    """Those of the heaps, by material."""


def asked_of(at: Desk, job: JobRow) -> Asked:
    """Find all that the page of a job is made of."""
    now = datetime.now(UTC)
    sheet = at.store.sheet(job)
    tried = try_plan(sheet, at.shelf(), now=now)
    mix = tried.mix or at.shelf().mixes.get(str(sheet.get("mix")))
    log = at.days.log(now)
    stands = stands_of(mix, sheet, at, now) if mix else ()
    return Asked(job, sheet, tried, mix, stands, log, now, *sieves_of(at, log))


def _weather_values(asked: Asked) -> dict[str, Any]:
    """What the air asks for, as far as somebody said how it is."""
    request, plan = asked.tried.request, asked.tried.plan
    found: dict[str, Any] = {
        "advice": (), "drying": None, "life_min": None, "tempering": None, "doses": [], "mix_c": None,
    }  # fmt: skip
    if asked.mix is None or request is None or plan is None:
        return found
    mix_c = plan.batch_temperature.result if plan.batch_temperature else None
    found["mix_c"] = mix_c
    if request.temperatures is not None and plan.cards[0].water.pour.target > 0 and mix_c is not None:
        wanted = asked.sheet.get("wanted_c")
        cold = mix_c < COOL_C and asked.mix.temperatures is not None
        usual = asked.mix.temperatures.low_c + ABOVE_LEAST_C if cold and asked.mix.temperatures else TARGET_C
        wanted_c = float(wanted) if isinstance(wanted, int | float) else usual
        if wanted is not None or not COOL_C <= mix_c <= WARM_C:
            found["tempering"] = _tempering(plan.cards[0], request.temperatures, wanted_c, mix_c)
    if request.air is None:
        return found
    return found | {
        "advice": advice(asked.mix, request.air, mix_c),
        "drying": drying(asked.mix, request.air, mix_c),
        "life_min": life_in_air_min(asked.mix, request.air),
        "doses": _doses(asked.mix, request.air.felt_c(), request.admixtures),
    }


def _doses(mix: Mix, air_c: float, taken: tuple[Wanted, ...]) -> list[str]:
    """Which of retarder and accelerator this air asks for and nobody has put in."""
    cold = mix.temperatures is not None and air_c < mix.temperatures.low_c + 5
    wanted = ["retarder"] if air_c >= WARM_C else ["accelerator"] if cold else []
    has = {one.admixture.key for one in taken}
    return [one for one in wanted if mix.kin.paced and one not in has]


class Wetted(NamedTuple):
    """How the ground of a job is wetted, and with how much."""

    wetting: Wetting
    area_m2: float
    """0 where no shape has a face."""
    least_l: float
    most_l: float
    """For all of it, or for a square metre; two figures, as nobody pours more exactly."""
    twice: bool
    """Hot ground drinks it and dries again."""


def _wetting(asked: Asked) -> Wetted | None:
    if asked.mix is None or asked.mix.wetting is None:
        return None
    request = asked.tried.request
    shapes = request.shapes if request else ()
    area = sum((one.face_m2() or 0.0) * one.count for one in shapes if not one.off) if asked.tried.plan else 0.0
    ground_c = request.air.ground_c if request and request.air else None
    low, high = (
        float(f"{rate * (area or 1.0):.2g}") for rate in (asked.mix.wetting.least_l_m2, asked.mix.wetting.most_l_m2)
    )
    return Wetted(asked.mix.wetting, area, low, high, ground_c is not None and ground_c >= HOT_GROUND_C)


class Heap(NamedTuple):
    """A heap of the mix, and how wet somebody said it is."""

    key: str
    name: Words
    told: str
    is_look: bool
    moisture_percent: float | None
    """As it was measured."""
    bulking_percent: float | None
    """By the jar, where it was tested."""
    rained: bool
    """Whether it changed since."""
    sieved: bool
    """Whether a sand's sieve sheet can be its."""


def heaps_of(asked: Asked) -> list[Heap]:
    """List the heaps of a mix; what was said on another day or before rain counts as not said."""
    told = asked.sheet.get("moisture_percent")
    given = told if isinstance(told, dict) else {}
    old, changed = old_looks(asked.sheet, asked.now), changed_heaps(asked.sheet)
    found, request = [], asked.tried.request
    for one in asked.mix.materials() if asked.mix else ():
        if one.role in WET_HEAPS and not one.bagged_dry:
            said = "" if one.key in old else str(given.get(one.key) or "")[:40]
            look = said.strip().lower()
            measured = request.moisture_percent.get(one.key) if request else None
            moist = measured if isinstance(measured, float) and look else None
            bulks = request.bulking_percent.get(one.key) if request else None
            found.append(
                Heap(one.key, one.name, look, look in SAND_LOOKS, moist, bulks, one.key in changed, one.role == "sand")
            )
    return found


def shown(
    request: Request, asked: Asked, reader: Reader, faults: tuple[Fault, ...] = (), typed: dict[str, str] | None = None
) -> Page:
    """Show the page, with what was typed and cannot be."""
    last = last_weather(asked.log)
    kept = asked.sheet.get("weather")
    old = air_is_old(asked.sheet, asked.now)
    air = kept if isinstance(kept, dict) and not old else {}
    warmth = asked.sheet.get("temperatures")
    given = air | (warmth if isinstance(warmth, dict) else {}) | {"wanted_c": asked.sheet.get("wanted_c") or ""}
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
        heaps=heaps_of(asked),
        stony=asked.mix is not None and {m.role for m in asked.mix.materials()} >= {"sand", "stone"},
        sands=asked.sands,
        sieves=asked.sieves,
        LOOKS=tuple(SAND_LOOKS),
        happened=[(kind, words, last_change(asked.log, (kind,), "")) for kind, words in HAPPENED],
        materials=[m for m in asked.mix.materials() if m.role in WET_HEAPS] if asked.mix else [],
        air=dict.fromkeys((*AirNow.model_fields, *MaterialTemperatures.model_fields), "") | given | (typed or {}),
        wetting=_wetting(asked),
        iced=str(asked.sheet.get("ice_percent") or "0") not in ("", "0"),
        unplanned=fault_rows(asked.tried.faults, reader),
        air_old=old,
        read=last,
        faults=fault_rows(faults, reader),
        seconds=lambda at: max(round((at - asked.now).total_seconds()), 0),
        minutes_ago=lambda at: max(round((asked.now - at).total_seconds() / 60), 0),
        **_weather_values(asked),
    )


def back_to(request: Request, job_id: str, part: str = "") -> Response:
    """Go back to a part of the page."""
    address = str(request.url_for("before", job_id=job_id))
    return RedirectResponse(f"{address}#{part}" if part else address, status.HTTP_303_SEE_OTHER)
