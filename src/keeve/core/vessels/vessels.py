"""Pails, tubs and drums: how much they hold to which height, and how many fills make a dose."""

import math
from functools import cached_property
from itertools import pairwise
from typing import Final, Literal, NamedTuple

from pydantic import Field, model_validator

from keeve.core.message.errors import Code, Fault, Frozen, LoadError
from keeve.core.message.said import Words, measured

CARRY_KG: Final = 25.0
"""What one person should carry in one go: common practice, no source."""
SHALLOWEST: Final = 0.2
"""A gauge filled less than this share of its depth is read too badly to measure with: common practice."""
LEAST_MARK_MM: Final = 40.0
LEAST_SHARE: Final = 0.1
"""Under this height, or this share of the vessel, a mark is no measure at all. House ruling."""
STRUCK_MM: Final = 2.0
STRUCK_SHARE: Final = 0.01
"""Nearer to the rim than the greater of these a fill is struck, for all a trowel can do. House ruling."""


class Ring(Frozen):
    """The inside of a vessel at one height."""

    height_mm: float = Field(ge=0, le=5000)
    width_mm: float = Field(gt=0, le=10000)
    """Diameter, or the side seen in a section."""
    depth_mm: float | None = Field(None, gt=0, le=10000)
    """The other side of a rectangular vessel; empty means round."""

    @property
    def area_mm2(self) -> float:
        """Area of the opening at this height [mm²]."""
        return self.width_mm * self.depth_mm if self.depth_mm else math.pi / 4 * self.width_mm**2


class Section(Frozen):
    """A vessel's inside as rings from the bottom up, straight walls between them."""

    rings: tuple[Ring, ...] = Field(min_length=2)

    @model_validator(mode="after")
    def _rises(self) -> "Section":
        heights = [r.height_mm for r in self.rings]
        if heights[0] != 0 or any(b <= a for a, b in pairwise(heights)):
            raise LoadError(
                Fault(Code.OUT_OF_RANGE, "A vessel is measured from its bottom at 0 upwards.", "Order its rings.")
            )
        return self

    @property
    def depth_mm(self) -> float:
        """Depth from rim to bottom [mm]."""
        return self.rings[-1].height_mm

    @cached_property
    def band_l(self) -> tuple[float, ...]:
        """Volume between each ring and the next [L]; worked out once, every fill asks for it."""
        return tuple(_between_mm3(low, high, high.height_mm) * 1e-6 for low, high in pairwise(self.rings))

    def width_mm(self, height_mm: float) -> float:
        """Width seen in a section at a height [mm]. Plain arithmetic."""
        for low, high in pairwise(self.rings):
            if height_mm <= high.height_mm:
                part = (height_mm - low.height_mm) / (high.height_mm - low.height_mm)
                return low.width_mm + (high.width_mm - low.width_mm) * part
        return self.rings[-1].width_mm


def _between_mm3(low: Ring, high: Ring, height_mm: float) -> float:
    """Volume from `low` up to `height_mm` [mm³]; Simpson's rule, exact because the area is quadratic in height."""
    rise = height_mm - low.height_mm
    part = rise / (high.height_mm - low.height_mm)
    top = _interpolate(low, high, part)
    middle = _interpolate(low, high, part / 2)
    return rise / 6 * (low.area_mm2 + 4 * middle + top)


def _interpolate(low: Ring, high: Ring, part: float) -> float:
    width = low.width_mm + (high.width_mm - low.width_mm) * part
    if low.depth_mm is None or high.depth_mm is None:
        return math.pi / 4 * width * width
    return width * (low.depth_mm + (high.depth_mm - low.depth_mm) * part)


def volume_l(section: Section, height_mm: float) -> float:
    """Volume a vessel holds when filled to a height.

    Parameters
    ----------
    section : the vessel
    height_mm : height of the level surface above the bottom [mm]; above the rim counts as the rim

    Returns
    -------
    volume [L]

    References
    ----------
    Frustum and prismatoid, plain arithmetic.

    >>> pail = Section(rings=(Ring(height_mm=0, width_mm=262), Ring(height_mm=366, width_mm=300)))
    >>> round(volume_l(pail, 316), 1)
    19.3
    """
    total = 0.0
    for low, high in pairwise(section.rings):
        if height_mm <= low.height_mm:
            break
        total += _between_mm3(low, high, min(height_mm, high.height_mm))
    return total * 1e-6


def brim_l(section: Section) -> float:
    """Volume of a vessel struck level at its rim [L]. Plain arithmetic."""
    return sum(section.band_l)


def fill_height_mm(section: Section, wanted_l: float) -> float:
    """Height to which a vessel must be filled to hold a volume; the inverse of `volume_l`.

    Parameters
    ----------
    section : the vessel
    wanted_l : volume [L], 0..brim

    Returns
    -------
    height above the bottom [mm]

    Raises
    ------
    LoadError : more than the vessel holds

    Notes
    -----
    A round stretch by its cone; else Newton's method inside a shrinking bracket: V rises with height, its slope is
    the area.

    References
    ----------
    Plain arithmetic.

    >>> pail = Section(rings=(Ring(height_mm=0, width_mm=200), Ring(height_mm=300, width_mm=200)))
    >>> round(fill_height_mm(pail, volume_l(pail, 123.0)), 6)
    123.0
    """
    below_l = 0.0
    for (low, high), here_l in zip(pairwise(section.rings), section.band_l, strict=True):
        if wanted_l <= below_l + here_l or math.isclose(wanted_l, below_l + here_l, rel_tol=1e-9):
            return _height_between(low, high, min(wanted_l - below_l, here_l) * 1e6, here_l * 1e6)
        below_l += here_l
    raise LoadError(
        Fault(
            Code.DOES_NOT_FIT,
            measured("{value} does not go into {limit}.", wanted_l, below_l, "L"),
            "",
            field="",
            value=wanted_l,
            limit=below_l,
            unit="L",
        )
    )


def _height_between(low: Ring, high: Ring, wanted_mm3: float, whole_mm3: float) -> float:
    if low.depth_mm is None or high.depth_mm is None:
        return _height_in_cone(low, high, wanted_mm3, whole_mm3)
    floor, ceiling = low.height_mm, high.height_mm
    height = floor + (ceiling - floor) * wanted_mm3 / whole_mm3
    for _ in range(60):
        excess = _between_mm3(low, high, height) - wanted_mm3
        if abs(excess) <= 1e-9 * max(wanted_mm3, 1.0):
            break
        floor, ceiling = (height, ceiling) if excess < 0 else (floor, height)
        part = (height - low.height_mm) / (high.height_mm - low.height_mm)
        height -= excess / _interpolate(low, high, part)
        if not floor <= height <= ceiling:
            height = (floor + ceiling) / 2
    return height


_STRAIGHT: Final = 1e-6
"""Under this taper [mm of width to mm of height] a vessel is straight: the cube root would lose its digits."""


def _height_in_cone(low: Ring, high: Ring, wanted_mm3: float, whole_mm3: float) -> float:
    """Height in a round stretch: with radius r rising by k, V = π (r³ − r₀³) / 3k. Plain arithmetic."""
    rise = high.height_mm - low.height_mm
    k = (high.width_mm - low.width_mm) / 2 / rise
    if abs(k) < _STRAIGHT:
        return low.height_mm + rise * wanted_mm3 / whole_mm3
    bottom = low.width_mm / 2
    radius = math.cbrt(bottom**3 + 3 * k * wanted_mm3 / math.pi)
    return low.height_mm + min(max((radius - bottom) / k, 0.0), rise)


class Container(Frozen):
    """A pail, gauge box or jug used as a measure."""

    key: str
    name: Words
    short: Words
    """What it is called in a sentence: pail, bucket, jug."""
    section: Section
    mark_l: float | None = Field(None, gt=0)
    """Smallest mark one can read on it, where it has marks."""
    tare_kg: float | None = Field(None, ge=0, le=200)
    """What it weighs empty."""
    scoop: bool = False
    """A shovel, a trowel, a spoon, a cap: counted, never filled to a mark."""
    heaped: bool = False
    """Whether it is counted heaped."""
    source: Words = ""


MixerKind = Literal["drum", "pan", "tray", "bucket"]
"""Free-fall drum, forced-action pan or paddle mixer, tray worked by hand, bucket with a drill or by hand."""


class Mixer(Frozen):
    """What the load is mixed in."""

    key: str
    name: Words
    kind: MixerKind
    section: Section
    """Drums are drawn mouth up; their volume is the gross volume."""
    mixed_l: float = Field(gt=0)
    """Fresh mix it is rated for."""
    dry_share: float = Field(1.0, gt=0, le=1)
    """How full it may stand with loose dry material, as a share of its gross volume."""
    max_kg: float | None = Field(None, gt=0)
    tilt_deg: float = Field(0.0, ge=0, le=80)
    """How far a drum's axle leans from upright while it turns; 0 is mouth up."""
    only_small: bool = False
    """A bowl: the right one for a handful, and never the usual one."""
    source: Words = ""


class People(NamedTuple):
    """A count the way people say it."""

    value: float
    words: str


_SAID = ((0.0, ""), (0.25, "¼"), (1 / 3, "⅓"), (0.5, "½"), (2 / 3, "⅔"), (0.75, "¾"), (1.0, ""))


def people_count(exact: float) -> People:
    """Round a count [-] to what people can do: whole, half, third, quarter.

    Common practice, no source.

    >>> people_count(2.47).words, people_count(0.3).words, people_count(6.98).words
    ('2½', '⅓', '7')
    """
    whole = math.floor(exact)
    part, glyph = min(_SAID, key=lambda said: abs(exact - whole - said[0]))
    if whole + part == 0:
        return People(0.25, "¼")  # something that is needed is never said to be none of it
    if part == 1.0:
        return People(whole + 1.0, str(whole + 1))
    return People(whole + part, f"{whole or ''}{glyph}" or "0")


class Fill(Frozen):
    """A dose as fills of a container: so many, each to the same mark."""

    container_key: str
    short: Words
    fills: int
    mark_down_mm: float
    """From the rim down to the level surface; 0 is struck."""
    mark_up_mm: float
    """From the bottom up."""
    struck_exact: float
    """The same volume in fills struck at the rim."""


def is_struck(mark_down_mm: float, fills: int, struck_exact: float) -> bool:
    """Whether fills come so near to the rim that they are struck.

    Parameters
    ----------
    mark_down_mm : from the rim down to the level [mm]
    fills : how many
    struck_exact : the same volume in fills struck at the rim [-]

    References
    ----------
    Common practice, no source.

    >>> is_struck(1.5, 1, 0.98), is_struck(4.0, 2, 1.985), is_struck(4.0, 2, 1.97)
    (True, True, False)
    """
    return mark_down_mm <= STRUCK_MM or 1 - struck_exact / fills <= STRUCK_SHARE


def fill_with(container: Container, volume_wanted_l: float, mass_kg: float) -> Fill:
    """Divide a dose into equal fills of a container.

    Parameters
    ----------
    container : the gauge
    volume_wanted_l : volume as it lies in the gauge [L], > 0
    mass_kg : what the whole dose weighs [kg]

    Returns
    -------
    number of fills and their common mark; no fill is over 25 kg with its vessel where that can be helped

    References
    ----------
    Common practice, no source.
    """
    brim = brim_l(container.section)
    carried_kg = CARRY_KG - (container.tare_kg or 0.0)
    fills = max(math.ceil(volume_wanted_l / brim - 1e-9), math.ceil(mass_kg / carried_kg - 1e-9), 1)
    up_mm = fill_height_mm(container.section, volume_wanted_l / fills)
    struck = volume_wanted_l / brim
    return Fill(
        container_key=container.key,
        short=container.short,
        fills=fills,
        mark_down_mm=max(container.section.depth_mm - up_mm, 0.0),
        mark_up_mm=up_mm,
        struck_exact=struck,
    )


def best_fill(containers: tuple[Container, ...], volume_wanted_l: float, mass_kg: float) -> Fill | None:
    """Choose the gauge that takes the fewest fills and is filled deep enough to read.

    Parameters
    ----------
    containers : gauges at hand
    volume_wanted_l : [L], > 0
    mass_kg : [kg]

    Returns
    -------
    the fill, or None where every gauge at hand would be filled too low to be read

    References
    ----------
    Common practice, no source.
    """
    fills = [(fill_with(c, volume_wanted_l, mass_kg), c) for c in containers]

    def rank(pair: tuple[Fill, Container]) -> tuple[bool, int, float]:
        fill, container = pair
        depth = fill.mark_up_mm / container.section.depth_mm
        return (depth < SHALLOWEST, fill.fills, -depth)

    readable = [pair for pair in fills if _can_be_read(pair[0])]
    return min(readable, key=rank)[0] if readable else None


def _can_be_read(fill: Fill) -> bool:
    return fill.mark_up_mm >= LEAST_MARK_MM and fill.struck_exact / fill.fills >= LEAST_SHARE
