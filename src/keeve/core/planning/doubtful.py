"""Figures that can be, and hardly ever are: they are asked about before anything is planned with them."""

from typing import Final

from keeve.core.conditions.temperature import MaterialTemperatures
from keeve.core.message.errors import Code, Fault
from keeve.core.message.said import Amount, Said, Words, mark
from keeve.core.proportions.base import Basis
from keeve.core.proportions.bases.bio_aggregate import BioAggregate

HEMP_KG_M3: Final = 140.0
HOT_WATER_C: Final = 60.0
FROZEN_C: Final = 0.0


def asked_about(basis: Basis, temperatures: MaterialTemperatures | None) -> tuple[Fault, ...]:
    """List what somebody must say again before it is believed.

    Parameters
    ----------
    basis : of the mix
    temperatures : of its materials [°C], where somebody said so

    Returns
    -------
    a fault for hemp over 140 kg/m³, water over 60 °C, and sand or stone under 0 °C

    References
    ----------
    House ruling; the bounds are common practice, no source.
    """
    found: list[Fault] = []
    if isinstance(basis, BioAggregate) and basis.placed_kg_m3 > HEMP_KG_M3:
        said = Said("{value} of hemp in a cubic metre is tamped hard.", value=Amount(basis.placed_kg_m3, "kg"))
        found.append(_fault(said, basis.placed_kg_m3, HEMP_KG_M3))
    if temperatures is not None and temperatures.water_c > HOT_WATER_C:
        said = Said("Water of {value} makes cement set in lumps.", value=Amount(temperatures.water_c, "°C"))
        found.append(_fault(said, temperatures.water_c, HOT_WATER_C))
    heaps = (temperatures.aggregate_c, temperatures.stone_c) if temperatures is not None else ()
    for one in heaps:
        if one is not None and one < FROZEN_C:
            said = Said("At {value} the water in a heap is ice: thaw it first.", value=Amount(one, "°C"))
            found.append(_fault(said, one, FROZEN_C))
    return tuple(found)


def _fault(said: Words, value: float, limit: float) -> Fault:
    hint = mark("If it is so, say so at Mix, under “Outside the usual”.")
    return Fault(Code.OUT_OF_RANGE, said, hint, field="unusual_ok", value=value, limit=limit)
