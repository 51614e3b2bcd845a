"""Quantities from handbooks and from reference libraries."""

import math
from typing import Any

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from pydantic import TypeAdapter
from shapely import Polygon

from keeve.core.measure.units import FT3_M3, YD3_M3
from keeve.core.message.errors import TakeoffError
from keeve.core.takeoff.outline import check_outline, signed_area
from keeve.core.takeoff.shapes import Shape

SHAPES: TypeAdapter[Any] = TypeAdapter(Shape)


def cubic_metres(kind: str, **fields: Any) -> float:
    return SHAPES.validate_python({"kind": kind} | fields).volume()[0]


def test_a_slab_of_a_hundred_square_feet_four_inches_thick() -> None:
    # Coverage table of ready-mix handbooks: 1 yd³ covers 81 ft² at 4 in; from memory.
    yards = cubic_metres("slab", length_mm="10 ft", width_mm="10 ft", depth_mm="4 in") / YD3_M3
    assert 100 / yards == pytest.approx(81, rel=1e-3)


@pytest.mark.parametrize(("inches", "square_feet"), [(2, 162), (3, 108), (5, 65), (6, 54), (8, 40.5)])
def test_what_a_cubic_yard_covers(inches: int, square_feet: float) -> None:
    # The same table, from memory; its whole numbers are rounded.
    one = cubic_metres("slab", length_mm="1 ft", width_mm="1 ft", depth_mm=f"{inches} in") / YD3_M3
    assert 1 / one == pytest.approx(square_feet, rel=0.005)


def test_the_mortar_of_a_half_brick_wall() -> None:
    # UK estimating practice, from memory: 215 x 102.5 x 65 mm, 10 mm joints: 60 bricks (59.26) and about
    # 0.018 to 0.02 m³ of mortar to the m² without frogs and waste.
    wall = SHAPES.validate_python({
        "kind": "masonry", "length_mm": 1000, "height_mm": 1000, "unit_length_mm": 215, "unit_height_mm": 65,
        "leaf_mm": 102.5, "joint_mm": 10})  # fmt: skip
    assert wall.units_per_m2() == pytest.approx(59.26, abs=0.01)
    assert wall.volume()[0] == pytest.approx(0.0176, abs=0.0002)


def test_the_mortar_of_a_thousand_modular_bricks() -> None:
    # US modular brick 7 5/8 x 3 5/8 x 2 1/4 in with 3/8 in joints: 6.86 to the ft²; masonry handbooks, from memory.
    # By hand: (8 x 2.625 - 7.625 x 2.25) x 3.625 in³ a brick, so 8.06 ft³ a thousand, full joints, before waste.
    wall = SHAPES.validate_python({
        "kind": "masonry", "units": 1000, "unit_length_mm": "7 5/8 in", "unit_height_mm": "2 1/4 in",
        "leaf_mm": "3 5/8 in", "joint_mm": "3/8 in"})  # fmt: skip
    assert wall.units_per_m2() * 0.3048**2 == pytest.approx(6.86, abs=0.01)
    assert wall.volume()[0] / FT3_M3 == pytest.approx(8.063, abs=0.001)
    laid = wall.face_m2() * wall.units_per_m2()
    assert laid == pytest.approx(1000)


def test_a_flight_as_building_handbooks_measure_it() -> None:
    # Worked in the handbooks' way: waist along the slope plus the triangles of the steps. Ten steps of 250 x 160 mm,
    # 1.2 m wide, waist 150 mm: slope length 10 x 296.8 mm, so 2.968 x 0.15 x 1.2 + 10 x 0.25 x 0.16 / 2 x 1.2 = 0.774 m³.
    found = cubic_metres("stair", steps=10, going_mm=250, rise_mm=160, width_mm=1200, waist_mm=150)
    assert found == pytest.approx(0.7743, abs=0.0002)


corners = st.lists(st.tuples(st.integers(-40, 40), st.integers(-40, 40)), min_size=3, max_size=9, unique=True)


@given(corners)
def test_an_outline_is_refused_exactly_where_shapely_calls_it_invalid(points: list[tuple[int, int]]) -> None:
    ring = tuple((float(x), float(y)) for x, y in points)
    outline = Polygon(ring)
    assume(outline.area > 0 or not outline.is_valid)
    try:
        check_outline(ring, ())
    except TakeoffError:
        assert not outline.is_valid
    else:
        assert outline.is_valid
        assert abs(signed_area(ring)) == pytest.approx(outline.area)


def round_the_middle(points: list[tuple[int, int]]) -> list[tuple[int, int]]:
    x, y = (sum(v) / len(points) for v in zip(*points, strict=True))
    return sorted(points, key=lambda p: (math.atan2(p[1] - y, p[0] - x), math.hypot(p[0] - x, p[1] - y)))


@given(corners.map(round_the_middle), corners.map(round_the_middle))
def test_a_hole_is_taken_where_shapely_says_it_lies_inside(outer: list[Any], inner: list[Any]) -> None:
    ring = tuple((float(x), float(y)) for x, y in outer)
    hole = tuple((x / 4, y / 4) for x, y in inner)
    whole, cut = Polygon(ring), Polygon(hole)
    assume(whole.is_valid and cut.is_valid and whole.area > 0 and cut.area > 0)
    inside = whole.contains(cut) and not whole.exterior.intersects(cut.exterior)
    try:
        check_outline(ring, (hole,))
    except TakeoffError:
        assert not inside
    else:
        assert inside
        found = cubic_metres("floor", corners=ring, holes=[hole], depth_mm=1000)
        assert found == pytest.approx(Polygon(ring, [hole]).area)


def test_a_regular_column_against_its_corners() -> None:
    for sides in (3, 5, 8, 12):
        radius = 100 / math.cos(math.pi / sides)
        turn = 2 * math.pi / sides
        around = [(radius * math.cos(i * turn), radius * math.sin(i * turn)) for i in range(sides)]
        found = cubic_metres("column", section="equal sides", sides=sides, across_mm=200, height_mm=1000)
        assert found == pytest.approx(Polygon(around).area * 1e-6)
