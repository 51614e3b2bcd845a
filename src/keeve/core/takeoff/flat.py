"""Floors, slabs, screeds, footings, kerbs and stairs."""

import math
import re
import string
from typing import Annotated, Any, ClassVar, Final, Literal

from pydantic import BeforeValidator, Field, WithJsonSchema

from keeve.core.measure.quantities import Length, LengthOrNone
from keeve.core.measure.reading import MOST_LIST_LETTERS, read_length_mm, within
from keeve.core.message.errors import Code, Fault, TakeoffError, UnitError
from keeve.core.message.said import Said, mark
from keeve.core.message.working import Given
from keeve.core.takeoff.item import Item, Volumed, does_not_fit, mm
from keeve.core.takeoff.outline import Holes, Outline, check_outline, signed_area
from keeve.core.takeoff.solids import box_m3

MapUnit = Literal["m", "cm", "mm", "ft", "in"]
UNIT_MM: Final[dict[MapUnit, float]] = {"m": 1000.0, "cm": 10.0, "mm": 1.0, "ft": 304.8, "in": 25.4}


class _Rectangle(Item):
    length_mm: Length
    width_mm: Length

    def _to_depth(self, depth_mm: float, name: str) -> Volumed:
        given = (mm("length", self.length_mm), mm("width", self.width_mm), mm(name, depth_mm))
        return box_m3(self.length_mm, self.width_mm, depth_mm), Said("length × width × {depth}", depth=name), given


class _RectangularFloor(_Rectangle):
    def face_m2(self) -> float:
        """Area of the floor [m²]."""
        return self.length_mm * self.width_mm * 1e-6


class Slab(_RectangularFloor):
    """A slab, floor or screed: rectangle by mean thickness."""

    kind: Literal["slab"] = "slab"
    depth_mm: Length

    def volume(self) -> Volumed:
        """Volume of one [m³], its formula and inputs. Plain arithmetic: V = l w d."""
        return self._to_depth(self.depth_mm, "depth")


class Floor(Item):
    """A floor of any outline, with holes: corners by mean thickness."""

    kind: Literal["floor"] = "floor"
    corners: Outline
    holes: Holes = ()
    unit: MapUnit = "m"
    """Of the corners."""
    depth_mm: Length

    def face_m2(self) -> float:
        """Area less its holes [m²]."""
        per_m = UNIT_MM[self.unit] / 1000
        return (abs(signed_area(self.corners)) - sum(abs(signed_area(h)) for h in self.holes)) * per_m**2

    def volume(self) -> Volumed:
        """Volume of one [m³]. Plain arithmetic: V = (A − Σ A_hole) d, A = ½ Σ (xᵢ yᵢ₊₁ − xᵢ₊₁ yᵢ).

        Raises
        ------
        TakeoffError : an outline that crosses itself, or a hole that is not in it
        """
        check_outline(self.corners, self.holes)
        area = self.face_m2()
        given = (Given("area less holes", area, "m²"), mm("depth", self.depth_mm))
        return area * self.depth_mm / 1000, mark("area × depth"), given


_UNIT_LETTERS: Final = string.ascii_letters + string.whitespace + "\"'″”"


def _readings(given: Any) -> tuple[tuple[float, ...], ...]:
    """Read depths as written on a grid: rows on lines or between semicolons; a unit at the end is for all."""
    if isinstance(given, str):
        text = within(given, MOST_LIST_LETTERS).strip()
        body = text.rstrip(_UNIT_LETTERS)
        unit = text[len(body) :].strip()
        if text and not any(letter in string.digits for letter in body):
            raise UnitError(
                Fault(
                    Code.UNREADABLE,
                    Said("“{typed}” cannot be read.", typed=text[:40]),
                    "Write rows: 95 100 110; 90 95 105.",
                )
            )
        rows = [re.split(r"\s+|,\s", row.strip()) for row in re.split(r"[;\n]", body) if row.strip()]
        found = [[read_length_mm(f"{word} {unit or 'mm'}") for word in row if word] for row in rows]
    elif isinstance(given, (list, tuple)):
        try:
            found = [[float(value) for value in row] for row in given]
        except (TypeError, ValueError, OverflowError):
            raise UnitError(
                Fault(Code.UNREADABLE, "Write the depths in rows.", "Like 95 100 110; 90 95 105.")
            ) from None
    else:
        raise UnitError(Fault(Code.UNREADABLE, "Write the depths in rows.", "Like 95 100 110; 90 95 105."))
    if sum(len(row) for row in found) > 2500:
        raise UnitError(Fault(Code.TOO_MANY, "That is more than 2500 depths.", "Split the floor."))
    for row in found:
        for depth in row:
            if not 0 <= depth <= 1e5:
                raise UnitError(
                    Fault(
                        Code.OUT_OF_RANGE,
                        "A depth cannot be less than nothing." if depth < 0 else "That is deeper than 100 m.",
                        "Check the point and the unit.",
                    )
                )
    if not any(depth > 0 for row in found for depth in row):
        raise UnitError(Fault(Code.MISSING, "No depth was read yet.", "Write them like 95 100 110; 90 95 105."))
    return tuple(tuple(row) for row in found)


Readings = Annotated[
    tuple[tuple[float, ...], ...],
    BeforeValidator(_readings),
    WithJsonSchema({"anyOf": [{"type": "array"}, {"type": "string"}], "description": "rows of depths in mm, or text"},
                   mode="validation"),
]  # fmt: skip


class Depths(_RectangularFloor):
    """A floor over uneven ground: a rectangle by depths read on a grid."""

    kind: Literal["depths"] = "depths"
    readings: Readings
    read_at: Literal["edges and between", "anywhere"] = "edges and between"
    """Whether the outer readings stand on the edges of the floor; anywhere: each stands for the ground round it."""

    def mean_depth_mm(self) -> float:
        """Mean depth of the readings [mm].

        Raises
        ------
        TakeoffError : rows of different length where the readings stand on the edges

        Notes
        -----
        On a grid that reaches the edges, corners count once, edges twice, the rest four times: the volume under
        straight surfaces between the readings (composite trapezoid rule). Anywhere: the plain mean.

        References
        ----------
        Plain arithmetic.
        """
        flat = [depth for row in self.readings for depth in row]
        if self.read_at == "anywhere" or len(flat) == 1:
            return math.fsum(flat) / len(flat)
        across = {len(row) for row in self.readings}
        if len(across) > 1:
            short = min(range(len(self.readings)), key=lambda i: len(self.readings[i])) + 1
            raise TakeoffError(
                Fault(
                    Code.DOES_NOT_FIT,
                    Said("Row {row} has fewer depths than another.", row=str(short)),
                    "Give each row as many, or say that they were read anywhere.",
                    field="readings",
                )
            )
        down, right = len(self.readings), across.pop()
        weigh = [
            [(1 if i in (0, down - 1) else 2) * (1 if j in (0, right - 1) else 2) for j in range(right)]
            for i in range(down)
        ]
        total = math.fsum(
            w * d for ws, ds in zip(weigh, self.readings, strict=True) for w, d in zip(ws, ds, strict=True)
        )
        return total / sum(w for ws in weigh for w in ws)

    def volume(self) -> Volumed:
        """Volume of one [m³]. Plain arithmetic: V = l w d̄."""
        return self._to_depth(self.mean_depth_mm(), mark("mean depth"))


class Fall(_RectangularFloor):
    """A floor or screed to a fall: thin at one end, thick at the other, and perhaps also crosswise."""

    kind: Literal["fall"] = "fall"
    low_mm: LengthOrNone
    """Thickness at the thin end."""
    high_mm: Length
    """Thickness at the thick end."""
    far_low_mm: LengthOrNone | None = None
    """At the thin end's other corner; empty: the same all across."""
    far_high_mm: LengthOrNone | None = None

    def volume(self) -> Volumed:
        """Volume of one [m³]. Plain arithmetic: V = l w × mean of the four corners (exact for straight edges)."""
        corners = (
            self.low_mm,
            self.high_mm,
            self.low_mm if self.far_low_mm is None else self.far_low_mm,
            self.high_mm if self.far_high_mm is None else self.far_high_mm,
        )
        return self._to_depth(sum(corners) / 4, mark("mean of the corners"))


class Strip(_Rectangle):
    """A strip footing, trench fill or wall: long, and the same all along."""

    default_waste_percent: ClassVar[float | None] = 15.0  # against earth; common practice, no source

    kind: Literal["strip"] = "strip"
    depth_mm: Length

    def volume(self) -> Volumed:
        """Volume of one [m³]. Plain arithmetic: V = l w d."""
        return self._to_depth(self.depth_mm, "depth")


class Kerb(Item):
    """A kerb, edging or haunch: a strip whose foot may be wider than its top."""

    kind: Literal["kerb"] = "kerb"
    length_mm: Length
    top_mm: LengthOrNone
    foot_mm: Length
    height_mm: Length

    def volume(self) -> Volumed:
        """Volume of one [m³]. Plain arithmetic: V = l h (top + foot) / 2."""
        given = (
            mm("length", self.length_mm), mm("top", self.top_mm), mm("foot", self.foot_mm),
            mm("height", self.height_mm),
        )  # fmt: skip
        mean = (self.top_mm + self.foot_mm) / 2
        return box_m3(self.length_mm, mean, self.height_mm), mark("length × height × (top + foot) / 2"), given


class Stair(Item):
    """A straight flight: steps on a sloping waist, and a landing."""

    kind: Literal["stair"] = "stair"
    steps: int = Field(ge=1, le=60)
    """How many goings the flight has."""
    going_mm: Length
    rise_mm: Length
    width_mm: Length
    waist_mm: LengthOrNone = 0.0
    """Thickness under the steps, square to the slope; 0 for steps on solid ground or brick."""
    landing_mm: LengthOrNone = 0.0
    """Length of a landing as wide as the flight."""
    landing_thick_mm: LengthOrNone = 0.0

    def volume(self) -> Volumed:
        """Volume of one [m³].

        Raises
        ------
        TakeoffError : a landing without a thickness

        Notes
        -----
        V = w (n g r / 2 + n √(g² + r²) t + landing): triangles of the steps, waist along the slope, landing.

        References
        ----------
        Plain arithmetic; the way quantities are measured in building handbooks.
        """
        if self.landing_mm and not self.landing_thick_mm:
            raise does_not_fit(
                "How thick is the landing?", "Measure it, or leave its length empty.", "landing_thick_mm"
            )
        triangles = self.steps * self.going_mm * self.rise_mm / 2
        slope = self.steps * math.hypot(self.going_mm, self.rise_mm)
        landing = self.landing_mm * self.landing_thick_mm
        given: tuple[Given, ...] = (
            Given("steps", self.steps, ""), mm("going", self.going_mm), mm("rise", self.rise_mm),
            mm("width", self.width_mm), mm("waist", self.waist_mm), mm("slope", slope),
        )  # fmt: skip
        if landing:
            given = (*given, mm("landing", self.landing_mm), mm("landing, thick", self.landing_thick_mm))
        formula = (
            mark("width × (steps × going × rise / 2 + slope × waist + landing × thick)")
            if landing
            else mark("width × (steps × going × rise / 2 + slope × waist)")
        )
        return (triangles + slope * self.waist_mm + landing) * self.width_mm * 1e-9, formula, given
