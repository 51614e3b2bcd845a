"""What a designed concrete aims at: its mean strength by specification or class, and its water after a trial load."""

from typing import Final

EN_CLASSES: Final[dict[str, float]] = {
    f"C{cylinder}/{cube}": float(cylinder)
    for cylinder, cube in (
        (8, 10), (12, 15), (16, 20), (20, 25), (25, 30), (30, 37), (35, 45), (40, 50), (45, 55), (50, 60)
    )
}  # fmt: skip
"""Characteristic cylinder strength [MPa] by class; the second figure is cubes. EN 206, table 12, from memory."""
EN_MARGIN_MPA: Final = 8.0
"""Mean over characteristic: EN 206 annex A asks for about twice the deviation, 6 to 12 MPa; from memory."""


def required_mean_mpa(specified_mpa: float) -> float:
    """Mean strength to aim at for a specified strength without a test record.

    Parameters
    ----------
    specified_mpa : f'c, cylinder [MPa], > 0

    Returns
    -------
    required mean strength [MPa]

    Notes
    -----
    f'c + 7 below 21, f'c + 8.3 from 21 to 35, 1.10 f'c + 5 above.

    References
    ----------
    ACI 318-11, table 5.3.2.2, from memory.

    >>> required_mean_mpa(20), required_mean_mpa(25), round(required_mean_mpa(40), 2)
    (27, 33.3, 49.0)
    """
    if specified_mpa < 21:
        return specified_mpa + 7
    return specified_mpa + 8.3 if specified_mpa <= 35 else 1.10 * specified_mpa + 5


def trial_water_kg_m3(water_kg_m3: float, slump_gain_mm: float, air_gain_percent: float) -> float:
    """Mixing water after a trial batch; the water-cement ratio is held.

    Parameters
    ----------
    water_kg_m3 : water of the trial [kg/m³]
    slump_gain_mm : slump wanted less slump found [mm]
    air_gain_percent : air wanted less air found [%]

    Returns
    -------
    water [kg/m³]

    Notes
    -----
    ± 6 kg per ± 25 mm of slump, − 3 kg per + 1 % of air.

    References
    ----------
    ACI 211.1-91, section 6.3.9, from memory.

    >>> trial_water_kg_m3(181, 25, -1)
    190.0
    """
    return water_kg_m3 + 6 * slump_gain_mm / 25 - 3 * air_gain_percent
