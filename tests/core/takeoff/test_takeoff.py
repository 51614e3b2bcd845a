"""Shapes, what they add up to, and what is refused."""

import math
from typing import Any

import pytest
from pydantic import TypeAdapter, ValidationError

from keeve.core.message.errors import TakeoffError, faults_of
from keeve.core.message.said import plain
from keeve.core.takeoff.need import take_off
from keeve.core.takeoff.shapes import Shape

SHAPES: TypeAdapter[Any] = TypeAdapter(tuple[Shape, ...])


def shapes(*given: dict[str, Any]) -> Any:
    return SHAPES.validate_python(given)


HOLE = {"kind": "bored_hole", "diameter_mm": 300, "depth_mm": 600, "post": "round", "post_mm": 100}


@pytest.mark.parametrize(
    ("shape", "expected_m3"),
    [
        ({"kind": "slab", "length_mm": "4 m", "width_mm": "2.5 m", "depth_mm": "10 cm"}, 1.0),
        (HOLE, math.pi / 4 * (0.3**2 - 0.1**2) * 0.6),
        (HOLE | {"post": "square"}, math.pi / 4 * 0.09 * 0.6 - 0.01 * 0.6),
        (HOLE | {"post": "none", "post_mm": None}, math.pi / 4 * 0.09 * 0.6),
        ({"kind": "cylinder", "diameter_mm": 200, "height_mm": 1000}, math.pi / 100),
        ({"kind": "known", "volume_l": "12 L"}, 0.012),
    ],
)
def test_volumes_agree_with_closed_forms(shape: dict[str, Any], expected_m3: float) -> None:
    need = take_off(shapes(shape), 0.0, 10.0)
    assert need.net_m3 == pytest.approx(expected_m3, rel=1e-12)


def test_several_shapes_and_repeats_add_up() -> None:
    need = take_off(shapes({"kind": "known", "volume_l": 10, "count": 3}, {"kind": "known", "volume_l": 5}), 10.0, 0.0)
    assert need.net_m3 == pytest.approx(0.035)
    assert need.order_m3 == pytest.approx(0.0385)


def test_waste_comes_from_the_shape_then_the_job_then_what_is_usual() -> None:
    own = {"kind": "known", "volume_l": 10, "waste_percent": "2 %"}
    assert take_off(shapes(own), 20.0, 10.0).items[0].waste_percent == 2
    assert take_off(shapes(HOLE), 20.0, 10.0).items[0].waste_percent == 20
    assert take_off(shapes(HOLE), None, 10.0).items[0].waste_percent == 15  # against earth
    assert take_off(shapes({"kind": "known", "volume_l": 10}), None, 5.0).items[0].waste_percent == 5


@pytest.mark.parametrize(
    ("shape", "field", "words"),
    [
        (HOLE | {"post_mm": 320}, "shapes.0.post_mm", "The post measures"),
        (HOLE | {"post": "square", "post_mm": 250}, "shapes.0.post_mm", "across its widest"),
        (HOLE | {"post_mm": None}, "shapes.0.post_mm", "How thick is the post"),
        (
            {
                "kind": "mould",
                "container": {"form": "volume", "volume_l": 5},
                "model": {"form": "volume", "volume_l": 6},
            },
            "shapes.0.model.volume_l",
            "bigger than its container",
        ),
        (
            {
                "kind": "mould",
                "container": {"form": "box", "length_mm": 400, "width_mm": 400, "height_mm": 200},
                "model": {"form": "cylinder", "diameter_mm": 50, "height_mm": 250},
            },
            "shapes.0.model.height_mm",
            "must cover the model",
        ),
        ({"kind": "mould", "container": {"form": "box", "length_mm": 400}}, "shapes.0.container.width_mm", "measured"),
    ],
)
def test_what_cannot_be_is_refused_beside_its_field(shape: dict[str, Any], field: str, words: str) -> None:
    with pytest.raises(TakeoffError, match=words) as caught:
        take_off(shapes(shape), None, 10.0)
    assert caught.value.faults[0].field == field


def test_every_wrong_shape_is_named_not_only_the_first() -> None:
    with pytest.raises(TakeoffError) as caught:
        take_off(shapes(HOLE | {"post_mm": 400}, HOLE, HOLE | {"post_mm": None}), None, 10.0)
    assert [f.field for f in caught.value.faults] == ["shapes.0.post_mm", "shapes.2.post_mm"]


@pytest.mark.parametrize(
    ("value", "words"),
    [
        (0, "more than nothing"),
        (-200, "more than nothing"),
        (1e12, "longer than a kilometre"),
        ("1000000000 m", "longer than a kilometre"),
        (float("nan"), "longer than a kilometre"),
        ("wide", "cannot be read"),
        (None, "Write a number"),
        ([], "Write a number"),
    ],
)
def test_impossible_sizes_are_refused_at_the_door(value: object, words: str) -> None:
    with pytest.raises(ValidationError) as caught:
        shapes({"kind": "slab", "length_mm": value, "width_mm": 100, "depth_mm": 100})
    (fault,) = faults_of(caught.value)
    assert fault.field == "0.length_mm"
    assert words in plain(fault.sentence)


def test_a_fault_on_the_path_names_no_tag_of_a_union() -> None:
    with pytest.raises(ValidationError) as caught:
        shapes({"kind": "mould", "container": {"form": "box", "length_mm": "x"}}, {"kind": "slab"}, {"kind": "dome"})
    fields = [f.field for f in faults_of(caught.value)]
    assert fields == ["0.container.length_mm", "1.length_mm", "1.width_mm", "1.depth_mm", "2"]
