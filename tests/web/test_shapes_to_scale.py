"""Drawings of shapes measured with a ruler of their own: areas and widths against closed forms, not against the drawing code."""

import math
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from keeve.core.message.said import plain
from keeve.core.takeoff.shapes import Shape
from keeve.web.drawings import draft
from keeve.web.drawings import shapes as drawing_shapes
from keeve.web.pages.shape_forms import FORMS, form_of, label_of, title_of
from keeve.words.reader import METRIC, US, Reader
from tests.core.takeoff.test_shapes import BY_HAND

SHAPES: TypeAdapter[Any] = TypeAdapter(Shape)
Ring = list[tuple[float, float]]


def drawn(kind: str, **fields: Any) -> dict[str, list[Ring]]:
    """The outlines of a drawing by their kind, in drawing reader."""
    found: dict[str, list[Ring]] = {}
    for line in drawing_shapes.shape(SHAPES.validate_python({"kind": kind} | fields), METRIC):
        if line.points:
            ring = [(float(x), float(y)) for x, y in (pair.split(",") for pair in line.points.split())]
            found.setdefault(line.kind, []).append(ring)
    return found


def words(kind: str, reader: Reader = METRIC, **fields: Any) -> str:
    shape = SHAPES.validate_python({"kind": kind} | fields)
    return " | ".join(line.text for line in drawing_shapes.shape(shape, reader) if line.kind == "word")


def wide(ring: Ring) -> float:
    return max(x for x, _ in ring) - min(x for x, _ in ring)


def high(ring: Ring) -> float:
    return max(y for _, y in ring) - min(y for _, y in ring)


def area(ring: Ring) -> float:
    return abs(sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(ring, [*ring[1:], ring[0]], strict=True))) / 2


@pytest.mark.parametrize(
    ("kind", "fields", "wide_mm", "section_mm2"),
    [
        # The section worked by hand: area that is cut, in mm², and its width.
        ("kerb", {"length_mm": 6000, "top_mm": 100, "foot_mm": 220, "height_mm": 200}, 220, 160 * 200),
        ("cone", {"lower_mm": 260, "upper_mm": 300, "height_mm": 360}, 300, 280 * 360),
        ("tub", {"lower_length_mm": 600, "lower_width_mm": 400, "upper_length_mm": 700, "upper_width_mm": 500, "height_mm": 300}, 700, 650 * 300),
        ("prism", {"base_mm": 120, "height_mm": 80, "length_mm": 3000}, 120, 4800),
        ("stair", {"steps": 4, "going_mm": 300, "rise_mm": 400, "width_mm": 900}, 1200, 4 * 60_000 + 1200 * 1600 / 2),
        ("floor", {"corners": "0 0; 4.2 0; 4.2 3.1; 2 3.1; 2 5; 0 5", "depth_mm": 75}, 4200, (4.2 * 3.1 + 2 * 1.9) * 1e6),
        ("ball", {"diameter_mm": 200}, 200, math.pi * 100**2),
        ("cylinder", {"diameter_mm": 300, "height_mm": 900}, 300, 300 * 900),
        ("coat", {"length_mm": 6000, "height_mm": 3000, "thickness_mm": 18}, 6000, 18e6),
    ],
)  # fmt: skip
def test_what_is_filled_has_the_area_of_its_section(
    kind: str, fields: dict[str, Any], wide_mm: float, section_mm2: float
) -> None:
    fill, *cut = drawn(kind, **fields)["fill"]
    per_mm = wide(fill) / wide_mm
    if kind == "floor":  # and under it the cut, as thick as it is
        assert high(cut[0]) / per_mm == pytest.approx(fields["depth_mm"], abs=0.15 / per_mm)
    assert area(fill) / per_mm**2 == pytest.approx(section_mm2, rel=0.03)  # points are drawn to a tenth of a unit


def test_the_waist_of_a_stair_is_measured_square_to_its_slope() -> None:
    # 3-4-5 steps: the slope of 4 of them is 2000 mm long, so a waist of 100 mm cuts 0.2 m² more.
    fields = {"steps": 4, "going_mm": 300, "rise_mm": 400, "width_mm": 900, "waist_mm": 100}
    (fill,) = drawn("stair", **fields)["fill"]
    per_mm = wide(fill) / 1200
    assert area(fill) / per_mm**2 == pytest.approx(4 * 60_000 + 200_000, rel=0.03)


@pytest.mark.parametrize(
    ("kind", "fields", "inner", "ratio"),
    [
        ("tube", {"outer_mm": 600, "inner_mm": 450, "height_mm": 300}, "void", 0.75),
        ("bored_hole", {"diameter_mm": 400, "depth_mm": 600, "post": "square", "post_mm": 100}, "post", 0.25),
        ("mould", {"container": {"form": "box", "length_mm": 300, "width_mm": 1, "height_mm": 200},
                   "model": {"form": "cylinder", "diameter_mm": 120, "height_mm": 90}}, "post", 0.4),
        ("bored_hole", {"diameter_mm": 100, "depth_mm": 600, "post": "round", "post_mm": 300}, "post", 3.0),
        ("tube", {"outer_mm": 100, "inner_mm": 200, "height_mm": 300}, "void", 2.0),
    ],
)  # fmt: skip
def test_what_stands_in_it_is_drawn_at_the_same_scale_also_where_it_cannot_be(
    kind: str, fields: dict[str, Any], inner: str, ratio: float
) -> None:
    found = drawn(kind, **fields)
    assert wide(found[inner][0]) / wide(found["fill"][0]) == pytest.approx(ratio, rel=0.03)


def test_stones_and_joints_are_drawn_as_they_are_laid() -> None:
    found = drawn(
        "masonry", length_mm=1000, height_mm=1000, unit_length_mm=215, unit_height_mm=65, leaf_mm=100, joint_mm=10
    )
    whole = [ring for ring in found["post"] if wide(ring) / high(ring) > 3]
    assert wide(whole[0]) / high(whole[0]) == pytest.approx(215 / 65, rel=0.02)
    assert high(found["fill"][0]) / high(whole[0]) == pytest.approx((3 * 65 + 4 * 10) / 65, rel=0.02)
    # The joints' share of the face is what the pointing takes: 1 - l h / ((l + j)(h + j)).
    stones = sum(area(ring) for ring in found["post"])
    share = 1 - stones / area(found["fill"][0])
    assert share == pytest.approx(1 - 215 * 65 / (225 * 75), abs=0.05)  # the piece drawn ends in a joint on each side


def test_openings_take_their_share_of_the_wall() -> None:
    found = drawn("coat", length_mm=6000, height_mm=3000, openings_m2=4.5, thickness_mm=10)
    assert area(found["void"][0]) / area(found["fill"][0]) == pytest.approx(0.25, rel=0.05)


def test_studs_are_as_many_and_as_wide_as_entered() -> None:
    found = drawn(
        "infill", length_mm=2400, height_mm=2200, thickness_mm=300, studs=4, stud_width_mm=50, stud_depth_mm=100
    )
    assert len(found["post"]) == 4
    assert wide(found["post"][0]) / wide(found["fill"][0]) == pytest.approx(50 / 2400, rel=0.1)


def test_water_stands_as_high_as_it_was_read() -> None:
    found = drawn("displaced", length_mm=600, width_mm=400, before_mm=200, after_mm=260)
    assert high(found["fill"][0]) / wide(found["plan"][0]) == pytest.approx(60 / 600, rel=0.05)


def test_a_cap_of_half_a_ball_is_half_a_disc() -> None:
    found = drawn("ball", diameter_mm=200, height_mm=100)
    assert area(found["fill"][0]) / area(found["plan"][0]) == pytest.approx(0.5, rel=0.01)


@pytest.mark.parametrize(("kind", "fields", "_"), BY_HAND, ids=[f"{k}-{i}" for i, (k, _, _) in enumerate(BY_HAND)])
@pytest.mark.parametrize("reader", [METRIC, US])
def test_every_drawing_stays_in_its_frame_and_writes_its_measures(
    kind: str, fields: dict[str, Any], _: float, reader: Reader
) -> None:
    for rings in drawn(kind, **fields).values():
        for ring in rings:
            assert all(-1 <= x <= draft.WIDE + 1 and -1 <= y <= draft.HIGH + 1 for x, y in ring)
    text = words(kind, reader, **fields)
    assert text
    assert ("in" in text or "ft" in text or kind == "mould") if reader.us else ("m" in text)


@given(st.integers(3, 12), st.floats(0.2, 30), st.floats(0, 6))
def test_the_sides_of_a_floor_are_named_with_their_lengths(sides: int, radius: float, turn: float) -> None:
    ring = [
        (radius * math.cos(turn + 2 * math.pi * i / sides), radius * math.sin(turn + 2 * math.pi * i / sides))
        for i in range(sides)
    ]
    side_mm = 2 * radius * math.sin(math.pi / sides) * 1000
    shape = SHAPES.validate_python({"kind": "floor", "corners": ring, "depth_mm": 50})
    named = [line.text for line in drawing_shapes.shape(shape, METRIC) if line.kind == "word"]
    assert named[0] == "50 mm deep"
    assert len(named) == sides + 1
    for text in named[1:]:
        *digits, unit = text.split()  # thousands stand apart
        assert float("".join(digits)) * (1000 if unit == "m" else 1) == pytest.approx(side_mm, rel=0.01, abs=0.6)


@pytest.mark.parametrize("kind", FORMS)
def test_every_form_says_what_it_asks(kind: str) -> None:
    form = form_of(kind)
    assert form is not None
    assert title_of(kind) == form.title
    for ask in form.asks:
        assert ask.label
        assert label_of(kind, ask.name) == ask.label


@pytest.mark.parametrize("junk", [None, 3, {"a": 1}, [], "dome"])
def test_a_kind_nobody_knows_has_a_name_to_be_shown_by(junk: Any) -> None:
    assert form_of(junk) is None
    assert title_of(junk) == "Shape"
    assert plain(label_of("mould", "container.length_mm")) == "Container: Length"
