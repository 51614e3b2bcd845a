"""Moulds, and volumes found by water, by weighing, or known already."""

from typing import ClassVar, Literal

from pydantic import Field

from keeve.core.measure.quantities import Length, LengthOrNone, Mass, Plain, Share, Volume
from keeve.core.message.errors import TakeoffError
from keeve.core.message.said import mark
from keeve.core.message.working import Given
from keeve.core.takeoff.item import Item, Measured, Volumed, does_not_fit, missing, mm
from keeve.core.takeoff.solids import box_m3, cylinder_m3, frustum_m3

_NEEDS = {
    "box": ("length_mm", "width_mm", "height_mm"),
    "cylinder": ("diameter_mm", "height_mm"),
    "pail": ("lower_mm", "upper_mm", "height_mm"),
    "volume": ("volume_l",),
}


class Body(Measured):
    """A container, or the model that stands in it: box, cylinder, pail, or a volume already known."""

    form: Literal["box", "cylinder", "pail", "volume"] = "box"
    length_mm: Length | None = None
    width_mm: Length | None = None
    height_mm: Length | None = None
    diameter_mm: Length | None = None
    lower_mm: Length | None = None
    """Inside diameter of a pail at the bottom."""
    upper_mm: Length | None = None
    volume_l: Volume | None = None

    def cubic_metres(self, what: str) -> float:
        """Volume [m³]. Plain arithmetic.

        Parameters
        ----------
        what : the field this body stands in, for the sentence that refuses

        Raises
        ------
        TakeoffError : a measure this form needs is missing
        """
        needs = _NEEDS[self.form]
        absent = [name for name in needs if getattr(self, name) is None]
        if absent:
            raise TakeoffError(*(missing(f"{what}.{name}").faults[0] for name in absent))
        measures = [float(getattr(self, name)) for name in needs]
        if self.form == "box":
            return box_m3(*measures)
        if self.form == "pail":
            return frustum_m3(*measures)
        return cylinder_m3(*measures) if self.form == "cylinder" else measures[0] / 1000


class Mould(Item):
    """The room between a container and the model in it, or a share of that room."""

    kind: Literal["mould"] = "mould"
    container: Body
    model: Body | None = None
    share_percent: Share = 100.0
    """Share cast in this pour: 50 for one half of a two-part mould."""

    def volume(self) -> Volumed:
        """Volume of one pour [m³]. Plain arithmetic: V = share (V_container − V_model).

        Raises
        ------
        TakeoffError : a measure is missing, or the model is bigger than its container
        """
        outside = self.container.cubic_metres("container")
        inside = self.model.cubic_metres("model") if self.model else 0.0
        if inside >= outside:
            raise does_not_fit(
                "The model ({value}) is bigger than its container ({limit}).",
                "Check that the two are not exchanged, and their units.",
                f"model.{self._last_measure()}",
                inside * 1000,
                outside * 1000,
                "L",
            )
        if self.model:
            self._refuse_a_model_that_sticks_out()
        given: tuple[Given, ...] = (
            Given("container", outside * 1000, "L"),
            Given("model", inside * 1000, "L"),
            Given("share", self.share_percent, "%"),
        )
        return (outside - inside) * self.share_percent / 100, mark("(container − model) × share"), given

    def _last_measure(self) -> str:
        form = self.model.form if self.model else "volume"
        return "volume_l" if form == "volume" else "height_mm"

    def _refuse_a_model_that_sticks_out(self) -> None:
        model = self.model
        if model is None or self.container.height_mm is None or model.height_mm is None:
            return
        if "volume" not in (self.container.form, model.form) and model.height_mm > self.container.height_mm:
            raise does_not_fit(
                "The model stands {value} high, the container only {limit}.",
                "The cast must cover the model: use a deeper container.",
                "model.height_mm",
                model.height_mm,
                self.container.height_mm,
            )


class Displaced(Item):
    """A volume found with water: how far it rises in a straight tub when the thing goes in."""

    kind: Literal["displaced"] = "displaced"
    tub: Literal["rectangle", "round"] = "rectangle"
    length_mm: Length | None = None
    width_mm: Length | None = None
    diameter_mm: Length | None = None
    before_mm: LengthOrNone
    """Height of the water before."""
    after_mm: Length
    """With the thing wholly under."""

    def volume(self) -> Volumed:
        """Volume of one [m³]. Plain arithmetic: V = A (after − before), A the inside of the straight tub.

        Raises
        ------
        TakeoffError : the tub's measures are missing, or the water did not rise
        """
        rise = self.after_mm - self.before_mm
        if rise <= 0:
            raise does_not_fit(
                "The water stood {limit} before and {value} after: it must rise.",
                "Check that the two readings are not exchanged.",
                "after_mm",
                self.after_mm,
                self.before_mm,
            )
        given: tuple[Given, ...]
        if self.tub == "round":
            if self.diameter_mm is None:
                raise missing("diameter_mm")
            given = (mm("tub across", self.diameter_mm), mm("rise", rise))
            return cylinder_m3(self.diameter_mm, rise), mark("π/4 × across² × rise"), given
        if self.length_mm is None or self.width_mm is None:
            raise missing("length_mm" if self.length_mm is None else "width_mm")
        given = (mm("tub, long", self.length_mm), mm("tub, wide", self.width_mm), mm("rise", rise))
        return box_m3(self.length_mm, self.width_mm, rise), mark("long × wide × rise"), given


class Weighed(Item):
    """A volume found by filling the mould with water or dry sand and weighing it."""

    kind: Literal["weighed"] = "weighed"
    full_kg: Mass
    empty_kg: Mass
    filled_with: Literal["water", "sand"] = "water"
    fill_kg_l: Plain | None = Field(None, le=20)
    """Loose weight of the sand used, weighed in a measure one knows [kg/L]."""

    def volume(self) -> Volumed:
        """Volume of one [m³]. Plain arithmetic: V = (full − empty) / ρ; water 1.000 kg/L within 0.3 % to 25 °C.

        Raises
        ------
        TakeoffError : full is not heavier than empty, or the sand's weight is missing
        """
        if self.full_kg <= self.empty_kg:
            raise does_not_fit(
                "Full it weighs {value}, empty {limit}.",
                "Check that the two readings are not exchanged.",
                "full_kg",
                self.full_kg,
                self.empty_kg,
                "kg",
            )
        if self.filled_with == "sand" and self.fill_kg_l is None:
            raise missing(
                "fill_kg_l", "What does a litre of this sand weigh? Fill a measure of known size and weigh it."
            )
        density = 1.0 if self.filled_with == "water" else float(self.fill_kg_l or 1.0)
        given = (
            Given("full", self.full_kg, "kg"),
            Given("empty", self.empty_kg, "kg"),
            Given("a litre of the fill", density, "kg"),
        )
        return (self.full_kg - self.empty_kg) / density / 1000, mark("(full − empty) / weight of a litre"), given


class KnownVolume(Item):
    """A volume found some other way: by hand, from a drawing, from a label; so many times."""

    kind: Literal["known"] = "known"
    volume_l: Volume

    def volume(self) -> Volumed:
        """Volume of one [m³], as given."""
        return self.volume_l / 1000, mark("as given"), (Given("volume", self.volume_l, "L"),)


class Scan(Item):
    """A model read from a mesh, and what is cast around it or in its shape."""

    certain: ClassVar[frozenset[str]] = frozenset({"size_x_mm", "size_y_mm", "size_z_mm"})

    kind: Literal["scan"] = "scan"
    name: str = Field("", max_length=120)
    """Of the file it was read from."""
    model_l: Volume
    """Volume of the model at the size in the file."""
    size_x_mm: Length
    size_y_mm: Length
    size_z_mm: Length
    scale_percent: Plain = Field(100.0, ge=1, le=10_000)
    """How much bigger or smaller than the file it is made."""
    cast: Literal["model", "box", "round"] = "box"
    """What is poured: the model itself, or the mould in a box or a cylinder round it."""
    clearance_mm: LengthOrNone = 25.0
    """Between model and container, on every side."""
    under_mm: LengthOrNone = 0.0
    """Under the model; 0 where it stands on the board."""
    over_mm: LengthOrNone = 25.0
    """Over the model's highest point, up to the pour level."""
    share_percent: Share = 100.0
    outline: str = Field("", max_length=40_000)
    """Its view from the front, for the drawing: rows of shaded runs."""

    def room_mm(self) -> tuple[float, float, float]:
        """Inside of the container [mm]: two sides (or twice the diameter) and the pour level. Plain arithmetic."""
        k = self.scale_percent / 100
        x, y, z = (side * k for side in (self.size_x_mm, self.size_y_mm, self.size_z_mm))
        up = z + self.under_mm + self.over_mm
        if self.cast == "round":
            across = (x * x + y * y) ** 0.5 + 2 * self.clearance_mm
            return across, across, up
        return x + 2 * self.clearance_mm, y + 2 * self.clearance_mm, up

    def volume(self) -> Volumed:
        """Volume of one pour [m³].

        Raises
        ------
        TakeoffError : the model's volume is more than its own bounds hold

        Notes
        -----
        The model: V k³. In a container: share × (V_container − V k³), a box or cylinder with the clearance all round.

        References
        ----------
        Plain arithmetic.
        """
        k = self.scale_percent / 100
        model = self.model_l / 1000 * k**3
        if self.model_l / 1000 > box_m3(self.size_x_mm, self.size_y_mm, self.size_z_mm) * (1 + 1e-6):
            raise does_not_fit(
                "The model ({value}) is said to be bigger than the box it just fits into ({limit}).",
                "Read the file again.",
                "model_l",
                self.model_l,
                box_m3(self.size_x_mm, self.size_y_mm, self.size_z_mm) * 1000,
                "L",
            )
        given: tuple[Given, ...] = (Given("model", model * 1000, "L"), Given("share", self.share_percent, "%"))
        if self.cast == "model":
            return model * self.share_percent / 100, mark("model × share"), given
        wide, deep, up = self.room_mm()
        room = cylinder_m3(wide, up) if self.cast == "round" else box_m3(wide, deep, up)
        given = (Given("container", room * 1000, "L"), *given)
        return (room - model) * self.share_percent / 100, mark("(container − model) × share"), given
