"""Volumes of the plain solids everything else is made of."""

import math


def box_m3(length_mm: float, width_mm: float, height_mm: float) -> float:
    """Volume of a rectangular block.

    Parameters
    ----------
    length_mm, width_mm, height_mm : edges [mm], > 0

    Returns
    -------
    volume [m³]

    References
    ----------
    Plain arithmetic: V = l w h.

    >>> box_m3(2000, 1000, 100)
    0.2
    """
    return length_mm * width_mm * height_mm * 1e-9


def cylinder_m3(diameter_mm: float, height_mm: float) -> float:
    """Volume of a round cylinder.

    Parameters
    ----------
    diameter_mm, height_mm : inside measures [mm], > 0

    Returns
    -------
    volume [m³]

    References
    ----------
    Plain arithmetic: V = π r² h.

    >>> round(cylinder_m3(300, 600), 5)
    0.04241
    """
    return math.pi / 4 * diameter_mm**2 * height_mm * 1e-9


def frustum_m3(lower_diameter_mm: float, upper_diameter_mm: float, height_mm: float) -> float:
    """Volume of a round cone cut parallel to its base; a pail.

    Parameters
    ----------
    lower_diameter_mm, upper_diameter_mm : inside diameters [mm], >= 0
    height_mm : height [mm], >= 0

    Returns
    -------
    volume [m³]

    References
    ----------
    Plain arithmetic: V = π h (R² + R r + r²) / 3.

    >>> round(frustum_m3(262, 300, 366) * 1000, 2)
    22.73
    """
    low, high = lower_diameter_mm / 2, upper_diameter_mm / 2
    return math.pi * height_mm * (high * high + high * low + low * low) / 3 * 1e-9
