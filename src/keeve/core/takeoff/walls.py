"""Walls: coats on them, the mortar between their stones, the infill between their studs."""

from typing import ClassVar, Final, Literal

from pydantic import Field

from keeve.core.measure.quantities import Area, Length, LengthOrNone, Volume
from keeve.core.message.errors import Code, Fault, TakeoffError
from keeve.core.message.said import FACE, Said, mark, measured
from keeve.core.message.working import Given
from keeve.core.takeoff.item import Item, Volumed, does_not_fit, missing, mm

Ground = Literal["smooth", "block", "lath or stone"]
KEY: Final[dict[Ground, float]] = {"smooth": 1.0, "block": 1.1, "lath or stone": 1.25}
"""How much more a coat takes where it fills the ground's keys: common practice, no source."""


def _less_openings(area_m2: float, openings_m2: float) -> float:
    if openings_m2 >= area_m2:
        raise TakeoffError(
            Fault(
                Code.DOES_NOT_FIT,
                measured("The openings ({value}) take up the whole wall ({limit}).", openings_m2, area_m2, "m²"),
                "Check the two areas.",
                field="openings_m2",
                value=openings_m2,
                limit=area_m2,
                unit="m²",
            )
        )
    return area_m2 - openings_m2


class _Wall(Item):
    length_mm: Length
    height_mm: Length
    openings_m2: Area = 0.0
    """Doors and windows together."""

    def face_m2(self) -> float:
        """Area less the openings [m²].

        Raises
        ------
        TakeoffError : the openings take up the whole wall
        """
        return _less_openings(self.length_mm * self.height_mm * 1e-6, self.openings_m2)

    def _area_given(self) -> tuple[Given, ...]:
        return (
            mm("length", self.length_mm), mm("height", self.height_mm), Given("openings", self.openings_m2, "m²"),
        )  # fmt: skip


class Coat(_Wall):
    """Coats of render or plaster on a wall."""

    kind: Literal["coat"] = "coat"
    thickness_mm: Length
    """Of all coats of this mix together: 10 + 8."""
    ground: Ground = "smooth"

    def volume(self) -> Volumed:
        """Volume of one [m³].

        Raises
        ------
        TakeoffError : the openings take up the whole wall

        Notes
        -----
        V = (l h − openings) t k, k = 1.0 smooth, 1.1 block, 1.25 lath or stone.

        References
        ----------
        Common practice, no source.
        """
        key = KEY[self.ground]
        given = (*self._area_given(), mm("thickness", self.thickness_mm), Given("key of the ground", key, ""))
        found = self.face_m2() * self.thickness_mm / 1000 * key
        return found, mark("(length × height − openings) × thickness × key"), given


class Masonry(_Wall):
    """The mortar a wall of bricks, blocks or stones takes up."""

    kind: Literal["masonry"] = "masonry"
    length_mm: Length | None = None  # type: ignore[assignment]
    height_mm: Length | None = None  # type: ignore[assignment]
    units: int | None = Field(None, ge=1, le=10_000_000)
    """How many are laid, where that is known better than the wall."""
    unit_length_mm: Length
    unit_height_mm: Length
    leaf_mm: Length
    """Thickness of one leaf: how deep a unit lies in the wall."""
    joint_mm: Length
    leaves: int = Field(1, ge=1, le=4)
    collar_mm: LengthOrNone = 0.0
    """Joint between two leaves, filled with mortar; 0 for a cavity."""
    frog_l: Volume | None = None
    """Hollow of one unit that the mortar fills."""

    def units_per_m2(self) -> float:
        """How many units stand in 1 m² of one leaf. Plain arithmetic: n = 1 / ((l + j)(h + j))."""
        return 1e6 / ((self.unit_length_mm + self.joint_mm) * (self.unit_height_mm + self.joint_mm))

    def face_m2(self) -> float:
        """Area of the wall [m²]; from the number of units where that is given. Plain arithmetic.

        Raises
        ------
        TakeoffError : neither units nor a wall were measured, or the openings take up the whole wall
        """
        if self.units is not None:
            return self.units / (self.units_per_m2() * self.leaves)
        if self.length_mm is None or self.height_mm is None:
            raise missing(
                "length_mm" if self.length_mm is None else "height_mm", "Measure the wall, or count the units."
            )
        return _less_openings(self.length_mm * self.height_mm * 1e-6, self.openings_m2)

    def volume(self) -> Volumed:
        """Volume of one [m³].

        Raises
        ------
        TakeoffError : as `face_m2`

        Notes
        -----
        In 1 m²: leaves × (w − n l h w + n frog) + (leaves − 1) × collar, n = 1 / ((l + j)(h + j)).

        References
        ----------
        Plain arithmetic. Joints full and of one thickness; what falls down is waste.
        """
        n = self.units_per_m2()
        unit_m3 = self.unit_length_mm * self.unit_height_mm * self.leaf_mm * 1e-9
        leaf = self.leaf_mm / 1000 - n * unit_m3 + n * (self.frog_l or 0.0) / 1000
        per_m2 = self.leaves * leaf + (self.leaves - 1) * self.collar_mm / 1000
        area = self.face_m2()
        given = (
            Given("wall", area, "m²"), Given(Said("units in {where} of a leaf", where=FACE), n, "in 1 m²"),
            mm("unit, long", self.unit_length_mm),
            mm("unit, high", self.unit_height_mm), mm("leaf", self.leaf_mm), mm("joint", self.joint_mm),
            Given("leaves", self.leaves, ""), mm("collar joint", self.collar_mm),
            Given("frog", self.frog_l or 0.0, "L"),
            Given(Said("mortar in {where}", where=FACE), per_m2 * 1000, "L in 1 m²"),
        )  # fmt: skip
        return area * per_m2, mark("wall × (leaves × (leaf − n × unit + n × frog) + collar joints)"), given


class Pointing(Item):
    """Joints to be raked out and pointed: by their length, or by the wall and its stones."""

    kind: Literal["pointing"] = "pointing"
    by: Literal["wall", "joints"] = "wall"
    joints_mm: Length | None = None
    """Length of all joints."""
    area_m2: Area | None = None
    unit_length_mm: Length | None = None
    unit_height_mm: Length | None = None
    joint_mm: Length
    """Width of the joint."""
    depth_mm: Length

    def volume(self) -> Volumed:
        """Volume of one [m³].

        Raises
        ------
        TakeoffError : a measure this way needs is missing

        Notes
        -----
        V = length × j × d, or A d (1 − l h / ((l + j)(h + j))): the share of the face that is joint.

        References
        ----------
        Plain arithmetic.
        """
        joint, depth = mm("joint", self.joint_mm), mm("depth", self.depth_mm)
        if self.by == "joints":
            if self.joints_mm is None:
                raise missing("joints_mm")
            found = self.joints_mm * self.joint_mm * self.depth_mm * 1e-9
            return found, mark("length × joint × depth"), (mm("length of the joints", self.joints_mm), joint, depth)
        for name in ("area_m2", "unit_length_mm", "unit_height_mm"):
            if getattr(self, name) is None:
                raise missing(name)
        long, high = float(self.unit_length_mm or 0), float(self.unit_height_mm or 0)
        share = 1 - long * high / ((long + self.joint_mm) * (high + self.joint_mm))
        area = float(self.area_m2 or 0.0)
        given = (
            Given("wall", area, "m²"), mm("stone, long", long), mm("stone, high", high), joint, depth,
            Given("share of the face that is joint", share * 100, "%"),
        )  # fmt: skip
        return area * share * self.depth_mm / 1000, mark("wall × share that is joint × depth"), given


class Infill(_Wall):
    """Hemp-lime or the like cast between studs: the panel less the timber in it."""

    default_waste_percent: ClassVar[float | None] = None

    kind: Literal["infill"] = "infill"
    thickness_mm: Length
    studs: int = Field(0, ge=0, le=500)
    stud_width_mm: Length | None = None
    stud_depth_mm: Length | None = None

    def volume(self) -> Volumed:
        """Volume of one [m³]. Plain arithmetic: V = (l h − openings) t − n h w d, studs as high as the panel.

        Raises
        ------
        TakeoffError : a stud's measure is missing, or the studs fill the panel
        """
        panel = self.face_m2() * self.thickness_mm / 1000
        given = (*self._area_given(), mm("thickness", self.thickness_mm))
        if not self.studs:
            return panel, mark("(length × height − openings) × thickness"), given
        if self.stud_width_mm is None or self.stud_depth_mm is None:
            raise missing("stud_width_mm" if self.stud_width_mm is None else "stud_depth_mm")
        if self.stud_depth_mm > self.thickness_mm:
            raise does_not_fit(
                "A stud is {value} deep and the wall only {limit} thick.",
                "Give the part of the stud that stands in the infill.",
                "stud_depth_mm",
                self.stud_depth_mm,
                self.thickness_mm,
            )
        timber = self.studs * self.height_mm * self.stud_width_mm * self.stud_depth_mm * 1e-9
        if timber >= panel:
            raise does_not_fit("The studs fill the whole panel.", "Check their number and width.", "studs")
        given = (
            *given, Given("studs", self.studs, ""), mm("stud, wide", self.stud_width_mm),
            mm("stud, deep", self.stud_depth_mm),
        )  # fmt: skip
        return panel - timber, mark("(length × height − openings) × thickness − studs × height × wide × deep"), given
