"""What is cast to be broken: its shape, its name, and the stress that a force makes in it."""

import math
from typing import Final, Literal

from keeve.core.message.said import Amount, Said, Words

Shape = Literal[
    "cube-150", "cube-100", "cylinder-150", "cylinder-100", "cylinder-6in", "cylinder-4in", "cylinder-3in", "cube-2in",
    "bar-40", "beam-150", "beam-100", "beam-6in", "bar-bent",
]  # fmt: skip
_INCH: Final = 25.4
AREA_MM2: Final[dict[Shape, float]] = {
    "cube-150": 150.0**2,
    "cube-100": 100.0**2,
    "cylinder-150": math.pi * 75.0**2,
    "cylinder-100": math.pi * 50.0**2,
    "cylinder-6in": math.pi * (3 * _INCH) ** 2,
    "cylinder-4in": math.pi * (2 * _INCH) ** 2,
    "cylinder-3in": math.pi * (1.5 * _INCH) ** 2,
    "cube-2in": (2 * _INCH) ** 2,
    "bar-40": 40.0**2,
}
BENT: Final[dict[Shape, tuple[float, float, float]]] = {
    "beam-150": (150.0, 450.0, 1.0),
    "beam-100": (100.0, 300.0, 1.0),
    "beam-6in": (6 * _INCH, 18 * _INCH, 1.0),
    "bar-bent": (40.0, 100.0, 1.5),
}
"""Side and span [mm] of what is bent till it breaks; 1 where two rollers load its thirds, 1.5 where one its middle."""
SHAPES: Final[dict[Shape, Words]] = {
    "cube-150": Said("Cube, {wide}", wide=Amount(150, "mm")),
    "cube-100": Said("Cube, {wide}", wide=Amount(100, "mm")),
    "cylinder-150": Said("Cylinder, {wide} by {high}", wide=Amount(150, "mm"), high=Amount(300, "mm")),
    "cylinder-100": Said("Cylinder, {wide} by {high}", wide=Amount(100, "mm"), high=Amount(200, "mm")),
    "cylinder-6in": Said("Cylinder, {wide} by {high}", wide=Amount(6 * _INCH, "mm"), high=Amount(12 * _INCH, "mm")),
    "cylinder-4in": Said("Cylinder, {wide} by {high}", wide=Amount(4 * _INCH, "mm"), high=Amount(8 * _INCH, "mm")),
    "cylinder-3in": Said("Cylinder, {wide} by {high}", wide=Amount(3 * _INCH, "mm"), high=Amount(6 * _INCH, "mm")),
    "cube-2in": Said("Cube, {wide}", wide=Amount(2 * _INCH, "mm")),
    "beam-6in": Said("Beam, {wide}, bent over {span}", wide=Amount(6 * _INCH, "mm"), span=Amount(18 * _INCH, "mm")),
    "bar-40": Said("Half a bar, plates {wide}", wide=Amount(40, "mm")),
    "beam-150": Said("Beam, {wide}, bent over {span}", wide=Amount(150, "mm"), span=Amount(450, "mm")),
    "beam-100": Said("Beam, {wide}, bent over {span}", wide=Amount(100, "mm"), span=Amount(300, "mm")),
    "bar-bent": Said("Bar, {wide}, bent over {span}", wide=Amount(40, "mm"), span=Amount(100, "mm")),
}
BY_INCH: Final = frozenset(shape for shape in SHAPES if shape.endswith("in"))
"""Made in inches: theirs come first for a reader of inches."""


def stress_mpa(shape: Shape, force_kn: float) -> float:
    """Return what a specimen carried [MPa] from the force that broke it [kN].

    Force over area: plain arithmetic. Bent: F l / (b d²) under two rollers, 1.5 F l / b³ under one; EN 12390-5 and
    ASTM C78, EN 196-1, all from memory.

    >>> round(stress_mpa("cube-150", 675), 1), round(stress_mpa("cylinder-150", 530), 1)
    (30.0, 30.0)
    >>> round(stress_mpa("beam-150", 30), 2), round(stress_mpa("bar-bent", 2.5), 2)
    (4.0, 5.86)
    """
    if shape in BENT:
        side_mm, span_mm, loaded = BENT[shape]
        return loaded * force_kn * 1000 * span_mm / side_mm**3
    return force_kn * 1000 / AREA_MM2[shape]
