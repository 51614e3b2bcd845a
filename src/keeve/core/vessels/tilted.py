"""A drum with its mouth tilted: how much it holds before it runs out, and how high it stands with less in it."""

import math
from functools import lru_cache
from itertools import pairwise
from typing import Final

from keeve.core.vessels.vessels import Section

SLICES: Final = 90
"""Discs the drum is cut into along its axle."""
LEVELS: Final = 80


def _segment_mm2(radius: float, up: float) -> float:
    """Area of a disc that lies under a line `up` from its middle [mm²]."""
    if up >= radius:
        return math.pi * radius * radius
    if up <= -radius:
        return 0.0
    return radius * radius * math.acos(-up / radius) + up * math.sqrt(radius * radius - up * up)


def lip_mm(section: Section, tilt_deg: float) -> float:
    """Height at which a tilted drum runs over, above the middle of its bottom.

    Parameters
    ----------
    section : its inside, round
    tilt_deg : how far its axle leans from upright [°], 0..80

    Returns
    -------
    height of the lowest point of its lip [mm]

    References
    ----------
    Plain arithmetic.
    """
    lean = math.radians(tilt_deg)
    return section.depth_mm * math.cos(lean) - section.rings[-1].width_mm / 2 * math.sin(lean)


def tilted_l(section: Section, tilt_deg: float, height_mm: float) -> float:
    """Volume in a tilted drum under a level.

    Parameters
    ----------
    section : its inside, round
    tilt_deg : how far its axle leans from upright [°], 0..80
    height_mm : of the level above the middle of its bottom [mm]; above the lip counts as the lip

    Returns
    -------
    volume [L]

    Notes
    -----
    Cut into discs across the axle; of each the part under the level is a segment. Simpson's rule along the axle.

    References
    ----------
    Circular segment, plain arithmetic.

    >>> from keeve.core.vessels.vessels import Ring, volume_l
    >>> can = Section(rings=(Ring(height_mm=0, width_mm=200), Ring(height_mm=400, width_mm=200)))
    >>> round(tilted_l(can, 0, 150), 3) == round(volume_l(can, 150), 3)
    True
    """
    if tilt_deg <= 0:
        total = 0.0
        step = min(height_mm, section.depth_mm) / SLICES
        for i in range(SLICES):
            a, m, b = (section.width_mm(step * (i + part)) / 2 for part in (0, 0.5, 1))
            total += math.pi * step / 6 * (a * a + 4 * m * m + b * b)
        return total * 1e-6
    lean = math.radians(tilt_deg)
    level = min(height_mm, lip_mm(section, tilt_deg))
    step = section.depth_mm / SLICES

    def area(z: float) -> float:
        return _segment_mm2(section.width_mm(z) / 2, (level - z * math.cos(lean)) / math.sin(lean))

    total = sum(step / 6 * (area(i * step) + 4 * area((i + 0.5) * step) + area((i + 1) * step)) for i in range(SLICES))
    return total * 1e-6


@lru_cache(maxsize=64)
def _levels(section: Section, tilt_deg: float) -> tuple[tuple[float, float], ...]:
    """Levels from the lowest point to the lip, each with its volume."""
    lean = math.radians(tilt_deg)
    lowest = -max(r.width_mm / 2 * math.sin(lean) - r.height_mm * math.cos(lean) for r in section.rings)
    lip = lip_mm(section, tilt_deg)
    heights = [lowest + (lip - lowest) * i / LEVELS for i in range(LEVELS + 1)]
    return tuple((height, tilted_l(section, tilt_deg, height)) for height in heights)


def tilted_brim_l(section: Section, tilt_deg: float) -> float:
    """Volume of a tilted drum before it runs out [L]; the tilt in [°]. As `tilted_l`."""
    return _levels(section, tilt_deg)[-1][1]


def tilted_height_mm(section: Section, tilt_deg: float, volume_l: float) -> float:
    """Level at which a tilted drum holds a volume [L], above the middle of its bottom; the tilt in [°].

    As `tilted_l`, turned round between eighty levels.
    """
    known = _levels(section, tilt_deg)
    for (low, below), (high, above) in pairwise(known):
        if volume_l <= above:
            return low + (high - low) * (volume_l - below) / (above - below) if above > below else high
    return known[-1][0]
