"""The doubt of a take-off against chance itself: numpy draws the measures, the shapes are worked out anew each time."""

from typing import Any

import numpy
import pytest
from pydantic import TypeAdapter

from keeve.core.takeoff.shapes import Shape
from keeve.core.takeoff.sureness import sureness, usual_doubt_mm

SHAPES: TypeAdapter[Any] = TypeAdapter(Shape)
MANY = 6000

CASES = [
    ("slab", {"length_mm": 4000, "width_mm": 3000, "depth_mm": 95}),
    ("bored_hole", {"diameter_mm": 300, "depth_mm": 700, "post": "square", "post_mm": 100}),
    ("cone", {"lower_mm": 262, "upper_mm": 300, "height_mm": 366}),
    ("stair", {"steps": 5, "going_mm": 270, "rise_mm": 175, "width_mm": 900, "waist_mm": 120}),
    ("coat", {"length_mm": 6000, "height_mm": 3000, "openings_m2": 2, "thickness_mm": 18}),
    ("tube", {"outer_mm": 600, "inner_mm": 450, "height_mm": 500}),
    ("pointing", {"by": "wall", "area_m2": 12, "unit_length_mm": 225, "unit_height_mm": 70, "joint_mm": 12, "depth_mm": 25}),
]  # fmt: skip


@pytest.mark.parametrize(("kind", "fields"), CASES, ids=[kind for kind, _ in CASES])
def test_independent_errors_spread_as_the_root_of_their_squares(kind: str, fields: dict[str, Any]) -> None:
    # Source: propagation of independent errors; here by 6000 draws of normal errors, numpy's generator, seed fixed.
    shape = SHAPES.validate_python({"kind": kind} | fields)
    draws = numpy.random.default_rng(20260914)
    names = [name for name in fields if name.endswith("_mm")]
    volumes = []
    for _ in range(MANY):
        moved = {name: fields[name] + draws.normal(0, usual_doubt_mm(fields[name])) for name in names}
        volumes.append(shape.model_copy(update=moved).volume()[0])
    assert sureness((shape,)).off_m3 == pytest.approx(float(numpy.std(volumes)), rel=0.06)


def test_doubts_of_several_items_are_independent() -> None:
    slab = SHAPES.validate_python({"kind": "slab", "length_mm": 4000, "width_mm": 3000, "depth_mm": "95 ± 5"})
    alone, both = sureness((slab,)), sureness((slab, slab))
    assert both.off_m3 == pytest.approx(alone.off_m3 * 2**0.5)
    twice = sureness((slab.model_copy(update={"count": 2}),))
    assert twice.off_m3 == pytest.approx(alone.off_m3 * 2)  # one measure taken for both is off for both


@pytest.mark.parametrize(
    ("kind", "fields", "field", "by_hand_m3"),
    [
        # dV/dD of a round hole is π/2 D h: 1 mm at 300 mm and 700 mm deep is 0.3299 L.
        ("bored_hole", {"diameter_mm": "300 ± 1", "depth_mm": 700, "post": "none"}, "diameter_mm", 0.00032987),
        # A screed of 24 m² takes 24 L for each millimetre.
        ("slab", {"length_mm": 6000, "width_mm": 4000, "depth_mm": "75 ± 1"}, "depth_mm", 0.024),
        # A joint of 12 mm between stones of 225 x 70: d(share)/dj by the quotient rule is 0.01434 a millimetre.
        ("pointing", {"area_m2": 10, "unit_length_mm": 225, "unit_height_mm": 70, "joint_mm": "12 ± 1", "depth_mm": 20},
         "joint_mm", 0.2 * 225 * 70 * (237 + 82) / (237 * 82) ** 2),
    ],
)  # fmt: skip
def test_one_doubt_moves_the_volume_by_its_derivative(
    kind: str, fields: dict[str, Any], field: str, by_hand_m3: float
) -> None:
    shape = SHAPES.validate_python({"kind": kind} | fields)
    found = {d.field: d.volume_m3 for d in sureness((shape,)).doubts}[field]
    assert found == pytest.approx(by_hand_m3, rel=2e-3)
