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


def taper_m3(lower_mm: tuple[float, float], upper_mm: tuple[float, float], height_mm: float) -> float:
    """Volume of a rectangular tub whose walls slope: a prismatoid, also a wedge.

    Parameters
    ----------
    lower_mm, upper_mm : inside length and width at the bottom and at the top [mm], >= 0
    height_mm : height [mm], >= 0

    Returns
    -------
    volume [m³]

    Notes
    -----
    V = h/6 [(2 a₁ + a₂) b₁ + (2 a₂ + a₁) b₂]. The form with the root of both areas is wrong where the walls do
    not meet in one point.

    References
    ----------
    Plain arithmetic (Simpson's rule, exact here).

    >>> round(taper_m3((600, 400), (700, 500), 300) * 1000, 2)
    88.0
    """
    (a1, b1), (a2, b2) = lower_mm, upper_mm
    return height_mm / 6 * ((2 * a1 + a2) * b1 + (2 * a2 + a1) * b2) * 1e-9


def cap_m3(diameter_mm: float, height_mm: float) -> float:
    """Volume of the cap of a ball, from its crown downwards; the whole ball where the height is the diameter.

    Parameters
    ----------
    diameter_mm : of the ball [mm], > 0
    height_mm : of the cap [mm], 0 to the diameter

    Returns
    -------
    volume [m³]

    References
    ----------
    Plain arithmetic: V = π h² (3 R − h) / 3.

    >>> round(cap_m3(200, 200) * 1000, 4), round(cap_m3(200, 100) * 1000, 4)
    (4.1888, 2.0944)
    """
    return math.pi * height_mm**2 * (1.5 * diameter_mm - height_mm) / 3 * 1e-9


def regular_area_mm2(sides: int, across_flats_mm: float) -> float:
    """Area of a polygon of equal sides by the width across its flats, or of an odd one by twice its inner radius.

    Parameters
    ----------
    sides : 3 to 60
    across_flats_mm : twice the inner radius [mm], > 0

    Returns
    -------
    area [mm²]

    References
    ----------
    Plain arithmetic: A = n r² tan(π / n).

    >>> round(regular_area_mm2(4, 100)), round(regular_area_mm2(6, 100))
    (10000, 8660)
    """
    return sides * (across_flats_mm / 2) ** 2 * math.tan(math.pi / sides)
