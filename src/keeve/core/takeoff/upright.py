"""Columns, post holes and the plain solids: what stands upright."""

from typing import ClassVar, Literal

from pydantic import Field

from keeve.core.measure.quantities import Length, LengthOrNone
from keeve.core.message.said import mark
from keeve.core.message.working import Given
from keeve.core.takeoff.item import Item, Volumed, does_not_fit, missing, mm
from keeve.core.takeoff.solids import box_m3, cap_m3, cylinder_m3, frustum_m3, regular_area_mm2, taper_m3


class BoredHole(Item):
    """A round hole in the ground around a post that stands to the bottom."""

    default_waste_percent: ClassVar[float | None] = 15.0  # against earth; common practice, no source

    kind: Literal["bored_hole"] = "bored_hole"
    diameter_mm: Length
    depth_mm: Length
    post: Literal["none", "round", "square"] = "square"
    post_mm: Length | None = None
    """Diameter of a round post, side of a square one."""

    def volume(self) -> Volumed:
        """Volume of one hole less its post [m³]. Plain arithmetic: V = π/4 D² h − A_post h.

        Raises
        ------
        TakeoffError : the post's size is missing, or it does not go into the hole
        """
        hole = cylinder_m3(self.diameter_mm, self.depth_mm)
        given = (mm("bore", self.diameter_mm), mm("depth", self.depth_mm))
        if self.post == "none":
            return hole, mark("π/4 × bore² × depth"), given
        if self.post_mm is None:
            raise missing("post_mm", "How thick is the post? Measure it, or choose “no post”.")
        across_mm = self.post_mm * (2**0.5 if self.post == "square" else 1.0)
        if across_mm >= self.diameter_mm:
            raise does_not_fit(
                "The post measures {value} across its widest and the hole only {limit}.",
                "Check which of the two is the hole.",
                "post_mm",
                across_mm,
                self.diameter_mm,
            )
        if self.post == "square":
            post = box_m3(self.post_mm, self.post_mm, self.depth_mm)
            formula = mark("π/4 × bore² × depth − post² × depth")
        else:
            post = cylinder_m3(self.post_mm, self.depth_mm)
            formula = mark("π/4 × (bore² − post²) × depth")
        return hole - post, formula, (*given, mm("post", self.post_mm))


class Cylinder(Item):
    """A round column, pad or cup."""

    kind: Literal["cylinder"] = "cylinder"
    diameter_mm: Length
    height_mm: Length

    def volume(self) -> Volumed:
        """Volume of one [m³]. Plain arithmetic: V = π/4 D² h."""
        given = (mm("diameter", self.diameter_mm), mm("height", self.height_mm))
        return cylinder_m3(self.diameter_mm, self.height_mm), mark("π/4 × diameter² × height"), given


class Column(Item):
    """A column, pier or pad with straight sides: rectangular, or with equal sides all round."""

    kind: Literal["column"] = "column"
    section: Literal["rectangle", "equal sides"] = "rectangle"
    length_mm: Length | None = None
    width_mm: Length | None = None
    sides: int = Field(6, ge=3, le=60)
    across_mm: Length | None = None
    """Width across the flats."""
    height_mm: Length

    def volume(self) -> Volumed:
        """Volume of one [m³]. Plain arithmetic: V = A h; A = n r² tan(π/n) for equal sides.

        Raises
        ------
        TakeoffError : a measure this section needs is missing
        """
        height = mm("height", self.height_mm)
        if self.section == "rectangle":
            if self.length_mm is None or self.width_mm is None:
                raise missing("length_mm" if self.length_mm is None else "width_mm")
            given = (mm("length", self.length_mm), mm("width", self.width_mm), height)
            return box_m3(self.length_mm, self.width_mm, self.height_mm), mark("length × width × height"), given
        if self.across_mm is None:
            raise missing("across_mm")
        area = regular_area_mm2(self.sides, self.across_mm)
        given = (Given("sides", self.sides, ""), mm("across the flats", self.across_mm), height)
        return area * self.height_mm * 1e-9, mark("sides × (across / 2)² × tan(180° / sides) × height"), given


class Tube(Item):
    """A ring or pipe: round outside, round inside."""

    kind: Literal["tube"] = "tube"
    outer_mm: Length
    inner_mm: Length
    height_mm: Length

    def volume(self) -> Volumed:
        """Volume of one [m³]. Plain arithmetic: V = π/4 (D² − d²) h.

        Raises
        ------
        TakeoffError : the inside is not smaller than the outside
        """
        if self.inner_mm >= self.outer_mm:
            raise does_not_fit(
                "The inside measures {value} and the outside only {limit}.",
                "Check which of the two is the outside.",
                "inner_mm",
                self.inner_mm,
                self.outer_mm,
            )
        given = (mm("outside", self.outer_mm), mm("inside", self.inner_mm), mm("height", self.height_mm))
        ring = cylinder_m3(self.outer_mm, self.height_mm) - cylinder_m3(self.inner_mm, self.height_mm)
        return ring, mark("π/4 × (outside² − inside²) × height"), given


class Cone(Item):
    """A cone, or a cone cut off: pail, cup, tapered pier."""

    kind: Literal["cone"] = "cone"
    lower_mm: LengthOrNone
    upper_mm: LengthOrNone
    height_mm: Length

    def volume(self) -> Volumed:
        """Volume of one [m³]. Plain arithmetic: V = π h (R² + R r + r²) / 3.

        Raises
        ------
        TakeoffError : both diameters are nothing
        """
        if not self.lower_mm and not self.upper_mm:
            raise does_not_fit("Both ends are points: there is nothing to fill.", "Measure one across.", "lower_mm")
        given = (mm("lower diameter", self.lower_mm), mm("upper diameter", self.upper_mm), mm("height", self.height_mm))
        return frustum_m3(self.lower_mm, self.upper_mm, self.height_mm), mark("π × height × (R² + R r + r²) / 3"), given


class Tub(Item):
    """A rectangular tub or pier whose sides slope; a wedge or pyramid where one end is narrow."""

    kind: Literal["tub"] = "tub"
    lower_length_mm: LengthOrNone
    lower_width_mm: LengthOrNone
    upper_length_mm: LengthOrNone
    upper_width_mm: LengthOrNone
    height_mm: Length

    def volume(self) -> Volumed:
        """Volume of one [m³]. Plain arithmetic: V = h/6 [(2 a₁ + a₂) b₁ + (2 a₂ + a₁) b₂].

        Raises
        ------
        TakeoffError : the measures enclose nothing
        """
        lower, upper = (self.lower_length_mm, self.lower_width_mm), (self.upper_length_mm, self.upper_width_mm)
        found = taper_m3(lower, upper, self.height_mm)
        if found <= 0:
            raise does_not_fit("These measures enclose nothing.", "Measure one end again.", "lower_length_mm")
        given = (
            mm("lower length a₁", lower[0]), mm("lower width b₁", lower[1]), mm("upper length a₂", upper[0]),
            mm("upper width b₂", upper[1]), mm("height h", self.height_mm),
        )  # fmt: skip
        return found, mark("h/6 × ((2 a₁ + a₂) × b₁ + (2 a₂ + a₁) × b₂)"), given


class Ball(Item):
    """A ball, or the cap of one from its crown down: a dome's form, a finial."""

    kind: Literal["ball"] = "ball"
    diameter_mm: Length
    height_mm: Length | None = None
    """Of a cap; empty means the whole ball."""

    def volume(self) -> Volumed:
        """Volume of one [m³]. Plain arithmetic: V = π h² (3 R − h) / 3.

        Raises
        ------
        TakeoffError : the cap is higher than the ball
        """
        height = self.height_mm if self.height_mm is not None else self.diameter_mm
        if height > self.diameter_mm:
            raise does_not_fit(
                "The cap is {value} high, the whole ball only {limit}.",
                "Check the two, or measure across again.",
                "height_mm",
                height,
                self.diameter_mm,
            )
        given = (mm("diameter", self.diameter_mm), mm("height", height))
        return cap_m3(self.diameter_mm, height), mark("π × height² × (3 × diameter / 2 − height) / 3"), given


class Prism(Item):
    """A triangular prism: fillet, ramp, ridge, splay."""

    kind: Literal["prism"] = "prism"
    base_mm: Length
    height_mm: Length
    """Square to the base."""
    length_mm: Length

    def volume(self) -> Volumed:
        """Volume of one [m³]. Plain arithmetic: V = b h l / 2."""
        given = (mm("base", self.base_mm), mm("height", self.height_mm), mm("length", self.length_mm))
        return box_m3(self.base_mm, self.height_mm, self.length_mm) / 2, mark("base × height × length / 2"), given
