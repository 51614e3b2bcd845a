"""The tables of ACI 211.1-91 for designed concrete, written from memory; read here, interpolated as its text says."""

import math
from bisect import bisect_left
from typing import Final, Literal

from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import Amount, Said, mark

Exposure = Literal["none", "mild", "moderate", "severe"]

STONE_MM: Final = (9.5, 12.5, 19.0, 25.0, 37.5, 50.0, 75.0, 150.0)
_COLUMN_OF: Final = {10.0: 9.5, 20.0: 19.0, 40.0: 37.5}
"""Metric sieves that stand for a column of the tables."""
SLUMP_ROWS: Final = ((25.0, 50.0), (75.0, 100.0), (150.0, 175.0))
_NONE: Final = math.nan

# Table 6.3.3: mixing water, kg/m³, by slump row and largest stone.
WATER: Final = (
    (207, 199, 190, 179, 166, 154, 130, 113),
    (228, 216, 205, 193, 181, 169, 145, 124),
    (243, 228, 216, 202, 190, 178, 160, _NONE),
)
WATER_AIR: Final = (
    (181, 175, 168, 160, 150, 142, 122, 107),
    (202, 193, 184, 175, 165, 157, 133, 119),
    (216, 205, 197, 184, 174, 166, 154, _NONE),
)
AIR_PERCENT: Final[dict[Exposure, tuple[float, ...]]] = {
    "none": (3, 2.5, 2, 1.5, 1, 0.5, 0.3, 0.2),
    "mild": (4.5, 4, 3.5, 3, 2.5, 2, 1.5, 1),
    "moderate": (6, 5.5, 5, 4.5, 4.5, 4, 3.5, 3),
    "severe": (7.5, 7, 6, 6, 5.5, 5, 4.5, 4),
}
# Table 6.3.4(a): water-cement ratio by mean strength at 28 days, MPa, 150 x 300 mm cylinders.
RATIO: Final = ((15.0, 0.79), (20.0, 0.69), (25.0, 0.61), (30.0, 0.54), (35.0, 0.47), (40.0, 0.42))
RATIO_AIR: Final = ((15.0, 0.70), (20.0, 0.60), (25.0, 0.52), (30.0, 0.45), (35.0, 0.39))
# Table 6.3.6: bulk volume of dry-rodded coarse aggregate by fineness modulus of the sand.
FINENESS: Final = (2.4, 2.6, 2.8, 3.0)
COARSE: Final = (
    (0.50, 0.48, 0.46, 0.44),
    (0.59, 0.57, 0.55, 0.53),
    (0.66, 0.64, 0.62, 0.60),
    (0.71, 0.69, 0.67, 0.65),
    (0.75, 0.73, 0.71, 0.69),
    (0.78, 0.76, 0.74, 0.72),
    (0.82, 0.80, 0.78, 0.76),
    (0.87, 0.85, 0.83, 0.81),
)
# Table 6.3.7.1: first estimate of fresh density, kg/m³. At 37.5 mm with air 2350 is printed; 2320 fits its
# neighbours (2290 and 2345), so 2320 is used.
FRESH: Final = (2280, 2310, 2345, 2380, 2410, 2445, 2490, 2530)
FRESH_AIR: Final = (2200, 2230, 2275, 2290, 2320, 2345, 2405, 2435)


def _outside(what: str, value: float, low: float, high: float, field: str, unit: str = "") -> MixError:
    bound = low if value < low else high
    return MixError(
        Fault(
            Code.OUT_OF_RANGE,
            Said(
                "The table for {what} starts at {bound}; {value} is outside it."
                if value < low
                else "The table for {what} ends at {bound}; {value} is outside it.",
                what=what,
                bound=Amount(bound, unit),
                value=Amount(value, unit),
            ),
            Said(
                "Stay between {low} and {high}, or have the mix designed by trial.",
                low=Amount(low, unit),
                high=Amount(high, unit),
            ),
            field=field,
            value=value,
            limit=bound,
            unit=unit,
        )
    )


def _between(x: float, xs: tuple[float, ...], ys: tuple[float, ...]) -> float:
    at = min(max(bisect_left(xs, x), 1), len(xs) - 1)
    part = (x - xs[at - 1]) / (xs[at] - xs[at - 1])
    # Standing on a column, its neighbour plays no part, even where that one is left blank.
    if math.isclose(part, 0.0, abs_tol=1e-12):
        return ys[at - 1]
    return ys[at] if math.isclose(part, 1.0) else ys[at - 1] + (ys[at] - ys[at - 1]) * part


def column_mm(stone_mm: float) -> float:
    """Largest stone as the tables count it [mm]: 10, 20 and 40 stand for 9.5, 19 and 37.5.

    Raises
    ------
    MixError : below 9.5 or above 150 mm

    References
    ----------
    Common practice, no source.

    >>> column_mm(20), column_mm(22)
    (19.0, 22)
    """
    size = _COLUMN_OF.get(stone_mm, stone_mm)
    if not STONE_MM[0] <= size <= STONE_MM[-1]:
        raise _outside(mark("stone size"), stone_mm, STONE_MM[0], STONE_MM[-1], "stone_mm", "mm")
    return size


def by_stone(row: tuple[float, ...], stone_mm: float) -> float:
    """Read a row of a table at a stone size [mm], linear in the logarithm of the size.

    References
    ----------
    Rows of ACI 211.1-91, from memory; reading between columns by ln(size) is common practice, no source.

    >>> by_stone(FRESH, 40)
    2410
    """
    logs = tuple(math.log(size) for size in STONE_MM)
    return _between(math.log(column_mm(stone_mm)), logs, row)


def water_kg_m3(slump_mm: float, stone_mm: float, *, air_entrained: bool) -> float:
    """Mixing water for a slump and a largest stone.

    Parameters
    ----------
    slump_mm : [mm], 25..175
    stone_mm : largest stone [mm], 9.5..150
    air_entrained : which half of the table

    Returns
    -------
    water [kg/m³]

    Raises
    ------
    MixError : outside the table, or where it is left blank (150 mm stone at more than 100 mm slump)

    Notes
    -----
    The rows are ranges: constant inside 25–50, 75–100 and 150–175, linear only across the gaps.

    References
    ----------
    ACI 211.1-91, table 6.3.3, from memory.

    >>> water_kg_m3(90, 37.5, air_entrained=False), water_kg_m3(62.5, 20, air_entrained=True)
    (181.0, 176.0)
    """
    low, high = SLUMP_ROWS[0][0], SLUMP_ROWS[-1][1]
    if not low <= slump_mm <= high:
        raise _outside(mark("slump"), slump_mm, low, high, "slump_mm", "mm")
    table = WATER_AIR if air_entrained else WATER
    ends = tuple(end for row in SLUMP_ROWS for end in row)
    values = tuple(by_stone(row, stone_mm) for row in table for _ in range(2))
    water = _between(slump_mm, ends, values)
    if math.isnan(water):
        raise _outside(mark("stone size at so high a slump"), stone_mm, STONE_MM[0], STONE_MM[-2], "stone_mm", "mm")
    return water


def air_percent(stone_mm: float, exposure: Exposure) -> float:
    """Air entrapped, or entrained for an exposure, at a largest stone [mm]; in percent of the volume.

    References
    ----------
    ACI 211.1-91, table 6.3.3, from memory.

    >>> air_percent(37.5, "none"), air_percent(19, "severe")
    (1, 6)
    """
    return by_stone(AIR_PERCENT[exposure], stone_mm)


def water_cement(mean_mpa: float, *, air_entrained: bool) -> float:
    """Water-cement ratio [-] for a mean cylinder strength at 28 days [MPa], before rounding.

    Raises
    ------
    MixError : outside 15..40 MPa, 15..35 with entrained air

    Notes
    -----
    Linear in ln f between the table's rows.

    References
    ----------
    ACI 211.1-91, table 6.3.4(a), from memory.

    >>> round(water_cement(24, air_entrained=False), 3)
    0.625
    """
    table = RATIO_AIR if air_entrained else RATIO
    strengths = tuple(f for f, _ in table)
    if not strengths[0] <= mean_mpa <= strengths[-1]:
        raise _outside(mark("mean strength"), mean_mpa, strengths[0], strengths[-1], "mean_mpa", "MPa")
    return _between(math.log(mean_mpa), tuple(math.log(f) for f in strengths), tuple(r for _, r in table))


def coarse_bulk_m3(stone_mm: float, fineness_modulus: float) -> float:
    """Bulk volume of dry-rodded coarse aggregate in a cubic metre of concrete [m³/m³].

    Parameters
    ----------
    stone_mm : largest stone [mm]
    fineness_modulus : of the sand [-], 2.4..3.0

    Raises
    ------
    MixError : outside the table

    References
    ----------
    ACI 211.1-91, table 6.3.6, from memory.

    >>> coarse_bulk_m3(37.5, 2.8), round(coarse_bulk_m3(20, 2.7), 3)
    (0.71, 0.63)
    """
    if not FINENESS[0] <= fineness_modulus <= FINENESS[-1]:
        raise _outside(mark("fineness modulus"), fineness_modulus, FINENESS[0], FINENESS[-1], "fineness_modulus")
    row = tuple(_between(fineness_modulus, FINENESS, values) for values in COARSE)
    return by_stone(row, stone_mm)


def fresh_kg_m3(stone_mm: float, *, air_entrained: bool) -> float:
    """First estimate of the fresh density of concrete [kg/m³] by its largest stone [mm].

    References
    ----------
    ACI 211.1-91, table 6.3.7.1, from memory.

    >>> fresh_kg_m3(37.5, air_entrained=False)
    2410
    """
    return by_stone(FRESH_AIR if air_entrained else FRESH, stone_mm)
