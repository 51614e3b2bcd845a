"""What stands in the form of each shape: its name, its fields, and when a field is asked for."""

from dataclasses import dataclass
from typing import Final

from keeve.core.message.said import Said, Words, mark
from keeve.core.proportions.asked import Beside


@dataclass(frozen=True, slots=True)
class Ask:
    """One field."""

    name: str
    label: str
    unit: Beside = "near"
    hint: str = ""
    when: tuple[str, ...] = ()
    """Ways of the shape for which it is asked; empty for all."""
    begins: str = ""
    wide: bool = False
    options: tuple[tuple[str, str], ...] = ()
    """A field that is written in has none."""


@dataclass(frozen=True, slots=True)
class Pick:
    """A choice between a few ways; `decides` where other fields hang on it."""

    name: str
    label: str
    options: tuple[tuple[str, str], ...]
    decides: bool = False

    @property
    def begins(self) -> str:
        """What is chosen at first."""
        return self.options[0][0]


@dataclass(frozen=True, slots=True)
class Form:
    """The form of one kind of shape."""

    kind: str
    button: str
    title: str
    asks: tuple[Ask | Pick, ...]

    @property
    def decider(self) -> Pick | None:
        """The choice on which other fields hang."""
        return next((ask for ask in self.asks if isinstance(ask, Pick) and ask.decides), None)


def _form(kind: str, button: str, title: str, *asks: Ask | Pick) -> Form:
    return Form(kind, button, title, asks)


_WALL = (Ask("length_mm", "Length", "far"), Ask("height_mm", "Height", "far"))
_OPENINGS = Ask("openings_m2", "Openings", "area", hint="Doors and windows: 2*1.1 + 0.8")

GROUPS: Final[tuple[tuple[str, tuple[Form, ...]], ...]] = (
    (
        mark("Floors and footings"),
        (
            _form(
                "slab", "Slab, floor", "Slab or floor",
                Ask("length_mm", "Length", "far"), Ask("width_mm", "Width", "far"), Ask("depth_mm", "Depth, mean"),
            ),
            _form(
                "floor", "Floor, any outline", "Floor by its corners",
                Ask("corners", "Corners, walking round", "", "0 0; 4.2 0; 4.2 3.1", wide=True),
                Ask("holes", "Holes in it", "", "Corners likewise; several with / between.", wide=True),
                Pick("unit", "Corners in", (("m", "m"), ("cm", "cm"), ("mm", "mm"), ("ft", "ft"), ("in", "in"))),
                Ask("depth_mm", "Depth, mean"),
            ),
            _form(
                "depths", "Uneven ground", "Floor by depths read on a grid",
                Ask("length_mm", "Length", "far"), Ask("width_mm", "Width", "far"),
                Ask("readings", "Depths, row by row", "", "95 100 110; 90 95 105, in mm", wide=True),
                Pick("read_at", "Read", (("edges and between", "at the edges and between"), ("anywhere", "anywhere"))),
            ),
            _form(
                "fall", "Floor to a fall", "Floor or screed to a fall",
                Ask("length_mm", "Length", "far"), Ask("width_mm", "Width", "far"),
                Ask("low_mm", "Thin end"), Ask("high_mm", "Thick end"),
                Ask("far_low_mm", "Thin end, far corner", hint="Only where it falls crosswise too."),
                Ask("far_high_mm", "Thick end, far corner"),
            ),
            _form(
                "strip", "Strip, trench", "Strip footing, trench or wall",
                Ask("length_mm", "Length", "far", "Legs add up: 3.2 + 4.1 + 3.2"), Ask("width_mm", "Width"),
                Ask("depth_mm", "Depth"),
            ),
            _form(
                "kerb", "Kerb, haunch", "Kerb, edging or haunch",
                Ask("length_mm", "Length", "far"), Ask("top_mm", "Top, wide"), Ask("foot_mm", "Foot, wide"),
                Ask("height_mm", "Height"),
            ),
            _form(
                "stair", "Stair", "Flight of steps",
                Ask("steps", "Steps", ""), Ask("going_mm", "Going"), Ask("rise_mm", "Rise"), Ask("width_mm", "Width"),
                Ask("waist_mm", "Waist", hint="Thick under the steps; 0 on solid ground."),
                Ask("landing_mm", "Landing, long"), Ask("landing_thick_mm", "Landing, thick"),
            ),
        ),
    ),
    (
        mark("Standing"),
        (
            _form(
                "bored_hole", "Post hole", "Bored hole, less its post",
                Ask("diameter_mm", "Bore"), Ask("depth_mm", "Depth"),
                Pick("post", "Post", (("square", "Square"), ("round", "Round"), ("none", "No post")), decides=True),
                Ask("post_mm", "Post, thick", when=("square", "round")),
            ),
            _form(
                "cylinder", "Round column", "Round column or cup",
                Ask("diameter_mm", "Diameter"), Ask("height_mm", "Height"),
            ),
            _form(
                "column", "Pier, pad", "Column, pier or pad",
                Pick(
                    "section", "Seen from above",
                    (("rectangle", "Rectangle"), ("equal sides", "Equal sides")),
                    decides=True,
                ),
                Ask("length_mm", "Length", when=("rectangle",)), Ask("width_mm", "Width", when=("rectangle",)),
                Ask("sides", "Sides", "", when=("equal sides",), begins="6"),
                Ask("across_mm", "Across the flats", when=("equal sides",)), Ask("height_mm", "Height"),
            ),
            _form(
                "tube", "Ring, pipe", "Ring or pipe",
                Ask("outer_mm", "Outside, across"), Ask("inner_mm", "Inside, across"), Ask("height_mm", "Height"),
            ),
            _form(
                "cone", "Pail, cone", "Cone or pail form",
                Ask("lower_mm", "Across, bottom"), Ask("upper_mm", "Across, top"), Ask("height_mm", "Height"),
            ),
            _form(
                "tub", "Tapered tub", "Tub or pier with sloping sides",
                Ask("lower_length_mm", "Bottom, long"), Ask("lower_width_mm", "Bottom, wide"),
                Ask("upper_length_mm", "Top, long"), Ask("upper_width_mm", "Top, wide"), Ask("height_mm", "Height"),
            ),
            _form(
                "ball", "Ball, dome", "Ball or its cap",
                Ask("diameter_mm", "Ball, across"), Ask("height_mm", "Cap, high", hint="Empty: the whole ball."),
            ),
            _form(
                "prism", "Ridge, fillet", "Three-sided prism",
                Ask("base_mm", "Base"), Ask("height_mm", "Height"), Ask("length_mm", "Length", "far"),
            ),
        ),
    ),
    (
        mark("Walls"),
        (
            _form(
                "coat", "Coat on a wall", "Coats of render or plaster",
                *_WALL, _OPENINGS, Ask("thickness_mm", "Thickness", hint="Coats add up: 10 + 8"),
                Pick(
                    "ground", "Ground",
                    (("smooth", "smooth"), ("block", "block"), ("lath or stone", "lath or rough stone")),
                ),
            ),
            _form(
                "masonry", "Laying mortar", "Mortar between bricks, blocks or stones",
                *_WALL, _OPENINGS, Ask("units", "Or: how many are laid", ""),
                Ask("unit_length_mm", "Unit, long"), Ask("unit_height_mm", "Unit, high"), Ask("leaf_mm", "Leaf, thick"),
                Ask("joint_mm", "Joint"), Ask("leaves", "Leaves", "", begins="1"),
                Ask("collar_mm", "Joint between leaves", hint="Empty for a cavity."),
                Ask("frog_l", "Frog, each", "litres"),
            ),
            _form(
                "pointing", "Pointing", "Joints to point",
                Pick("by", "Measured by", (("wall", "Wall and stone"), ("joints", "Length of joints")), decides=True),
                Ask("area_m2", "Wall", "area", when=("wall",)),
                Ask("unit_length_mm", "Stone, long", when=("wall",)),
                Ask("unit_height_mm", "Stone, high", when=("wall",)),
                Ask("joints_mm", "Joints, all", "far", when=("joints",)),
                Ask("joint_mm", "Joint, wide"), Ask("depth_mm", "Raked out, deep"),
            ),
            _form(
                "infill", "Panel infill", "Infill between studs",
                *_WALL, _OPENINGS, Ask("thickness_mm", "Thickness"), Ask("studs", "Studs", "", begins="0"),
                Ask("stud_width_mm", "Stud, wide"), Ask("stud_depth_mm", "Stud in it, deep"),
            ),
        ),
    ),
    (
        mark("Moulds and volumes"),
        (
            _form("mould", "Mould", "Mould: container less model"),
            _form(
                "displaced", "By water", "Volume by the rise of water",
                Pick("tub", "Tub, straight", (("rectangle", "Rectangle"), ("round", "Round")), decides=True),
                Ask("length_mm", "Long, inside", when=("rectangle",)),
                Ask("width_mm", "Wide, inside", when=("rectangle",)),
                Ask("diameter_mm", "Across, inside", when=("round",)),
                Ask("before_mm", "Water before"), Ask("after_mm", "Water after"),
            ),
            _form(
                "weighed", "By weighing", "Volume by filling and weighing",
                Pick("filled_with", "Filled with", (("water", "Water"), ("sand", "Dry sand")), decides=True),
                Ask("full_kg", "Full", "mass"), Ask("empty_kg", "Empty", "mass"),
                Ask("fill_kg_l", "A litre of the sand", "", "kg, weighed in a measure one knows", when=("sand",)),
            ),
            _form("known", "Known volume", "Volume already known", Ask("volume_l", "Volume", "litres")),
            _form(
                "scan", "", "Model read from a file",
                Ask("name", "File", "", wide=True),
                Pick(
                    "cast", "What is poured",
                    (("box", "Mould in a box"), ("round", "Mould in a tube"), ("model", "The model itself")),
                    decides=True,
                ),
                Ask("clearance_mm", "Clear on each side", when=("box", "round"), begins="25"),
                Ask("under_mm", "Under it", when=("box", "round"), begins="0"),
                Ask("over_mm", "Over it", hint="Up to the pour level.", when=("box", "round"), begins="25"),
                Ask("scale_percent", "Made at", "", "% of the file", begins="100"),
            ),
        ),
    ),
)  # fmt: skip

FORMS: Final[dict[str, Form]] = {form.kind: form for _, forms in GROUPS for form in forms}
SHARED_MOULDS: Final = ("mould", "scan")
"""Kinds of which a share may be cast in one pour."""


_BODIES: Final = {"container": mark("Container"), "model": mark("Model in it")}
_MEASURES: Final = {
    "length_mm": mark("Length"),
    "width_mm": mark("Width"),
    "height_mm": mark("Height"),
    "diameter_mm": mark("Diameter"),
    "lower_mm": mark("Across, bottom"),
    "upper_mm": mark("Across, top"),
}


def label_of(kind: str, field: str) -> Words:
    """Say what a field is called in the form, for a sentence."""
    head, _, tail = field.partition(".")
    if tail:
        return Said("{body}: {measure}", body=_BODIES.get(head, head), measure=_MEASURES.get(tail, tail))
    asks = FORMS[kind].asks if kind in FORMS else ()
    return next((ask.label for ask in asks if ask.name == field), field.removesuffix("_mm").replace("_", " "))


GROUNDS: Final = {"smooth": mark("smooth"), "block": mark("block"), "lath or stone": mark("lath or rough stone")}


def form_of(kind: object) -> Form | None:
    """Find the form of a kind of shape, whatever somebody sent for it."""
    return FORMS.get(kind) if isinstance(kind, str) else None


def title_of(kind: object) -> str:
    """Say what a kind of shape is called."""
    form = form_of(kind)
    return form.title if form else mark("Shape")
