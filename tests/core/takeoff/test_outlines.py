"""Outlines: what must hold however somebody walks round a floor."""

import math

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from keeve.core.message.errors import TakeoffError, TradeError
from keeve.core.takeoff.outline import (
    Corners,
    Point,
    check_outline,
    inside,
    own_crossing,
    read_ring,
    read_rings,
    signed_area,
)

number = st.floats(-100, 100).map(lambda v: round(v, 3))
point = st.tuples(number, number)


@st.composite
def stars(draw: st.DrawFn) -> Corners:
    """An outline that cannot cross itself: corners in the order of their direction from the middle."""
    count = draw(st.integers(3, 10))
    radii = draw(st.lists(st.floats(1, 20), min_size=count, max_size=count))
    return tuple(
        (r * math.cos(2 * math.pi * i / count), r * math.sin(2 * math.pi * i / count)) for i, r in enumerate(radii)
    )


@given(stars(), st.integers(0, 9), point)
def test_the_area_does_not_hang_on_where_one_begins_or_stands(
    ring: Corners, first: int, shift: tuple[float, float]
) -> None:
    wanted = signed_area(ring)
    assert wanted > 0
    turned = ring[first % len(ring) :] + ring[: first % len(ring)]
    assert signed_area(turned) == pytest.approx(wanted)
    assert signed_area(ring[::-1]) == pytest.approx(-wanted)
    moved = tuple((x + shift[0], y + shift[1]) for x, y in ring)
    assert signed_area(moved) == pytest.approx(wanted, rel=1e-6)
    check_outline(ring, ())
    check_outline(ring[::-1], ())


@given(point, point, point)
def test_a_triangle_has_the_area_of_its_sides(a: Point, b: Point, c: Point) -> None:
    sides = sorted(math.dist(*pair) for pair in ((a, b), (b, c), (c, a)))
    x, y, z = sides
    heron = (z + (y + x)) * (x - (z - y)) * (x + (z - y)) * (z + (y - x))  # Kahan's order, stable for needles
    assume(heron > 1e-4)
    assert abs(signed_area((a, b, c))) == pytest.approx(math.sqrt(heron) / 4, rel=1e-4)


@given(stars(), st.floats(0.1, 0.9))
def test_a_smaller_floor_of_the_same_form_lies_inside_and_outside_nothing_does(ring: Corners, share: float) -> None:
    small = tuple((x * share, y * share) for x, y in ring)
    assert all(inside(ring, corner) for corner in small)
    assert not any(inside(ring, (x * 25, y * 25)) for x, y in ring)
    check_outline(ring, (small,))
    with pytest.raises(TakeoffError, match=r"outside|runs into"):
        check_outline(small, (ring,))


@pytest.mark.parametrize(
    ("ring", "met"),
    [
        (((0, 0), (4, 0), (4, 3), (0, 3)), None),
        (((0, 0), (2, 2), (2, 0), (0, 2)), (1, 3)),  # a bow
        (((0, 0), (4, 0), (4, 3), (2, 0), (0, 3)), (1, 3)),  # a corner on a side
        (((0, 0), (4, 0), (2, 0), (2, 3)), (1, 2)),  # back over its own side
        (((0, 0), (1, 0), (2, 1), (3, 0), (4, 0), (4, 2), (2, 1), (0, 2)), (2, 6)),  # two corners on one spot
    ],
)
def test_where_an_outline_meets_itself_is_said_by_its_corners(ring: Corners, met: tuple[int, int] | None) -> None:
    assert own_crossing(ring) == met


@given(stars())
def test_two_corners_exchanged_are_noticed_or_make_another_floor(ring: Corners) -> None:
    assume(len(ring) >= 5)
    knot = (ring[0], ring[2], ring[1], *ring[3:])
    met = own_crossing(knot)
    try:
        check_outline(knot, ())
        crossed = False
    except TakeoffError:
        crossed = True
    assert crossed == (met is not None)


@given(
    st.lists(point, min_size=1, max_size=9), st.sampled_from(["; ", ";", "\n", " ;\n"]), st.sampled_from([" ", ", "])
)
def test_corners_are_read_as_they_are_written(corners: list[tuple[float, float]], between: str, comma: str) -> None:
    text = between.join(f"{x}{comma}{y}" for x, y in corners)
    kept = [p for i, p in enumerate(corners) if i == 0 or p != corners[i - 1]]
    if len(kept) > 1 and kept[0] == kept[-1]:
        kept.pop()
    assert read_ring(text) == tuple(kept)
    assert read_ring(corners) == tuple(kept)


@given(st.text(max_size=30))
def test_whatever_is_typed_for_corners_ends_in_corners_or_a_sentence(text: str) -> None:
    try:
        said = str(read_rings(text))
    except TradeError as error:
        said = error.faults[0].sentence  # type: ignore[assignment]
    assert said
