"""Water in the heap: what it brings to the paste, and how it puffs the sand up."""

from bisect import bisect_right
from typing import Final, NamedTuple

from keeve.core.materials.looks import (
    BAGGED_UNSEEN,
    SAND_LOOKS,
    SAND_UNSEEN,
    STONE_LOOKS,
    STONE_UNSEEN,
    HeapLook,
    HeapWater,
)
from keeve.core.materials.material import BulkingGrade, Material

BULKING_MOISTURE: Final = (0.0, 2.0, 3.0, 4.0, 5.0, 8.0, 12.0, 20.0)
BULKING_ORDINARY: Final = (0.0, 15.0, 20.0, 25.0, 30.0, 28.0, 18.0, 0.0)
GRADE_FACTOR: Final[dict[BulkingGrade, float]] = {"none": 0.0, "fine": 1.3, "ordinary": 1.0, "coarse": 0.6}
DAMP_FROM_PERCENT: Final = BULKING_MOISTURE[1]
DAMP_TO_PERCENT: Final = BULKING_MOISTURE[-2]


class Heaps(NamedTuple):
    """What somebody found out about the heaps, by material key; heaps nobody looked at are not in it."""

    moisture_percent: dict[str, float | HeapLook] = {}
    """Total moisture, on the dry mass, or what the heap looks like."""
    bulking_percent: dict[str, float] = {}
    """Bulking by a jar, on the dry loose volume."""
    bulk_kg_m3: dict[str, float] = {}
    """What a cubic metre of gauge weighs as it lies, by a struck measure that was weighed."""


def heap_water(material: Material, given: float | HeapLook | None) -> HeapWater:
    """Return how wet a heap may be, from what is known of it.

    Parameters
    ----------
    material : sand, stone or ballast
    given : measured total moisture [%], what it looks like, or None where nobody looked

    Returns
    -------
    total moisture [%]: from, likely, to. Ballast holds it in its sand; stone in what clings to it

    References
    ----------
    The looks are house rulings on common practice; stone: IS 456 table 10, from memory.

    >>> from keeve.core.materials.material import Material
    >>> sand = Material(
    ...     key="s", name="sand", role="sand", particle_density_kg_m3=2650, loose_bulk_kg_m3=1600, source=""
    ... )
    >>> heap_water(sand, 5.5), heap_water(sand, "wet")
    (HeapWater(low=5.5, likely=5.5, high=5.5, seen=True), HeapWater(low=6.0, likely=7.0, high=8.0, seen=True))
    """
    if isinstance(given, (int, float)):
        return HeapWater(given, given, given)
    absorbed = material.absorption_percent
    if material.role == "stone":
        look = STONE_LOOKS[given] if given else STONE_UNSEEN
        low, likely, high = (absorbed + part * (absorbed if part < 0 else 1) for part in look[:3])
        return HeapWater(low, likely, high, look.seen)
    unseen = BAGGED_UNSEEN if material.bagged_dry else SAND_UNSEEN
    look = SAND_LOOKS[given] if given else unseen
    low, likely, high = (material.sand_share * part + (1 - material.sand_share) * absorbed for part in look[:3])
    return HeapWater(low, likely, high, look.seen)


def sand_moisture_percent(material: Material, moisture_percent: float) -> float:
    """Moisture of the sand in a heap [%] whose total moisture is given: ballast holds it in its sand.

    Parameters
    ----------
    material : sand or ballast
    moisture_percent : total moisture of the heap [%]

    Returns
    -------
    moisture of its sand [%], not below 0

    References
    ----------
    Plain arithmetic; that stone keeps only what it absorbs is common practice, no source.
    """
    clinging = moisture_percent - (1 - material.sand_share) * material.absorption_percent
    return max(clinging / material.sand_share, 0.0)


def surface_water_kg(dry_mass_kg: float, moisture: float, absorption: float) -> float:
    """Water an aggregate brings to the paste; negative when it will drink.

    Parameters
    ----------
    dry_mass_kg : oven-dry mass [kg], >= 0
    moisture : total moisture, mass of water / oven-dry mass [-], 0..0.3
    absorption : moisture at saturated surface-dry [-], 0..0.1

    Returns
    -------
    mass of water [kg]

    Notes
    -----
    m_w = m_dry (w - a)

    References
    ----------
    ACI 211.1-91, section 6.3.8 (worked example written from memory).

    >>> round(surface_water_kg(1136, 0.02, 0.005), 1)
    17.0
    """
    return dry_mass_kg * (moisture - absorption)


def bulking_percent(moisture_percent: float, grade: BulkingGrade = "ordinary") -> float:
    """Extra volume of damp sand over the same sand dry and loose.

    Parameters
    ----------
    moisture_percent : moisture content [%], >= 0; past 20 the sand is flooded and settles back
    grade : fine sand bulks more, coarse sand less

    Returns
    -------
    bulking [%] of the dry loose volume

    References
    ----------
    Indian handbook SP 23 for 2 to 5 %, from memory; the rest and the factors for fine (1.3) and
    coarse (0.6) sand are common practice, no source.

    >>> bulking_percent(5), round(bulking_percent(4.5, "fine"), 2), bulking_percent(25)
    (30.0, 35.75, 0.0)
    """
    if moisture_percent >= BULKING_MOISTURE[-1]:
        return 0.0
    at = bisect_right(BULKING_MOISTURE, moisture_percent)
    low, high = BULKING_MOISTURE[at - 1], BULKING_MOISTURE[at]
    part = (moisture_percent - low) / (high - low)
    ordinary = BULKING_ORDINARY[at - 1] * (1 - part) + BULKING_ORDINARY[at] * part
    return ordinary * GRADE_FACTOR[grade]


_TELLS_PERCENT: Final = 2.0
"""Sand that bulks by less tells nothing of its water: own assumption."""


def jar_moistures_percent(bulks_percent: float, grade: BulkingGrade = "ordinary") -> tuple[float, float] | None:
    """Return the two moistures [%] at which sand bulks so much [%]: on the way up and on the way down.

    Parameters
    ----------
    bulks_percent : by a jar, on the settled volume
    grade : as `bulking_percent`

    Returns
    -------
    the drier and the wetter; both that of the peak where it bulks by more; None where it says nothing

    References
    ----------
    `bulking_percent` turned round: plain arithmetic.

    >>> jar_moistures_percent(25.0), jar_moistures_percent(60.0), jar_moistures_percent(0.0)
    ((4.0, 9.2), (5.0, 5.0), None)
    """
    ordinary = bulks_percent / GRADE_FACTOR[grade] if GRADE_FACTOR[grade] else 0.0
    if ordinary < _TELLS_PERCENT:
        return None
    peak = BULKING_ORDINARY.index(max(BULKING_ORDINARY))

    def met(rows: range) -> float:
        for at in rows:
            low, high = sorted((BULKING_ORDINARY[at], BULKING_ORDINARY[at + 1]))
            if low <= ordinary <= high:
                part = (ordinary - BULKING_ORDINARY[at]) / (BULKING_ORDINARY[at + 1] - BULKING_ORDINARY[at])
                return BULKING_MOISTURE[at] + part * (BULKING_MOISTURE[at + 1] - BULKING_MOISTURE[at])
        return BULKING_MOISTURE[peak]

    return met(range(peak)), round(met(range(peak, len(BULKING_MOISTURE) - 1)), 9)


def with_jar(material: Material, told: float | HeapLook | None, bulks_percent: float) -> float | HeapLook | None:
    """Let a jar say its own figure for the water of a heap.

    Parameters
    ----------
    material : sand or ballast
    told : measured total moisture [%], its look, or None where nobody looked
    bulks_percent : by the jar [%]

    Returns
    -------
    total moisture [%] that was measured; beside a look the wetter of the two, the look deciding which of the jar's
    moistures it is; where nobody looked the wetter of those; what was told where the jar says nothing

    References
    ----------
    House ruling; the wetter of two ends is plain arithmetic.
    """
    found = jar_moistures_percent(bulks_percent, material.bulking)
    if found is None or isinstance(told, (int, float)):
        return told
    totals = [w * material.sand_share + (1 - material.sand_share) * material.absorption_percent for w in found]
    if told is None:
        return max(totals)
    look = heap_water(material, told)
    jar = min(totals, key=lambda one: abs(one - look.likely))
    return max(jar, look.likely)


def dry_kg_in_gauge_m3(
    loose_bulk_kg_m3: float,
    moisture_percent: float,
    grade: BulkingGrade,
    damp_loose_kg_m3: float | None = None,
    sand_share: float = 1.0,
) -> float:
    """Dry mass in one cubic metre of gauge filled from the heap as it lies.

    Parameters
    ----------
    loose_bulk_kg_m3 : dry loose bulk density [kg/m³]
    moisture_percent : moisture of the heap [%]
    grade : how the sand bulks
    damp_loose_kg_m3 : dry mass per gauge [kg/m³] where the mix is stated for damp loose sand; else None
    sand_share : how much of the heap is sand [-]; only that bulks, and `moisture_percent` is its

    Returns
    -------
    dry mass per volume of gauge [kg/m³]

    Notes
    -----
    Stated for dry sand: ρ_dry / (1 + bulking). Stated for damp loose sand the stated figure holds while the
    heap is damp (2 to 12 %) and is not corrected again; towards a dry heap, and towards a flooded one, it
    runs straight to the dry loose bulk density.

    References
    ----------
    ASTM C270 and C926 for damp loose sand, from memory; the straight runs are common practice, no source.

    >>> round(dry_kg_in_gauge_m3(1600, 5, "ordinary")), round(dry_kg_in_gauge_m3(1520, 5, "ordinary", 1281))
    (1231, 1281)
    """
    if damp_loose_kg_m3 is None or grade == "none":
        return loose_bulk_kg_m3 / (1 + sand_share * bulking_percent(moisture_percent, grade) / 100)
    if moisture_percent < DAMP_FROM_PERCENT:
        dryness = 1 - moisture_percent / DAMP_FROM_PERCENT
    else:
        flooded_span = BULKING_MOISTURE[-1] - DAMP_TO_PERCENT
        dryness = min(max((moisture_percent - DAMP_TO_PERCENT) / flooded_span, 0.0), 1.0)
    return damp_loose_kg_m3 + (loose_bulk_kg_m3 - damp_loose_kg_m3) * dryness
