"""Tests a person makes beside the heap: the pan, the jar, the meter that counts on the wet mass."""

from keeve.core.message.errors import Code, Fault, UnitError


def pan_moisture_percent(wet_kg: float, dry_kg: float) -> float:
    """Moisture of a heap from a sample dried in a pan.

    Parameters
    ----------
    wet_kg : mass of the sample as it lay [kg, or any unit that `dry_kg` has too]
    dry_kg : mass once dry [the same unit], > 0

    Returns
    -------
    moisture [%] of the dry mass; negative where the two were exchanged

    Notes
    -----
    w = (wet − dry) / dry.

    References
    ----------
    ASTM C566, from memory.

    >>> round(pan_moisture_percent(1060, 1000), 6)
    6.0
    """
    return (wet_kg - dry_kg) / dry_kg * 100


def jar_bulking_percent(damp_mm: float, flooded_mm: float) -> float:
    """Bulking of damp sand from a jar that is filled, flooded, rodded and struck.

    Parameters
    ----------
    damp_mm : height of the damp sand [mm]
    flooded_mm : height it settles to under water [mm], > 0

    Returns
    -------
    bulking [%] of the settled volume

    Notes
    -----
    (h1 − h2) / h2. Flooded sand has about its dry loose volume.

    References
    ----------
    IS 2386 part 3, from memory.

    >>> jar_bulking_percent(150, 120)
    25.0
    """
    return (damp_mm - flooded_mm) / flooded_mm * 100


def from_wet_basis_percent(reading_percent: float) -> float:
    """Moisture on the dry mass from a meter that counts on the wet mass.

    Parameters
    ----------
    reading_percent : water over the mass of the damp sand [%], 0..50

    Returns
    -------
    moisture [%] of the dry mass

    Raises
    ------
    UnitError : more than half of the damp sand would be water

    Notes
    -----
    w = x / (1 − x).

    References
    ----------
    Plain arithmetic.

    >>> round(from_wet_basis_percent(6), 3)
    6.383
    """
    if not 0 <= reading_percent <= 50:
        raise UnitError(
            Fault(Code.OUT_OF_RANGE, "No heap is half water: check the meter.", "", value=reading_percent, limit=50)
        )
    share = reading_percent / 100
    return share / (1 - share) * 100


def yield_m3(batch_kg: float, fresh_kg_m3: float) -> float:
    """Volume a batch really makes, by its unit weight.

    Parameters
    ----------
    batch_kg : mass of all that went in [kg], > 0
    fresh_kg_m3 : unit weight of the fresh concrete [kg/m³], > 0

    Returns
    -------
    volume [m³]

    References
    ----------
    ASTM C138, from memory.

    >>> yield_m3(2312, 2312)
    1.0
    """
    return batch_kg / fresh_kg_m3


def gravimetric_air_percent(without_air_kg_m3: float, fresh_kg_m3: float) -> float:
    """Air in fresh concrete by its unit weight.

    Parameters
    ----------
    without_air_kg_m3 : unit weight by absolute volumes, no air in it [kg/m³], > 0
    fresh_kg_m3 : unit weight as weighed [kg/m³]

    Returns
    -------
    air [%]

    Notes
    -----
    A = (T − D) / T × 100

    References
    ----------
    ASTM C138, from memory.

    >>> round(gravimetric_air_percent(2420, 2274.8), 6)
    6.0
    """
    return (without_air_kg_m3 - fresh_kg_m3) / without_air_kg_m3 * 100
