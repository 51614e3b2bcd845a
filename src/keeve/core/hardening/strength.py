"""What water costs: strength by water-cement ratio, pores of a plaster cast, and the weight at which it is dry."""

import math
from itertools import pairwise
from typing import Final, Literal

from keeve.core.message.errors import Code, Fault, Frozen, MixError
from keeve.core.message.said import Amount, Said, mark
from keeve.core.message.working import Given, Working
from keeve.core.proportions.aci_tables import RATIO, RATIO_AIR
from keeve.core.proportions.base import Proportions

HYDRATION: Final = 0.186
"""Water that hemihydrate binds: 172.17 / 145.15 − 1 by molar masses [kg/kg]."""
GYPSUM_KG_M3: Final = 2320.0
CYLINDER_TO_CUBE: Final = 0.8
"""Cylinder ≈ 0.8 × cube to about 50 MPa."""
PORE_FACTOR: Final = 6.5
_ABRAMS: Final = {False: (122.2, 13.90), True: (102.6, 15.40)}


class Strength(Frozen):
    """A strength read off the curve."""

    mpa: float
    estimated: bool
    """Outside the table: an extrapolation, not a reading."""


def cylinder_mpa(water_cement: float, *, air_entrained: bool = False) -> Strength:
    """Mean strength of a 150 × 300 mm cylinder at 28 days.

    Parameters
    ----------
    water_cement : free water over cementitious [-], 0.2..1.5
    air_entrained : which curve

    Returns
    -------
    strength [MPa]; marked as an estimate outside 0.42..0.79 (0.39..0.70 with air)

    Raises
    ------
    MixError : a ratio no concrete has

    Notes
    -----
    Between the table's rows linear in ln f; outside by Abrams' rule fitted to the same table,
    f = 122.2 / 13.90^(w/c), with entrained air 102.6 / 15.40^(w/c).

    References
    ----------
    ACI 211.1-91, table 6.3.4(a), from memory; Abrams 1918, fitted.

    >>> round(cylinder_mpa(0.61).mpa, 1), cylinder_mpa(0.30).estimated
    (25.0, True)
    """
    if not 0.2 <= water_cement <= 1.5:
        raise MixError(
            Fault(
                Code.OUT_OF_RANGE,
                Said("A ratio of {ratio} is no concrete's.", ratio=Amount(water_cement, "ratio")),
                "Check water and cement.",
            )
        )
    table = RATIO_AIR if air_entrained else RATIO
    for (f_low, wet), (f_high, dry) in pairwise(table):
        if dry <= water_cement <= wet:
            part = (wet - water_cement) / (wet - dry)
            return Strength(mpa=math.exp(math.log(f_low) * (1 - part) + math.log(f_high) * part), estimated=False)
    a, b = _ABRAMS[air_entrained]
    return Strength(mpa=a / b**water_cement, estimated=True)


def plaster_pores(water_to_powder: float, *, purity: float = 1.0, particle_density_kg_m3: float = 2650) -> float:
    """Share of pores in a dried plaster cast.

    Parameters
    ----------
    water_to_powder : w/p [kg/kg], 0.2..1.5
    purity : hemihydrate in the powder [-], 0..1
    particle_density_kg_m3 : of the powder [kg/m³]

    Returns
    -------
    pores [m³/m³]

    Notes
    -----
    p = (V_cast − (1 + 0.186 purity) m_p / 2320) / V_cast, V_cast = m_p/ρ + m_w/1000; set expansion left out.

    References
    ----------
    Plain arithmetic on the molar masses 145.15 and 172.17 g/mol; density of gypsum from memory.

    >>> round(plaster_pores(0.70), 2)
    0.53
    """
    cast_m3 = 1 / particle_density_kg_m3 + water_to_powder / 1000
    return (cast_m3 - (1 + HYDRATION * purity) / GYPSUM_KG_M3) / cast_m3


def relative_plaster_strength(water_to_powder: float, chosen: float, factor: float = PORE_FACTOR) -> float:
    """Strength of a dry cast relative to that at the chosen ratio [-].

    Parameters
    ----------
    water_to_powder, chosen : w/p [kg/kg]
    factor : b of the law [-], 4..7

    Returns
    -------
    strength over strength at `chosen` [-]

    Notes
    -----
    exp(−b (p − p_chosen)).

    References
    ----------
    Form of Ryshkewitch 1953, from memory.

    >>> relative_plaster_strength(0.7, 0.7)
    1.0
    """
    return math.exp(-factor * (plaster_pores(water_to_powder) - plaster_pores(chosen)))


def dry_cast_kg(powder_kg: float, inclusions_kg: float = 0.0) -> float:
    """Mass of a plaster cast on the day it is dry.

    Parameters
    ----------
    powder_kg : plaster that went in [kg]
    inclusions_kg : dry sand, fibre [kg]

    Returns
    -------
    mass [kg]

    References
    ----------
    Plain arithmetic on the molar masses 145.15 and 172.17 g/mol.

    >>> round(dry_cast_kg(10), 2)
    11.86
    """
    return (1 + HYDRATION) * powder_kg + inclusions_kg


class WaterCost(Frozen):
    """What one more step of water does to a load."""

    kind: Literal["concrete", "plaster"]
    extra_l: float
    ratio: float
    ratio_after: float
    strength_change_percent: float
    estimated: bool
    working: Working


_FORMULA: Final = {
    "concrete": mark("strength(ratio after) / strength(ratio) − 1, plain curve"),
    "air": mark("strength(ratio after) / strength(ratio) − 1, air-entrained curve"),
    "plaster": mark("exp(−6.5 × (pores after − pores)) − 1"),
}


def water_cost(
    proportions: Proportions, volume_m3: float, extra_l: float, *, air_entrained: bool = False
) -> WaterCost | None:
    """Say what one more step of water does to a load.

    Parameters
    ----------
    proportions : the mix
    volume_m3 : fresh volume of the load [m³]
    extra_l : water too much [L]
    air_entrained : which strength curve

    Returns
    -------
    the ratio before and after, and the change of strength [%]; None for mixes without a curve

    References
    ----------
    As `cylinder_mpa` and `relative_plaster_strength`.
    """
    roles = {c.material.role for c in proportions.constituents}
    base = sum(
        c.dry_kg_m3 for c in proportions.constituents if c.material.role in ("cement", "supplementary", "plaster")
    )
    if "plaster" in roles and len(roles) > 1:
        return None  # the curve is for plaster alone, not with sand in it
    if base == 0 or "lime" in roles or not ({"plaster"} & roles or {"stone", "ballast"} & roles):
        return None  # the curves are for concrete and for plaster; mortars have none here
    ratio = proportions.water.target / base
    after = ratio + extra_l / (base * volume_m3)
    if "plaster" in roles:
        change, estimated, kind = relative_plaster_strength(after, ratio), False, "plaster"
        source = mark("form of Ryshkewitch 1953, b = 6.5, from memory")
    else:
        if not (ratio >= 0.2 and after <= 1.5):
            return None
        first, then = (cylinder_mpa(r, air_entrained=air_entrained) for r in (ratio, after))
        change, estimated, kind = then.mpa / first.mpa, first.estimated or then.estimated, "concrete"
        source = mark("ACI 211.1-91, table 6.3.4(a), from memory")
    percent = (change - 1) * 100
    return WaterCost(
        kind="plaster" if kind == "plaster" else "concrete",
        extra_l=extra_l,
        ratio=ratio,
        ratio_after=after,
        strength_change_percent=percent,
        estimated=estimated,
        working=Working(
            figure="Strength lost",
            formula=_FORMULA[kind if kind == "plaster" else "air" if air_entrained else "concrete"],
            given=(Given("ratio", ratio, ""), Given("ratio after", after, ""), Given("water more", extra_l, "L")),
            result=percent,
            unit="%",
            source=source,
        ),
    )
