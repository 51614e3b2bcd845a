"""The inside of a vessel found from what it held at several heights, or of a bowl from its measures."""

import math
from itertools import pairwise
from typing import Final

from keeve.core.vessels.vessels import Ring, Section

_TRIES: Final = 240
_GOLDEN: Final = (math.sqrt(5) - 1) / 2


def _widths(bottom_mm: float, steps: tuple[tuple[float, float], ...]) -> list[float] | None:
    """Widths at each height that give each stretch its volume, from the bottom up; None where there are none."""
    widths, low_mm, low_l = [bottom_mm], 0.0, 0.0
    for high_mm, high_l in steps:
        # A frustum holds π h (a² + ab + b²) / 12; solved for b.
        square = (high_l - low_l) * 1e6 * 12 / math.pi / (high_mm - low_mm)
        under = 4 * square - 3 * widths[-1] ** 2
        width = (math.sqrt(under) - widths[-1]) / 2 if under > 0 else 0.0
        if width <= 0:
            return None
        widths.append(width)
        low_mm, low_l = high_mm, high_l
    return widths


def _bent(bottom_mm: float, steps: tuple[tuple[float, float], ...]) -> float:
    """How far the walls bend: the sum of the squared changes of their slope; infinite where there is no such wall."""
    widths = _widths(bottom_mm, steps)
    if widths is None:
        return math.inf
    heights = [0.0, *(height for height, _ in steps)]
    slopes = [(b - a) / (h - g) for (a, b), (g, h) in zip(pairwise(widths), pairwise(heights), strict=True)]
    # A vessel that was filled only once is straight.
    return math.fsum((b - a) ** 2 for a, b in pairwise(slopes)) if len(slopes) > 1 else slopes[0] ** 2


def filled_profile(steps: tuple[tuple[float, float], ...]) -> Section:
    """Form a round vessel that holds what was filled in at each height, with walls that bend as little as can be.

    Parameters
    ----------
    steps : height [mm] and what it held so full [L], both rising, at least one

    Returns
    -------
    the section; its volume at each of the heights is what was filled in, and a straight frustum comes back as it is

    References
    ----------
    Frustum of a cone, plain arithmetic; least bending: own assumption.

    >>> from keeve.core.vessels.vessels import volume_l
    >>> found = filled_profile(((100.0, 5.0), (200.0, 11.0), (300.0, 18.0)))
    >>> [round(volume_l(found, height), 6) for height in (100, 200, 300)]
    [5.0, 11.0, 18.0]
    """
    height, litres = steps[0]
    mean = math.sqrt(litres * 1e6 / height * 4 / math.pi)
    grid = [mean * (0.3 + 1.4 * i / _TRIES) for i in range(_TRIES + 1)]
    best = min(range(len(grid)), key=lambda i: _bent(grid[i], steps))
    low, high = grid[max(best - 1, 0)], grid[min(best + 1, _TRIES)]
    for _ in range(90):
        a, b = high - _GOLDEN * (high - low), low + _GOLDEN * (high - low)
        low, high = (low, b) if _bent(a, steps) <= _bent(b, steps) else (a, high)
    widths = _widths((low + high) / 2, steps)
    if widths is None:  # steps that no smooth wall gives: straight stretches, a hair apart
        return _stepped(steps)
    heights = (0.0, *(height for height, _ in steps))
    return Section(rings=tuple(Ring(height_mm=h, width_mm=w) for h, w in zip(heights, widths, strict=True)))


_HAIR_MM: Final = 0.01


def _stepped(steps: tuple[tuple[float, float], ...]) -> Section:
    rings: list[Ring] = []
    low_mm, low_l = 0.0, 0.0
    for high_mm, high_l in steps:
        width = math.sqrt((high_l - low_l) * 1e6 / (high_mm - low_mm) * 4 / math.pi)
        rings += [Ring(height_mm=low_mm + (_HAIR_MM if rings else 0.0), width_mm=width)]
        rings += [Ring(height_mm=high_mm, width_mm=width)]
        low_mm, low_l = high_mm, high_l
    return Section(rings=tuple(rings))


def carried_on(section: Section, depth_mm: float, rim_mm: float | None = None) -> Section:
    """Carry a vessel that was filled part way on to its rim.

    Parameters
    ----------
    section : as filled
    depth_mm : to its rim [mm]; nothing changes where that is no higher
    rim_mm : across the rim [mm]; None where nobody measured it: then as its topmost stretch goes on

    References
    ----------
    Frustum through the two topmost: house ruling; plain arithmetic.

    >>> from keeve.core.vessels.vessels import volume_l
    >>> half = filled_profile(((100.0, 5.0), (200.0, 11.0)))
    >>> carried_on(half, 300.0).depth_mm, volume_l(carried_on(half, 300.0), 200.0) == volume_l(half, 200.0)
    (300.0, True)
    """
    if depth_mm <= section.depth_mm + _HAIR_MM:
        return section
    low, high = section.rings[-2:]
    slope = (high.width_mm - low.width_mm) / (high.height_mm - low.height_mm)
    rim = rim_mm or max(high.width_mm + slope * (depth_mm - high.height_mm), high.width_mm / 2)
    return Section(rings=(*section.rings, Ring(height_mm=depth_mm, width_mm=rim)))


_RINGS: Final = 48


def bowl(top_mm: float, depth_mm: float, flat_mm: float = 0.0) -> Section:
    """Form a bowl: part of a ball, not of a cone.

    Parameters
    ----------
    top_mm : across the rim inside [mm]
    depth_mm : from rim to bottom [mm]
    flat_mm : across its flat bottom [mm]; 0 is round to the bottom

    Returns
    -------
    zone of a ball through rim and bottom; one deeper than half a ball is that and a straight collar

    Notes
    -----
    With a and b the radii of rim and bottom and h the depth the ball's middle lies (a² + h² − b²) / 2h over the bottom.
    V = π h (3 a² + 3 b² + h²) / 6.

    References
    ----------
    Zone of a ball, plain arithmetic; collar: house ruling.

    >>> from keeve.core.vessels.vessels import brim_l
    >>> round(brim_l(bowl(300, 100)), 2), round(brim_l(bowl(200, 100)), 2), round(brim_l(bowl(200, 150)), 2)
    (4.06, 2.09, 3.66)
    """
    a, b, h = top_mm / 2, min(flat_mm, top_mm) / 2, depth_mm
    middle = (a**2 + h**2 - b**2) / (2 * h)
    ball_mm = h
    if middle < h:  # it would bulge below its rim: half a ball, or what a flat bottom leaves of it, and a collar
        middle = ball_mm = min(math.sqrt(max(a**2 - b**2, 0.0)), h)
    radius2 = b**2 + middle**2
    heights = [ball_mm * (1 - math.cos(math.pi * n / (2 * _RINGS))) for n in range(_RINGS + 1)]
    rings = [
        Ring(height_mm=one, width_mm=2 * math.sqrt(max(radius2 - (one - middle) ** 2, (_HAIR_MM / 2) ** 2)))
        for one in heights
    ]
    collar = [Ring(height_mm=h, width_mm=top_mm)] if h > ball_mm + _HAIR_MM else []
    return Section(rings=(*rings, *collar))
