"""How warm a batch comes out of the mixer, and what setting plaster heats up to."""

import math
from typing import Final

from pydantic import Field

from keeve.core.dosing.card import Card
from keeve.core.hardening.strength import HYDRATION
from keeve.core.materials.material import WET_HEAPS
from keeve.core.measure.quantities import Temperature
from keeve.core.message.errors import Code, Fault, Frozen, MixError
from keeve.core.message.said import Amount, Said, Words, mark
from keeve.core.message.working import Given, Working

SOLIDS_HEAT: Final = 0.22
"""Heat of dry solids to that of water, kilogram for kilogram."""
ICE_C: Final = 79.6
"""Melting a kilogram of ice takes what cools a kilogram of water by so much [°C]."""
COLDEST_C: Final = 2.0
"""Below this the ice would not all melt in the mixer: common practice, no source."""

BETA_KJ_KG: Final = 133.0
_GYPSUM_KJ_KG_K: Final = 1.09
_WATER_KJ_KG_K: Final = 4.18
_SAND_KJ_KG_K: Final = 0.84
WATER_C: Final = 21.0
"""Plaster is mixed with water of this temperature: common practice, no source."""


class MaterialTemperatures(Frozen):
    """How warm the materials are."""

    water_c: Temperature = Field(ge=0)
    aggregate_c: Temperature | None = None
    """Of sand, and of stone that is not said; a bag has neither."""
    stone_c: Temperature | None = None
    binder_c: Temperature

    def of_heap(self, role: str) -> float:
        """Return how warm a heap is [°C]. Plain arithmetic; asks for it where nobody said so."""
        found = self.stone_c if role == "stone" and self.stone_c is not None else self.aggregate_c
        if found is None:
            raise MixError(
                Fault(
                    Code.MISSING,
                    mark("How warm the sand is nobody said."),
                    mark("Hold a thermometer into the heap, or take that of the air in the shade."),
                    field="temperatures.aggregate_c",
                )
            )
        return found


def of_heaps(card: Card, temperatures: MaterialTemperatures) -> MaterialTemperatures:
    """Bring several heaps to one temperature that holds the same heat.

    Parameters
    ----------
    card : the load
    temperatures : of its materials [°C]

    Returns
    -------
    the same with one temperature for all heaps: their mean by the heat they hold, surface water with them

    Raises
    ------
    MixError : nobody said how warm the sand is

    References
    ----------
    As `batch_c`; plain arithmetic.
    """
    brought = {line.key: max(line.litres, 0.0) for line in card.water.lines}
    heaps = [d for d in card.doses if d.role in WET_HEAPS]
    heats = [SOLIDS_HEAT * d.dry_kg + brought.get(d.material_key, 0.0) for d in heaps]
    if not heaps or math.fsum(heats) <= 0:
        return temperatures.model_copy(update={"aggregate_c": temperatures.aggregate_c or 0.0})
    warmth = math.fsum(heat * temperatures.of_heap(d.role) for heat, d in zip(heats, heaps, strict=True))
    return temperatures.model_copy(update={"aggregate_c": warmth / math.fsum(heats)})


def batch_c(
    temperatures: MaterialTemperatures,
    aggregate_kg: float,
    binder_kg: float,
    water_kg: float,
    surface_kg: float,
    ice_kg: float,
) -> float:
    """Temperature of a batch of concrete or mortar as it leaves the mixer.

    Parameters
    ----------
    temperatures : of water, aggregate and binder [°C]
    aggregate_kg, binder_kg : dry masses [kg]
    water_kg : water added, without the ice [kg]
    surface_kg : water on the aggregate, as warm as that [kg]
    ice_kg : ice, melting at 0 °C [kg]

    Returns
    -------
    temperature [°C]

    Notes
    -----
    T = [0.22 (Ta Ma + Tc Mc) + Tw Mw + Ta Mwa − 79.6 Mi] / [0.22 (Ma + Mc) + Mw + Mwa + Mi]

    References
    ----------
    ACI 305R and PCA, Design and Control of Concrete Mixtures, from memory.

    >>> warm = MaterialTemperatures(water_c=20, aggregate_c=30, binder_c=50)
    >>> round(batch_c(warm, 1800, 300, 140, 40, 0), 1), round(batch_c(warm, 1800, 300, 70, 40, 70), 1)
    (29.9, 19.0)
    """
    given, solids = temperatures, SOLIDS_HEAT
    heap_c = given.aggregate_c or 0.0
    heat = solids * (heap_c * aggregate_kg + given.binder_c * binder_kg)
    heat += given.water_c * water_kg + heap_c * surface_kg - ICE_C * ice_kg
    return heat / (solids * (aggregate_kg + binder_kg) + water_kg + surface_kg + ice_kg)


def of_card(card: Card, temperatures: MaterialTemperatures) -> Working:
    """Work out how warm a load comes out.

    Parameters
    ----------
    card : the load
    temperatures : of its materials [°C]

    Returns
    -------
    the temperature with its working [°C]

    Raises
    ------
    MixError : so much ice that it would not all melt

    References
    ----------
    As `batch_c`.
    """
    aggregate = sum(d.dry_kg for d in card.doses if d.role in WET_HEAPS)
    binder = sum(d.dry_kg for d in card.doses if d.role not in WET_HEAPS)
    heaps = {d.material_key for d in card.doses if d.role in WET_HEAPS}
    surface = sum(max(line.litres, 0.0) for line in card.water.lines if line.key in heaps)
    water, ice = card.water.pour.target, card.water.ice_kg
    temperatures = of_heaps(card, temperatures)
    found = batch_c(temperatures, aggregate, binder, water, surface, ice)
    if ice > 0 and found < COLDEST_C:
        said = Said("So much ice would bring the mix to {cold}: it does not all melt.", cold=Amount(found, "°C"))
        raise MixError(
            Fault(
                Code.OUT_OF_RANGE, said, "Take less ice.", field="ice_percent", value=found, limit=COLDEST_C, unit="°C"
            )
        )
    return Working(
        figure="Temperature of the mix",
        formula="(0.22 Σ dry mass × T + Σ water × T − 79.6 × ice) / (0.22 Σ dry mass + water + ice)",
        given=(
            Given("aggregate", aggregate, "kg"),
            Given("aggregate, temperature", temperatures.aggregate_c or 0.0, "°C"),
            Given("the rest of the dry mass", binder, "kg"),
            Given("the rest, temperature", temperatures.binder_c, "°C"),
            Given("water poured", water, "kg"),
            Given("water poured, temperature", temperatures.water_c, "°C"),
            Given("water on the aggregate", surface, "kg"),
            Given("ice", ice, "kg"),
        ),
        result=found,
        unit="°C",
        source="ACI 305R, from memory",
    )


def plaster_peak_c(
    water_to_powder: float, heat_kj_kg: float = BETA_KJ_KG, sand_to_powder: float = 0.0, start_c: float = WATER_C
) -> float:
    """How hot setting plaster gets inside, where none of the heat gets out.

    Parameters
    ----------
    water_to_powder : w/p by mass [kg/kg]
    heat_kj_kg : heat of setting [kJ/kg of powder]: 133 of beta, 118 of alpha hemihydrate
    sand_to_powder : sand mixed in [kg/kg]; takes up its share of the heat
    start_c : of the water and the powder [°C]

    Returns
    -------
    temperature [°C]

    Notes
    -----
    ΔT = H / [1.186 · 1.09 + (w/p − 0.186) · 4.18 + s · 0.84]

    References
    ----------
    Heats of hydration from memory; specific heat of sand: common practice, no source.

    >>> round(plaster_peak_c(0.7)), round(plaster_peak_c(0.3, 118))
    (60, 88)
    """
    capacity = (1 + HYDRATION) * _GYPSUM_KJ_KG_K + max(water_to_powder - HYDRATION, 0.0) * _WATER_KJ_KG_K
    return start_c + heat_kj_kg / (capacity + sand_to_powder * _SAND_KJ_KG_K)


def ice_warning(ice_percent: float, temperatures: MaterialTemperatures | None) -> Words:
    """Say what is missing where ice is asked for and nobody said how warm the materials are; else nothing.

    Common practice, no source.
    """
    if ice_percent <= 0 or temperatures is not None:
        return ""
    return mark("How cold ice makes this nobody can tell: say how warm water, aggregate and cement are.")
