"""The air a mix is made in: how fast the work dries, how long it lasts, and what must be done about it."""

from typing import Final, Literal, NamedTuple

from keeve.core.conditions.temperature import COLDEST_C, ICE_C, SOLIDS_HEAT, MaterialTemperatures
from keeve.core.hardening.clock import CEMENT_REF_C, PLASTER_REF_C, life_at_min
from keeve.core.measure.quantities import AirTemperature, Humidity, Wind
from keeve.core.message.errors import Code, Fault, Frozen, MixError
from keeve.core.message.said import Amount, Said, Words, mark
from keeve.core.mixes.mix import Mix

Grade = Literal["calm", "care", "protect"]
CARE_KG_M2_H: Final = 0.5
PROTECT_KG_M2_H: Final = 1.0
"""House rulings on ACI 305R, from memory."""
SUN_WARMS_C: Final = 5.0
WARM_C: Final = 25.0
"""From here on hot-weather habits pay: common practice, no source."""


def sunned_c(air_c: float, sun_percent: float | None) -> float:
    """Return how warm a load becomes in the sun [°C], from the air [°C] and the share of the sun on it [%].

    Own assumption: full sun warms an open load by five degrees over the air.

    >>> sunned_c(25, 100), sunned_c(25, None)
    (30.0, 25.0)
    """
    return air_c + SUN_WARMS_C * (sun_percent or 0.0) / 100


class AirNow(Frozen):
    """The air as somebody typed or read it."""

    air_c: AirTemperature
    humidity_percent: Humidity | None = None
    wind_km_h: Wind | None = None
    ground_c: AirTemperature | None = None
    sun_percent: Humidity | None = None
    """How much of the sun falls on mixer and work: 0 in the shade, 100 under an open sky."""

    def felt_c(self) -> float:
        """Return how warm a load in this sun becomes [°C]: the air's, and what the sun adds. Own assumption."""
        return sunned_c(self.air_c, self.sun_percent)


class Advice(NamedTuple):
    """One thing the weather asks for."""

    words: Words
    level: Literal["do", "stop"]


def evaporation_kg_m2_h(concrete_c: float, air_c: float, humidity: float, wind_km_h: float) -> float:
    """How fast water leaves fresh concrete.

    Parameters
    ----------
    concrete_c : of its surface [°C]
    air_c : [°C]
    humidity : relative [-], 0 to 1
    wind_km_h : half a metre above the surface [km/h], >= 0

    Returns
    -------
    water [kg/m²h], not below 0

    Raises
    ------
    MixError : a humidity that is none, or colder than the equation reaches

    Notes
    -----
    E = 5 ([Tc + 18]^2.5 − r [Ta + 18]^2.5) (V + 4) · 10⁻⁶

    References
    ----------
    Uno 1998, from memory. The chart of ACI 305R reads 1.2 for the example, from memory.

    >>> round(evaporation_kg_m2_h(31, 27, 0.5, 19), 2)
    1.15
    """
    if not 0 <= humidity <= 1:
        raise MixError(
            Fault(Code.OUT_OF_RANGE, mark("Air holds 0 to 100 % of water."), "", field="weather.humidity_percent")
        )
    if min(concrete_c, air_c) < -18 or wind_km_h < 0:
        raise MixError(Fault(Code.OUT_OF_RANGE, mark("So cold, or such a wind, the equation does not know.")))
    found: float = 5 * ((concrete_c + 18) ** 2.5 - humidity * (air_c + 18) ** 2.5) * (wind_km_h + 4) * 1e-6
    return max(found, 0.0)


def grade(evaporation: float, *, thin: bool = False) -> Grade:
    """Say what an evaporation [kg/m²h] asks for; thin or fume-rich work is protected from 0.5 on.

    House ruling on ACI 305R, from memory.

    >>> grade(0.3), grade(0.7), grade(0.7, thin=True), grade(1.2)
    ('calm', 'care', 'protect', 'protect')
    """
    if evaporation >= (CARE_KG_M2_H if thin else PROTECT_KG_M2_H):
        return "protect"
    return "care" if evaporation >= CARE_KG_M2_H else "calm"


class Batch(NamedTuple):
    """What a batch is made of, for its heat."""

    aggregate_kg: float
    binder_kg: float
    water_kg: float
    """Added, ice and all."""
    surface_kg: float


def water_for_c(target_c: float, temperatures: MaterialTemperatures, batch: Batch) -> float:
    """How warm the water must be for a batch to come out at a temperature.

    Parameters
    ----------
    target_c : wanted [°C]
    temperatures : of the rest [°C]
    batch : its masses [kg]

    Returns
    -------
    of the water [°C]; may be past freezing or boiling, then no water alone does it

    References
    ----------
    `batch_c` solved for the water: ACI 305R, from memory.

    >>> warm = MaterialTemperatures(water_c=20, aggregate_c=30, binder_c=50)
    >>> round(water_for_c(25, warm, Batch(1800, 300, 140, 40)), 1)
    -2.4
    """
    heap_c = temperatures.aggregate_c or 0.0
    solids = SOLIDS_HEAT * (heap_c * batch.aggregate_kg + temperatures.binder_c * batch.binder_kg)
    surface = heap_c * batch.surface_kg
    whole = SOLIDS_HEAT * (batch.aggregate_kg + batch.binder_kg) + batch.water_kg + batch.surface_kg
    return (target_c * whole - solids - surface) / batch.water_kg


def ice_for_kg(target_c: float, temperatures: MaterialTemperatures, batch: Batch) -> float:
    """How much of the water must be ice for a batch to come out at a temperature.

    Parameters
    ----------
    target_c : wanted [°C]
    temperatures : of water, aggregate and binder [°C]
    batch : its masses [kg]

    Returns
    -------
    ice [kg], not below 0; more than the water where all of it as ice is not enough

    Notes
    -----
    Mi = (T0 − T) · heat / (Tw + 79.6), T0 without ice

    References
    ----------
    `batch_c` solved for the ice, water and ice together held: ACI 305R, from memory.

    >>> warm = MaterialTemperatures(water_c=20, aggregate_c=30, binder_c=50)
    >>> round(ice_for_kg(19, warm, Batch(1800, 300, 140, 40)), 1)
    70.1
    """
    missing = (water_for_c(target_c, temperatures, batch) - temperatures.water_c) * batch.water_kg
    return max(-missing / (temperatures.water_c + ICE_C), 0.0)


def life_in_air_min(mix: Mix, air: AirNow) -> float:
    """Say how long a mix may be worked in an air and its sun [min]; as `life_at_min`, common practice, no source."""
    ref_c = PLASTER_REF_C if mix.bagged().role == "plaster" else CEMENT_REF_C
    return life_at_min(mix.working_life_min, ref_c, air.felt_c())


def drying(mix: Mix, air: AirNow, mix_c: float | None) -> tuple[float, Grade] | None:
    """Say how fast open work dries [kg/m²h, two figures] and what that asks for; None where nobody can tell.

    As `evaporation_kg_m2_h`; where nobody measured the mix, it is as warm as the air.
    """
    if not mix.kin.bare or air.humidity_percent is None or air.wind_km_h is None or air.air_c < COLDEST_C:
        return None
    found = evaporation_kg_m2_h(
        mix_c if mix_c is not None else air.air_c, air.air_c, air.humidity_percent / 100, air.wind_km_h
    )
    return float(f"{found:.2g}"), grade(found, thin=mix.kin.thin)


def advice(mix: Mix, air: AirNow, mix_c: float | None = None) -> tuple[Advice, ...]:
    """Say what this air asks for with this mix.

    Parameters
    ----------
    mix : that is made
    air : temperature [°C], humidity [%], wind [km/h], ground [°C]
    mix_c : how warm it comes out of the mixer [°C], where that is known

    Returns
    -------
    what stops the work first, then what is done about the weather

    References
    ----------
    Bounds as the mix names them; measures: common practice, no source.
    """
    bounds = mix.temperatures
    stops: list[Words] = []
    coldest = min(air.air_c, air.ground_c if air.ground_c is not None else air.air_c)
    if bounds is not None and coldest < bounds.low_c:
        stops.append(
            Said(
                "Too cold: {low} is the least for this, and it is {now}. Wait, or warm the place and keep it warm.",
                low=Amount(bounds.low_c, "°C"),
                now=Amount(coldest, "°C"),
            )
        )
    if bounds is not None and air.air_c > bounds.high_c:
        stops.append(
            Said(
                "Too hot: {high} is the most for this, and it is {now}. Work early or late, in the shade.",
                high=Amount(bounds.high_c, "°C"),
                now=Amount(air.air_c, "°C"),
            )
        )
    does = [*_hot(mix, air), *_cold(mix, air), *_dry(mix, air, mix_c)]
    return (*(Advice(words, "stop") for words in stops), *(Advice(words, "do") for words in does))


def _hot(mix: Mix, air: AirNow) -> list[Words]:
    if air.felt_c() < WARM_C:
        return []
    life = Amount(round(life_in_air_min(mix, air)), "min")
    found: list[Words] = [Said("In this air it lasts {life}: smaller loads, mixed as they are used.", life=life)]
    if air.sun_percent:
        found.append(mark("Move mixer, sand and work into the shade: the sun warms a load beyond the air."))
    if mix.bagged().role == "plaster":
        return [*found, mark("Cool water, cool bowl: warmth halves the time plaster gives.")]
    found.append(mark("Cold water, part of it as ice; run the hose off first; sand and bags in the shade."))
    if mix.kin.paced:
        found.append(mark("A retarder without chloride gives time: by its label, the same in every load."))
    return found


def _cold(mix: Mix, air: AirNow) -> list[Words]:
    if mix.temperatures is None or air.air_c >= mix.temperatures.low_c + 5 or mix.bagged().role == "plaster":
        return []
    found: list[Words] = [mark("Lukewarm water, nothing frozen in the heap; cover the work against the night.")]
    if mix.kin.paced:
        found.append(
            mark("An accelerator without chloride shortens the wait; none with chloride where there is steel.")
        )
    return found


def _dry(mix: Mix, air: AirNow, mix_c: float | None) -> list[Words]:
    found = drying(mix, air, mix_c)
    if found is None or found[1] == "calm":
        return []
    rate = Amount(found[0], "kg/m²h")
    if found[1] == "care":
        return [Said("It dries at {rate}: keep it damp, be ready to cover it.", rate=rate)]
    return [Said("It dries at {rate}: shade, a screen against the wind, a fog of water, a sheet at once.", rate=rate)]
