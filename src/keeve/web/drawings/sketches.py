"""Draws the shapes of a sheet one by one, measured or not: a sketch has a letter for each of its measures."""

from dataclasses import dataclass
from functools import cache
from typing import Any, Final

from pydantic import TypeAdapter, ValidationError

from keeve.catalogue.trying import Tried, pruned
from keeve.core.message.errors import Code, TradeError
from keeve.core.takeoff.shapes import Shape
from keeve.web.drawings.common import hatch_of
from keeve.web.pages.shape_forms import FORMS, Ask
from keeve.words.beside import MEANT

_SHAPE: Final[TypeAdapter[Any]] = TypeAdapter(Shape)
_BRICK: Final = {"unit_length_mm": 215, "unit_height_mm": 65, "joint_mm": 14}
# No two lengths of one shape are alike, so that each can be told by its letter.
SAMPLES: Final[dict[str, dict[str, Any]]] = {
    "slab": {"length_mm": 4000, "width_mm": 2600, "depth_mm": 300},
    "floor": {"corners": "0 0; 5.2 0; 5.2 2.6; 3.1 2.6; 3.1 4.4; 0 4.4", "unit": "m", "depth_mm": 310},
    "depths": {"length_mm": 4000, "width_mm": 2600, "readings": "95 100 110; 90 95 105"},
    "fall": {"length_mm": 3900, "width_mm": 1500, "low_mm": 200, "high_mm": 430},
    "strip": {"length_mm": 4100, "width_mm": 900, "depth_mm": 600},
    "kerb": {"length_mm": 900, "top_mm": 125, "foot_mm": 240, "height_mm": 255},
    "stair": {"steps": 4, "going_mm": 280, "rise_mm": 170, "width_mm": 1100, "waist_mm": 120, "landing_mm": 620,
              "landing_thick_mm": 130},
    "bored_hole": {"diameter_mm": 350, "depth_mm": 640, "post": "square", "post_mm": 120},
    "cylinder": {"diameter_mm": 400, "height_mm": 620},
    "column": {"section": "rectangle", "length_mm": 400, "width_mm": 300, "height_mm": 620},
    "tube": {"outer_mm": 500, "inner_mm": 300, "height_mm": 420},
    "cone": {"lower_mm": 300, "upper_mm": 520, "height_mm": 400},
    "tub": {"lower_length_mm": 420, "lower_width_mm": 260, "upper_length_mm": 620, "upper_width_mm": 380,
            "height_mm": 350},
    "ball": {"diameter_mm": 500, "height_mm": 180},
    "prism": {"base_mm": 300, "height_mm": 210, "length_mm": 900},
    "coat": {"length_mm": 5000, "height_mm": 2900, "openings_m2": 2.2, "thickness_mm": 12, "ground": "smooth"},
    "masonry": {"length_mm": 4000, "height_mm": 1300, "leaf_mm": 102.5} | _BRICK,
    "pointing": {"by": "wall", "area_m2": 12, "depth_mm": 25} | _BRICK,
    "infill": {"length_mm": 2400, "height_mm": 1900, "thickness_mm": 200, "studs": 3, "stud_width_mm": 90,
               "stud_depth_mm": 100},
    "mould": {"container": {"form": "box", "length_mm": 340, "width_mm": 260, "height_mm": 250},
              "model": {"form": "volume", "volume_l": 6}},
    "displaced": {"tub": "rectangle", "length_mm": 500, "width_mm": 400, "before_mm": 180, "after_mm": 260},
    "weighed": {"filled_with": "water", "full_kg": 12, "empty_kg": 1},
    "known": {"volume_l": 20},
}  # fmt: skip
_LETTERS: Final = "ABCDEFGHJKLMN"


@cache
def letters(kind: str) -> dict[str, str]:
    """Give each length that is asked for its letter, in the order of the form.

    >>> letters("bored_hole")
    {'diameter_mm': 'A', 'depth_mm': 'B', 'post_mm': 'C'}
    """
    form = FORMS.get(kind)
    if kind == "mould":
        return {"container.length_mm": "A", "container.width_mm": "B", "container.height_mm": "C"}
    asks = [ask.name for ask in form.asks if isinstance(ask, Ask) and ask.unit in ("near", "far")] if form else []
    return dict(zip(asks, _LETTERS, strict=False))


@cache
def sample(kind: str) -> Any:
    """Return the shape whose sketch is drawn for a kind; None for one that is never empty."""
    given = SAMPLES.get(kind)
    return _SHAPE.validate_python({"kind": kind} | given) if given is not None else None


def lengths(shape: Any, kind: str) -> dict[float, str]:
    """Name the lengths of a shape by their fields [mm]; of two that are alike the first counts."""
    found: dict[float, str] = {}
    for field in letters(kind):
        value: Any = shape
        for part in field.split("."):
            value = getattr(value, part, None)
        if isinstance(value, int | float):
            found.setdefault(round(float(value), 3), field)
    return found


MOST_DRAWN = 200


@dataclass(frozen=True, slots=True)
class Drawn:
    """One shape of the sheet, ready to be drawn."""

    shape: Any = None
    """None where it cannot be read yet."""
    wrong: bool = False
    """Whether its measures cannot be true together."""
    hatch: str = "sand"
    said: dict[str, str] | None = None
    """Of a sketch: what stands in the place of each measure, a letter or what was entered already."""

    @property
    def measured(self) -> bool:
        """Whether it is a shape with measures that can be true."""
        return self.shape is not None and not self.wrong and self.said is None


def sketch(typed: Any) -> Drawn:
    """Draw what is not measured yet as its kind looks, with a letter for each measure."""
    kind = typed.get("kind") if isinstance(typed, dict) else None
    shape = sample(kind) if isinstance(kind, str) else None
    if shape is None:
        return Drawn()
    said = {}
    for field, letter in letters(shape.kind).items():
        entered: Any = typed
        for part in field.split("."):
            entered = entered.get(part) if isinstance(entered, dict) else None
        said[field] = str(entered).replace(MEANT, " ")[:12] if entered not in (None, "") else letter
    return Drawn(shape, said=said)


def hatch_for(tried: Tried) -> str:
    """Choose the hatch of what the mix holds most of."""
    if tried.plan is None:
        return "sand"
    most = max(tried.plan.proportions.constituents, key=lambda c: c.dry_kg_m3)
    return hatch_of(most.material.role)


def drawn(typed_shapes: Any, hatch: str) -> list[Drawn]:
    """Read each shape as typed; what cannot be read has no drawing."""
    found = []
    listed = typed_shapes if isinstance(typed_shapes, list) else []
    for typed in listed[:MOST_DRAWN]:
        try:
            shape = _SHAPE.validate_python(pruned(typed))
        except (ValidationError, TradeError):
            found.append(sketch(typed))
            continue
        try:
            shape.volume()
            found.append(Drawn(shape, hatch=hatch))
        except TradeError as error:
            unfinished = all(fault.code == Code.MISSING for fault in error.faults)
            found.append(sketch(typed) if unfinished else Drawn(shape, wrong=True, hatch=hatch))
    found += [Drawn()] * (len(listed) - len(found))
    return found
