"""Every shape against a second way of finding its volume, and what it refuses."""

import math
from typing import Any

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from pydantic import TypeAdapter, ValidationError

from keeve.core.measure.reading import read_length_mm, read_measure
from keeve.core.message.errors import TakeoffError, TradeError, faults_of
from keeve.core.message.said import plain
from keeve.core.takeoff.need import take_off
from keeve.core.takeoff.reach import reach
from keeve.core.takeoff.shapes import Shape
from keeve.core.takeoff.sureness import sureness

SHAPES: TypeAdapter[Any] = TypeAdapter(Shape)


def made(kind: str, **fields: Any) -> Any:
    return SHAPES.validate_python({"kind": kind} | fields)


def litres(kind: str, **fields: Any) -> float:
    return made(kind, **fields).volume()[0] * 1000


mm = st.floats(1, 5000)

# Worked by hand, each from the text of its formula.
BY_HAND = [
    ("slab", {"length_mm": "4 m", "width_mm": "3*0.8 m", "depth_mm": 95}, 912),
    ("strip", {"length_mm": "3.2 + 4.1 + 3.2 m", "width_mm": 450, "depth_mm": 300}, 1417.5),
    ("floor", {"corners": "0 0; 4.2 0; 4.2 3.1; 2 3.1; 2 5; 0 5", "depth_mm": 100}, (4.2 * 3.1 + 2 * 1.9) * 100),
    ("floor", {"corners": "0 0; 10 0; 10 5; 0 5", "holes": "1 1; 2 1; 2 2; 1 2", "unit": "ft", "depth_mm": 25.4},
     49 * 0.3048**2 * 25.4),
    ("depths", {"length_mm": 2000, "width_mm": 1000, "readings": "10 20; 30 40", "read_at": "anywhere"}, 50),
    ("depths", {"length_mm": 2000, "width_mm": 1000, "readings": "0 90 0; 0 90 0"}, 2 * 45),  # two wedges
    ("fall", {"length_mm": 4000, "width_mm": 3000, "low_mm": 40, "high_mm": 90}, 780),
    ("fall", {"length_mm": 1000, "width_mm": 1000, "low_mm": 0, "high_mm": 60, "far_low_mm": 20, "far_high_mm": 80}, 40),
    ("kerb", {"length_mm": 6000, "top_mm": 100, "foot_mm": 220, "height_mm": 200}, 192),
    ("stair", {"steps": 4, "going_mm": 300, "rise_mm": 400, "width_mm": 1000, "waist_mm": 100},
     4 * 0.06 * 1000 + 4 * 0.5 * 0.1 * 1000),  # 3-4-5 triangles
    ("column", {"length_mm": 300, "width_mm": 200, "height_mm": 1000}, 60),
    ("column", {"section": "equal sides", "sides": 6, "across_mm": 200, "height_mm": 1000}, 2 * math.sqrt(3) * 10),
    ("tube", {"outer_mm": 600, "inner_mm": 400, "height_mm": 1000}, math.pi / 4 * (36 - 16) * 10),
    ("cone", {"lower_mm": 300, "upper_mm": 0, "height_mm": 300}, math.pi * 1.5**2 * 3 / 3),
    ("prism", {"base_mm": 100, "height_mm": 100, "length_mm": 1000}, 5),
    ("coat", {"length_mm": 6000, "height_mm": 3000, "openings_m2": "2*1.1 + 0.8 m²", "thickness_mm": "10 + 8",
              "ground": "block"}, 15 * 18 * 1.1),
    ("pointing", {"by": "joints", "joints_mm": "40 m", "joint_mm": 10, "depth_mm": 20}, 8),
    ("infill", {"length_mm": 2400, "height_mm": 2000, "thickness_mm": 300, "studs": 4, "stud_width_mm": 50,
                "stud_depth_mm": 100}, 1440 - 40),
    ("mould", {"container": {"form": "box", "length_mm": 300, "width_mm": 200, "height_mm": 100},
               "model": {"form": "volume", "volume_l": 2}, "share_percent": "1/2"}, 2),
    ("displaced", {"length_mm": 600, "width_mm": 400, "before_mm": 210, "after_mm": 262}, 12.48),
    ("displaced", {"tub": "round", "diameter_mm": 200, "before_mm": 0, "after_mm": 100}, math.pi),
    ("weighed", {"full_kg": 9.4, "empty_kg": 1.2}, 8.2),
    ("weighed", {"full_kg": 9.4, "empty_kg": 1.4, "filled_with": "sand", "fill_kg_l": "1.6"}, 5),
    ("scan", {"model_l": 2, "size_x_mm": 200, "size_y_mm": 100, "size_z_mm": 150, "clearance_mm": 25, "over_mm": 50,
              "share_percent": 50}, (2.5 * 1.5 * 2 - 2) / 2),
    ("scan", {"model_l": 2, "size_x_mm": 200, "size_y_mm": 100, "size_z_mm": 150, "cast": "model",
              "scale_percent": 50}, 0.25),
]  # fmt: skip


@pytest.mark.parametrize(("kind", "fields", "wanted"), BY_HAND, ids=[f"{k}-{i}" for i, (k, _, _) in enumerate(BY_HAND)])
def test_a_shape_holds_what_it_holds_by_hand(kind: str, fields: dict[str, Any], wanted: float) -> None:
    assert litres(kind, **fields) == pytest.approx(wanted, rel=1e-9)


@pytest.mark.parametrize(
    ("kind", "fields", "field", "words"),
    [
        ("tube", {"outer_mm": 100, "inner_mm": 120, "height_mm": 9}, "inner_mm", "outside only"),
        ("ball", {"diameter_mm": 100, "height_mm": 120}, "height_mm", "whole ball only"),
        ("cone", {"lower_mm": 0, "upper_mm": 0, "height_mm": 9}, "lower_mm", "points"),
        ("tub", {"lower_length_mm": 0, "lower_width_mm": 9, "upper_length_mm": 0, "upper_width_mm": 9, "height_mm": 9}, "lower_length_mm", "enclose nothing"),
        ("coat", {"length_mm": 2000, "height_mm": 1000, "openings_m2": 3, "thickness_mm": 10}, "openings_m2", "whole wall"),
        ("stair", {"steps": 3, "going_mm": 9, "rise_mm": 9, "width_mm": 9, "landing_mm": 9}, "landing_thick_mm", "How thick"),
        ("masonry", {"unit_length_mm": 9, "unit_height_mm": 9, "leaf_mm": 9, "joint_mm": 1}, "length_mm", "count the units"),
        ("pointing", {"joint_mm": 9, "depth_mm": 9}, "area_m2", "still to be measured"),
        ("infill", {"length_mm": 900, "height_mm": 900, "thickness_mm": 90, "studs": 2, "stud_width_mm": 9, "stud_depth_mm": 95}, "stud_depth_mm", "only"),
        ("infill", {"length_mm": 900, "height_mm": 900, "thickness_mm": 90, "studs": 30, "stud_width_mm": 90, "stud_depth_mm": 90}, "studs", "fill the whole"),
        ("displaced", {"length_mm": 9, "width_mm": 9, "before_mm": 20, "after_mm": 10}, "after_mm", "must rise"),
        ("weighed", {"full_kg": 1, "empty_kg": 2}, "full_kg", "Full it weighs"),
        ("weighed", {"full_kg": 3, "empty_kg": 2, "filled_with": "sand"}, "fill_kg_l", "litre of this sand"),
        ("depths", {"length_mm": 9, "width_mm": 9, "readings": "1 2 3; 1 2"}, "readings", "Row 2"),
        ("floor", {"corners": "0 0; 1 0", "depth_mm": 9}, "corners", "three corners"),
        ("floor", {"corners": "0 0; 1 0; 2 0", "depth_mm": 9}, "corners", "encloses nothing"),
        ("floor", {"corners": "0 0; 2 2; 2 0; 0 2", "depth_mm": 9}, "corners", "from corner 1 and from corner 3"),
        ("floor", {"corners": "0 0; 4 0; 4 4; 0 4", "holes": "5 5; 6 5; 6 6", "depth_mm": 9}, "holes", "outside"),
        ("floor", {"corners": "0 0; 4 0; 4 4; 0 4", "holes": "3 3; 5 3; 5 3.5", "depth_mm": 9}, "holes", "runs into the outline"),
        ("floor", {"corners": "0 0; 9 0; 9 9; 0 9", "holes": "1 1; 4 1; 4 4; 1 4 / 2 2; 3 2; 3 3", "depth_mm": 9}, "holes", "in one another"),
        ("scan", {"model_l": 9, "size_x_mm": 100, "size_y_mm": 100, "size_z_mm": 100}, "model_l", "just fits into"),
    ],
)  # fmt: skip
def test_measures_that_cannot_be_true_together_are_said(
    kind: str, fields: dict[str, Any], field: str, words: str
) -> None:
    with pytest.raises(TakeoffError) as caught:
        made(kind, **fields).volume()
    (fault,) = caught.value.faults
    assert fault.field == field
    assert words in plain(fault.sentence)


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"corners": "0 0; four 0; 4 4"}, "cannot be read"),
        ({"corners": "0 0 0; 1 1"}, "is not a corner"),
        ({"corners": 7}, "no corners"),
        ({"corners": [[1, "x"]]}, "two numbers"),
        ({"corners": [[1, float("nan")], [2, 2], [3, 1]]}, "far off"),
        ({"corners": [[0, 0]] * 2001}, "2000"),
    ],
)
def test_corners_that_cannot_be_read_are_said(fields: dict[str, Any], words: str) -> None:
    with pytest.raises(ValidationError) as caught:
        made("floor", depth_mm=9, **fields)
    assert words in " ".join(f"{plain(f.sentence)} {plain(f.hint)}" for f in faults_of(caught.value))


@given(mm, mm, mm)
def test_a_cone_cut_in_two_holds_as_much_as_whole(low: float, high: float, up: float) -> None:
    middle = (low + high) / 2
    parts = [litres("cone", lower_mm=a, upper_mm=b, height_mm=up / 2) for a, b in ((low, middle), (middle, high))]
    assert sum(parts) == pytest.approx(litres("cone", lower_mm=low, upper_mm=high, height_mm=up), rel=1e-9)


@given(mm, mm, mm, mm, mm)
def test_a_tub_cut_in_two_holds_as_much_as_whole(a1: float, b1: float, a2: float, b2: float, up: float) -> None:
    def tub(low: tuple[float, float], top: tuple[float, float], high: float) -> float:
        return litres("tub", lower_length_mm=low[0], lower_width_mm=low[1], upper_length_mm=top[0],
                      upper_width_mm=top[1], height_mm=high)  # fmt: skip

    middle = ((a1 + a2) / 2, (b1 + b2) / 2)
    whole = tub((a1, b1), (a2, b2), up)
    assert tub((a1, b1), middle, up / 2) + tub(middle, (a2, b2), up / 2) == pytest.approx(whole, rel=1e-9)
    assert tub((a2, b2), (a1, b1), up) == pytest.approx(whole, rel=1e-9)


@given(mm, st.floats(0.01, 1))
def test_a_cap_and_what_is_left_make_the_ball(across: float, share: float) -> None:
    cap, rest = (litres("ball", diameter_mm=across, height_mm=across * s) for s in (share, 1 - share + 1e-15))
    assert cap + rest == pytest.approx(litres("ball", diameter_mm=across), rel=1e-9)
    assert litres("ball", diameter_mm=across) == pytest.approx(math.pi / 6 * across**3 * 1e-6, rel=1e-9)


@given(st.lists(st.lists(st.floats(1, 300), min_size=3, max_size=3), min_size=2, max_size=5))
def test_depths_on_a_grid_fill_each_cell_to_the_mean_of_its_corners(rows: list[list[float]]) -> None:
    cells = [
        (rows[i][j] + rows[i + 1][j] + rows[i][j + 1] + rows[i + 1][j + 1]) / 4
        for i in range(len(rows) - 1)
        for j in range(2)
    ]
    found = litres("depths", length_mm=2000, width_mm=1000, readings=rows)
    assert found == pytest.approx(2 * sum(cells) / len(cells), rel=1e-9)


@given(mm, st.floats(1, 200), st.integers(1, 50))
def test_doubt_moves_the_volume_by_what_it_says(length: float, depth: float, count: int) -> None:
    doubt = depth / 10
    slab = made("slab", length_mm=length, width_mm=1000, depth_mm=f"{depth!r} ± {doubt!r}", count=count)
    assert slab.unsure["depth_mm"] == pytest.approx(doubt)
    found = {d.field: d for d in sureness((slab,)).doubts}["depth_mm"]
    assert found.said
    assert found.volume_m3 == pytest.approx(length * 1000 * doubt * 1e-9 * count, rel=1e-9)


def test_the_measure_worth_taking_again_is_the_one_that_moves_most() -> None:
    slab = made("slab", length_mm="6 m", width_mm="4 m", depth_mm="80 ± 5", note="Floor")
    hole = made("bored_hole", diameter_mm=300, depth_mm=600, post="none", count=4)
    found = sureness((slab, hole))
    assert found.decisive is not None
    assert (found.decisive.shape, found.decisive.field) == (0, "depth_mm")
    assert found.decisive.volume_m3 == pytest.approx(6 * 4 * 0.005)  # by hand: 0.12 m³
    assert found.off_m3 >= found.decisive.volume_m3
    assert found.off_m3 <= sum(d.volume_m3 for d in found.doubts)
    assert sureness((made("known", volume_l=3),)).decisive is None


def test_a_doubt_in_inches_is_inches_for_both() -> None:
    slab = made("slab", length_mm=1, width_mm=1, depth_mm="3 1/2 ± 1/4 in")
    assert slab.depth_mm == pytest.approx(88.9)
    assert slab.unsure["depth_mm"] == pytest.approx(6.35)
    assert made(
        "mould", container={"form": "box", "length_mm": "300 ± 2", "width_mm": 200, "height_mm": 100}
    ).container.unsure


def test_what_is_switched_off_is_not_counted_and_groups_add_up() -> None:
    shapes = tuple(
        made("known", volume_l=10, **more) for more in ({"group": "Day 1"}, {"off": True}, {"group": "Day 1"}, {})
    )
    need = take_off(shapes, 10, 5)
    assert [item.shape for item in need.items] == [0, 2, 3]
    assert need.net_m3 == pytest.approx(0.03)
    assert need.groups() == {"Day 1": (pytest.approx(0.02), pytest.approx(0.022))}
    with pytest.raises(TakeoffError, match="switched off"):
        take_off((made("known", volume_l=1, off=True),), None, 5)


def test_material_at_hand_goes_as_far_as_it_goes() -> None:
    coat = made("coat", length_mm=6000, height_mm=3000, thickness_mm=10)
    hole = made("bored_hole", diameter_mm=200, depth_mm=500, post="none", count=4, waste_percent=0)
    strip = made("strip", length_mm=6000, width_mm=100, depth_mm=100, waste_percent=0)
    shapes = (coat, hole, strip)
    need = take_off(shapes, 10, 5)
    found = reach(shapes, need, 0.066)
    by_kind = {shapes[row.shape].kind: row for row in found.rows}
    assert by_kind["coat"].area_m2 == pytest.approx(6.0)  # 66 L less a tenth is 60 L: 6 m² of 10 mm
    assert by_kind["bored_hole"].whole == 4  # 15.7 L each
    assert by_kind["strip"].run_mm == pytest.approx(6600)
    assert by_kind["strip"].share == 1
    assert not found.enough


@given(st.lists(st.sampled_from([*"0123456789.,+-*/()x× '\"", "m", "mm", "in", "ft", " "]), max_size=14).map("".join))
def test_no_sum_however_mangled_ends_in_anything_but_a_number_or_a_sentence(text: str) -> None:
    try:
        said = str(read_length_mm(text))
    except TradeError as error:
        said = error.faults[0].sentence  # type: ignore[assignment]
    assert said


@given(st.integers(1, 999), st.integers(1, 999), st.integers(1, 99), st.sampled_from("+-*/"), st.sampled_from("+-*/"))
def test_sums_come_out_as_arithmetic_says(a: int, b: int, c: int, one: str, two: str) -> None:
    text = f"{a}.0 {one} {b}.0 {two} {c}.0"
    wanted = eval(text)  # noqa: S307 - digits and signs made two lines above; Python is the second way
    assume(wanted > 0)
    assert read_measure(text, {}, "", "3") == pytest.approx(wanted, rel=1e-12)
    assert read_length_mm(text + " m") == pytest.approx(wanted * 1000, rel=1e-9)


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("3*2.4+0.6 m", 7800), ("2 m + 300", 2300), ("(4.2 - 0.9) * 2 m", 6600), ("2-1/2 in", 63.5),
        ("6'-4\"", 1930.4), ("2 x 6'4\"", 3860.8), ("7.2/3 m", 2400), ("2.4 x 3", 7.2), ("-3+5", 2), ("7/8 in", 22.225),
        ("450", 450), ("1,2 m", 1200), ("2'6\" + 2 in", 812.8),
    ],
)  # fmt: skip
def test_a_field_works_out_what_a_tape_reads(text: str, wanted: float) -> None:
    assert read_length_mm(text) == pytest.approx(wanted)


@pytest.mark.parametrize(
    ("text", "words"),
    [("3*", "missing"), ("3 m * 2 m", "cannot be multiplied"), ("4 / (2-2)", "not by 0"), ("((3", "missing"), ("2 m + 3 qt", "not a unit")],
)  # fmt: skip
def test_a_sum_that_cannot_be_is_said(text: str, words: str) -> None:
    with pytest.raises(TradeError, match=words):
        read_length_mm(text)
