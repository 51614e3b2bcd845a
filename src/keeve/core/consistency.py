"""By which test of the hand a mix is judged: each has three drawn states, too dry, right and too wet."""

from typing import Final, Literal

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
NEAR_DENSITY: Final = 0.02
"""A pot of fresh mix weighed on the site is no surer than this share: own assumption."""
