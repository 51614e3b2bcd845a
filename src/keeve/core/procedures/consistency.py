"""By which test of the hand a mix is judged: each has three drawn states, too dry, right and too wet."""

import math
from typing import Final, Literal, NamedTuple

from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import Amount, Said

FieldTest = Literal[
    "lump",
    "tapped",
    "upside down",
    "furrow",
    "cone",
    "glove",
    "snowball",
    "hemp ball",
    "frosting",
    "jelly",
    "stream",
    "finger",
    "stroke",
    "islands",
]

TEST_OF_FAMILY: Final[dict[str, FieldTest]] = {
    "cement mortar": "lump",
    "cement-lime mortar": "lump",
    "hydraulic lime mortar": "upside down",
    "lime putty": "upside down",
    "gypsum-sand": "upside down",
    "concrete": "furrow",
    "grout": "cone",
    "pervious": "glove",
    "screed": "snowball",
    "dry-pack": "snowball",
    "hemp-lime": "hemp ball",
    "premix coat": "frosting",
    "high-strength": "stream",
    "plaster": "finger",
    "kit": "stroke",
}
"""The test a family is judged by where its mix names none: common practice, no source."""

SLUMP_STEP_MM: Final = 10
"""A slump is rounded to this before it is classed: EN 12350-2, from memory."""
SLUMP_CLASSES: Final = ((10, "S1"), (50, "S2"), (100, "S3"), (160, "S4"), (220, "S5"))
"""Least rounded slump [mm] of each class: EN 206, from memory."""
SLUMP_TELLS_MM: Final = 280
"""A higher slump is asked about: house ruling."""
SLUMP_FLOW_CLASSES: Final = ((550, "SF1"), (660, "SF2"), (760, "SF3"))
"""Least slump flow [mm] of each class: EN 206, from memory."""
CLASSES: Final = {"slump": SLUMP_CLASSES, "slump flow": SLUMP_FLOW_CLASSES}
NEAR_DENSITY: Final = 0.02
"""A pot of fresh mix weighed on the site is no surer than this share: own assumption."""
CONE_MM: Final = 300
"""Height of the slump cone; it is 200 mm wide at its foot and 100 mm at its top: EN 12350-2, from memory."""
_FOOT_MM: Final = 100
"""Radius of the cone's foot."""
FLOW_MOULD_MM: Final = 100
"""Width of the flow table's mould at its foot: EN 1015-3 and ASTM C230, from memory."""


class Slumped(NamedTuple):
    """A cone of mix once the mould is lifted."""

    height_mm: float
    top_mm: float
    """Radius."""
    foot_mm: float
    """Radius."""


def slumped(slump_mm: float) -> Slumped:
    """Shape of a cone of mix that has slumped, for drawing it to scale.

    Parameters
    ----------
    slump_mm : fall of its top [mm], 0 to 299

    Returns
    -------
    height and radii [mm]

    Raises
    ------
    MixError : a slump no cone can have

    Notes
    -----
    A frustum as steep in its parts as the mould, top half as wide as the foot, of the mould's volume:
    r = 100 sqrt(300/h).

    References
    ----------
    Plain arithmetic on the cone of EN 12350-2; real mix is rounder.

    >>> slumped(0)
    Slumped(height_mm=300, top_mm=50.0, foot_mm=100.0)
    >>> round(slumped(225).foot_mm)
    200
    """
    if not 0 <= slump_mm < CONE_MM:
        raise MixError(
            Fault(Code.OUT_OF_RANGE, Said("A cone slumps 0 to 299 mm, not {slump}.", slump=Amount(slump_mm, "mm")))
        )
    height_mm = CONE_MM - slump_mm
    foot_mm = _FOOT_MM * math.sqrt(CONE_MM / height_mm)
    return Slumped(height_mm, foot_mm / 2, foot_mm)


def spread_mm(flow: float, unit: str) -> float:
    """Width a flow test is read at.

    Parameters
    ----------
    flow : as its standard states it, in `unit`: "mm" across [mm], or "%" of growth over the mould's foot [%]
    unit : "mm" or "%"

    Returns
    -------
    width [mm]

    References
    ----------
    EN 1015-3 reads the width, ASTM C230 its growth over 100 mm; from memory.

    >>> spread_mm(110, "%"), spread_mm(175, "mm")
    (210.0, 175)
    """
    return FLOW_MOULD_MM * (1 + flow / 100) if unit == "%" else flow
