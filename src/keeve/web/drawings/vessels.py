"""Vessels in section: one with its measures, or all of them side by side to one scale."""

from typing import Final, NamedTuple

from keeve.core.vessels.tilted import tilted_brim_l, tilted_height_mm
from keeve.core.vessels.vessels import Container, Mixer, Section, brim_l, volume_l
from keeve.web.drawings.common import SectionScale, TiltedScale
from keeve.words.putting import t
from keeve.words.reader import Reader
from keeve.words.showing import say, show_length, show_litres

WIDE: Final = 420.0
HIGH: Final = 330.0
LEFT: Final = 70.0
TOP: Final = 34.0


class Level(NamedTuple):
    """What stands in a vessel to a height."""

    y: float
    from_x: float
    to_x: float
    words: str


class DrawnVessel(NamedTuple):
    """A vessel in section, in units of the drawing."""

    width: float
    height: float
    wall: str
    filled: str
    """To its rated volume, or to the rim."""
    levels: tuple[Level, ...]
    across: tuple[tuple[float, float, str], ...]
    """Measures across the rim and the bottom, with their places."""
    deep: tuple[float, float, float, str] | None
    """Where the depth is measured: x, from y, to y, words; not of a drum that leans."""
    words: str


def _scaled(section: Section, per_mm: float, middle: float, bottom: float) -> SectionScale:
    scale = SectionScale(section)
    scale.per_mm, scale.middle, scale.bottom = per_mm, middle, bottom
    return scale


def vessel(one: Container | Mixer, reader: Reader) -> DrawnVessel:
    """Draw a vessel large, with its measures and what it holds at a third, two thirds and the rim."""
    if isinstance(one, Mixer) and one.tilt_deg:
        return _leaning(one, reader)
    section = one.section
    widest = max(r.width_mm for r in section.rings)
    per_mm = min((WIDE - 2 * LEFT) / widest, (HIGH - 2 * TOP) / section.depth_mm)
    middle, bottom = WIDE / 2, TOP + section.depth_mm * per_mm
    scale = _scaled(section, per_mm, middle, bottom)

    def level(height_mm: float) -> Level:
        half = scale.half(height_mm)
        return Level(
            scale.y(height_mm), middle - half, middle + half, say(show_litres(volume_l(section, height_mm), reader))
        )

    rim, base = section.rings[-1], section.rings[0]
    depth = say(show_length(section.depth_mm, reader))
    holds = say(show_litres(brim_l(section), reader))
    return DrawnVessel(
        width=WIDE,
        height=bottom + TOP,
        wall=scale.wall(),
        filled=scale.band(0.0, section.depth_mm),
        levels=tuple(level(section.depth_mm * share) for share in (1 / 3, 2 / 3, 1.0)),
        across=(
            (middle, scale.y(rim.height_mm) - 10, say(show_length(rim.width_mm, reader))),
            (middle, bottom + 20, say(show_length(base.width_mm, reader))),
        ),
        deep=(middle - widest * per_mm / 2 - 16, scale.y(section.depth_mm), bottom, depth),
        words=f"{depth}, {holds}",
    )


def _leaning(one: Mixer, reader: Reader) -> DrawnVessel:
    """Draw a drum as it leans while it turns; what it holds so, a third, two thirds and all of it."""
    scale, brim = TiltedScale(one.section, one.tilt_deg), tilted_brim_l(one.section, one.tilt_deg)

    def height(litres: float) -> float:
        return tilted_height_mm(one.section, one.tilt_deg, litres)

    def level(litres: float) -> Level:
        height_mm = height(litres)
        return Level(scale.y(height_mm), *scale.span(height_mm), say(show_litres(litres, reader)))

    leans = t(reader, "leans {degrees}°", degrees=f"{one.tilt_deg:g}")
    depth, holds = say(show_length(one.section.depth_mm, reader)), say(show_litres(brim, reader))
    return DrawnVessel(
        width=scale.right_x + LEFT,
        height=scale.bottom + TOP,
        wall=scale.wall(),
        filled=scale.band(height(0.0), height(brim)),
        levels=tuple(level(brim * share) for share in (1 / 3, 2 / 3, 1.0)),
        across=((scale.right_x / 2, scale.bottom + 22, f"{leans}, {depth}"),),
        deep=None,
        words=f"{leans}, {depth}, {holds}",
    )


def _scoop(one: Container, per_mm: float, middle: float, ground: float) -> tuple[str, str]:
    """Draw a shovel or a trowel to scale: as wide as a heap of its volume, twice as wide as high."""
    wide = max((brim_l(one.section) * 1e6 * 4) ** (1 / 3) * per_mm, 14.0)

    def points(shape: tuple[tuple[float, float], ...]) -> str:
        return " ".join(f"{middle + x * wide:.1f},{ground - y * wide:.1f}" for x, y in shape)

    return (
        points(((-0.5, 0.3), (-0.3, 0.02), (0.3, 0.02), (0.5, 0.3), (0.95, 0.75))),
        points(((-0.46, 0.26), (-0.25, 0.5), (0.0, 0.57), (0.25, 0.5), (0.46, 0.26), (0.3, 0.03), (-0.3, 0.03))),
    )


def scoop(one: Container) -> tuple[str, str]:
    """Draw a shovel or a trowel large: blade and handle, and its heap."""
    per_mm = WIDE * 0.42 / (brim_l(one.section) * 1e6 * 4) ** (1 / 3)
    return _scoop(one, per_mm, WIDE * 0.42, HIGH - TOP)


class Standing(NamedTuple):
    """One vessel in the row."""

    key: str
    wall: str
    filled: str
    middle: float
    name: str
    holds: str
    own: bool


class Row(NamedTuple):
    """Vessels side by side on one ground."""

    width: float
    height: float
    ground: float
    standing: tuple[Standing, ...]


ROW_HIGH: Final = 150.0
NAME_HIGH: Final = 46.0
GAP: Final = 26.0
LEAST_WIDE: Final = 148.0
"""Room for a name under it."""


def row(vessels: list[Container | Mixer], own: frozenset[str], names: list[str], reader: Reader) -> Row:
    """Stand vessels side by side, all to one scale."""
    tallest = max((one.section.depth_mm for one in vessels), default=1.0)
    per_mm = ROW_HIGH / tallest
    ground, x, found = ROW_HIGH + 8, 4.0, []
    for one, name in zip(vessels, names, strict=True):
        wide = max(max(r.width_mm for r in one.section.rings) * per_mm, LEAST_WIDE)
        middle = x + wide / 2
        scale = _scaled(one.section, per_mm, middle, ground)
        wall, filled = scale.wall(), scale.band(0.0, one.section.depth_mm)
        if isinstance(one, Container) and one.scoop:
            wall, filled = _scoop(one, per_mm, middle, ground)
        found.append(
            Standing(
                key=one.key,
                wall=wall,
                filled=filled,
                middle=middle,
                name=name,
                holds=say(show_litres(brim_l(one.section), reader)),
                own=one.key in own,
            )
        )
        x += wide + GAP
    return Row(max(x - GAP + 4, 1.0), ground + NAME_HIGH, ground, tuple(found))
