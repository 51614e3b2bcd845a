"""The shapes a person can measure, each with the volume it asks for."""

from typing import Annotated, ClassVar, Literal

from pydantic import Discriminator, Field, Tag

from keeve.core.errors import Code, Fault, Frozen, TakeoffError
from keeve.core.takeoff.solids import box_m3, cylinder_m3
from keeve.core.units import Length, Share, Volume, Waste
from keeve.core.working import Given

Volumed = tuple[float, str, tuple[Given, ...]]
"""A volume [m³], its formula, and what went into it."""


class _Item(Frozen):
    default_waste_percent: ClassVar[float | None] = None
    """Waste of this kind of work where the mix's own allowance is too small."""

    note: str = Field("", max_length=120)
    count: int = Field(1, ge=1, le=1000)
    """How many alike."""
    waste_percent: Waste | None = None
    """Own waste allowance; empty means the job's."""


class Slab(_Item):
    """A slab, floor or screed: rectangle by mean thickness."""

    kind: Literal["slab"] = "slab"
    length_mm: Length
    width_mm: Length
    depth_mm: Length

    def volume(self) -> Volumed:
        """Volume of one [m³], its formula and inputs. Plain arithmetic: V = l w d."""
        given = (
            Given("length", self.length_mm, "mm"),
            Given("width", self.width_mm, "mm"),
            Given("depth", self.depth_mm, "mm"),
        )
        return box_m3(self.length_mm, self.width_mm, self.depth_mm), "length × width × depth", given


class BoredHole(_Item):
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
        given = (Given("bore", self.diameter_mm, "mm"), Given("depth", self.depth_mm, "mm"))
        if self.post == "none":
            return hole, "π/4 × bore² × depth", given
        if self.post_mm is None:
            raise TakeoffError(
                Fault(Code.MISSING, "How thick is the post?", "Measure it, or choose “no post”.", "post_mm")
            )
        across_mm = self.post_mm * (2**0.5 if self.post == "square" else 1.0)
        if across_mm >= self.diameter_mm:
            raise TakeoffError(
                Fault(
                    Code.DOES_NOT_FIT,
                    "The post measures {value} across its widest and the hole only {limit}.",
                    "Check which of the two is the hole.",
                    "post_mm",
                    across_mm,
                    self.diameter_mm,
                    "mm",
                )
            )
        if self.post == "square":
            post = box_m3(self.post_mm, self.post_mm, self.depth_mm)
            formula = "π/4 × bore² × depth − post² × depth"
        else:
            post = cylinder_m3(self.post_mm, self.depth_mm)
            formula = "π/4 × (bore² − post²) × depth"
        return hole - post, formula, (*given, Given("post", self.post_mm, "mm"))


class Cylinder(_Item):
    """A round column, pad or cup."""

    kind: Literal["cylinder"] = "cylinder"
    diameter_mm: Length
    height_mm: Length

    def volume(self) -> Volumed:
        """Volume of one [m³]. Plain arithmetic: V = π/4 D² h."""
        given = (Given("diameter", self.diameter_mm, "mm"), Given("height", self.height_mm, "mm"))
        return cylinder_m3(self.diameter_mm, self.height_mm), "π/4 × diameter² × height", given


class Body(Frozen):
    """A container, or the model that stands in it: a box, a cylinder, or a volume already known."""

    form: Literal["box", "cylinder", "volume"] = "box"
    length_mm: Length | None = None
    width_mm: Length | None = None
    height_mm: Length | None = None
    diameter_mm: Length | None = None
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
        needs = {
            "box": ("length_mm", "width_mm", "height_mm"),
            "cylinder": ("diameter_mm", "height_mm"),
            "volume": ("volume_l",),
        }[self.form]
        absent = [name for name in needs if getattr(self, name) is None]
        if absent:
            raise TakeoffError(
                *(Fault(Code.MISSING, "This is still to be measured.", "", f"{what}.{name}") for name in absent)
            )
        measures = [float(getattr(self, name)) for name in needs]
        if self.form == "box":
            return box_m3(*measures)
        return cylinder_m3(*measures) if self.form == "cylinder" else measures[0] / 1000


class Mould(_Item):
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
            raise TakeoffError(
                Fault(
                    Code.DOES_NOT_FIT,
                    "The model ({value}) is bigger than its container ({limit}).",
                    "Check that the two are not exchanged, and their units.",
                    f"model.{self._last_measure()}",
                    inside * 1000,
                    outside * 1000,
                    "L",
                )
            )
        if self.model:
            self._refuse_a_model_that_sticks_out()
        given = (
            Given("container", outside * 1000, "L"),
            Given("model", inside * 1000, "L"),
            Given("share", self.share_percent, "%"),
        )
        return (outside - inside) * self.share_percent / 100, "(container − model) × share", given

    def _last_measure(self) -> str:
        form = self.model.form if self.model else "volume"
        return "volume_l" if form == "volume" else "height_mm"

    def _refuse_a_model_that_sticks_out(self) -> None:
        model = self.model
        if model is None or self.container.height_mm is None or model.height_mm is None:
            return
        if "volume" not in (self.container.form, model.form) and model.height_mm > self.container.height_mm:
            raise TakeoffError(
                Fault(
                    Code.DOES_NOT_FIT,
                    "The model stands {value} high, the container only {limit}.",
                    "The cast must cover the model: use a deeper container.",
                    "model.height_mm",
                    model.height_mm,
                    self.container.height_mm,
                    "mm",
                )
            )


class KnownVolume(_Item):
    """A volume found some other way: by water, by weighing, from a drawing."""

    kind: Literal["known"] = "known"
    volume_l: Volume

    def volume(self) -> Volumed:
        """Volume of one [m³], as given."""
        return self.volume_l / 1000, "as given", (Given("volume", self.volume_l, "L"),)


def _kind(value: object) -> str | None:
    kind = value.get("kind") if isinstance(value, dict) else getattr(value, "kind", None)
    return f":{kind}" if kind else None


Shape = Annotated[
    Annotated[Slab, Tag(":slab")]
    | Annotated[BoredHole, Tag(":bored_hole")]
    | Annotated[Cylinder, Tag(":cylinder")]
    | Annotated[Mould, Tag(":mould")]
    | Annotated[KnownVolume, Tag(":known")],
    Discriminator(_kind),
]
