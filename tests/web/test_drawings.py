"""The drawings are to scale: checked against closed forms, not against themselves."""

import math
from itertools import pairwise
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from keeve.catalogue import load_catalogue
from keeve.core.takeoff.shapes import Shape
from keeve.web.drawings import common as drawing
from keeve.web.drawings import gauges as drawing_gauges
from keeve.web.drawings import shapes as drawing_shapes
from keeve.words.reader import METRIC
from keeve.words.showing import say, show_litres
from tests.conftest import Ticketer
from tests.prose import PROSE

CATALOGUE = load_catalogue()


def points(text: str) -> list[tuple[float, float]]:
    return [(float(x), float(y)) for x, y in (pair.split(",") for pair in text.split())]


def round_volume(outline: list[tuple[float, float]]) -> float:
    """Volume of the solid that an outline in section makes when turned about its middle (Pappus' theorem)."""
    right = outline[: len(outline) // 2]
    middle = (min(x for x, _ in outline) + max(x for x, _ in outline)) / 2
    total = 0.0
    for (x0, y0), (x1, y1) in pairwise(right):
        a, b = x0 - middle, x1 - middle
        total += math.pi * abs(y1 - y0) * (a * a + a * b + b * b) / 3
    return total


def test_the_layers_in_the_tub_hold_what_goes_in_by_true_volume(ticketed: Ticketer) -> None:
    ticket = ticketed(mix="concrete-1-2-4", mixer="drum-site", moisture_percent={"sharp-sand": 5, "gravel-20": 1})
    card = ticket.cards[0]
    drawn = drawing.tub(card, ticket, METRIC)
    wanted = [part.solid_l for step in card.steps for part in step.parts]
    volumes = [round_volume(points(layer.points)) for layer in reversed(drawn.layers)]
    scale = sum(volumes) / sum(wanted)
    for got, want in zip(volumes, wanted, strict=True):
        assert got / scale == pytest.approx(want, rel=0.03)  # points are drawn to a tenth of a unit
    assert drawn.over_l == 0


def test_what_does_not_go_in_is_told_before_it_happens(ticketed: Ticketer) -> None:
    ticket = ticketed(mix="concrete-1-2-4", mixer="drum-site", strategy="equal")
    card = ticket.cards[0]
    bucket = ticket.model_copy(update={"mixer": CATALOGUE.mixers["paddle-bucket"]})
    drawn = drawing.tub(card, bucket, METRIC)
    filled = sum(part.solid_l for step in card.steps for part in step.parts)
    assert drawn.over_l == pytest.approx(filled - 20.23, abs=0.05)  # the bucket's brim, by the frustum formula


def test_the_dipstick_is_a_ruler(ticketed: Ticketer) -> None:
    card = ticketed(mix="cement-mortar-1-3", moisture_percent={"sharp-sand": 5}).cards[0]
    stick = drawing.dipstick(card, METRIC)
    parts = {part.kind: part for part in stick.parts}
    for kind, litres in (
        ("brought", card.water.brought_l),
        ("first", card.water.first_l),
        ("held", card.water.hold_back_l),
    ):
        assert (parts[kind].bottom - parts[kind].top) / stick.per_l == pytest.approx(litres, rel=1e-6)
    assert parts["held"].top == pytest.approx(stick.target_y)
    assert stick.highest_y < stick.target_y < stick.poured_from_y < stick.zero_y
    # Who stands at the hose counts what is poured: the marks begin where the pour does, and so do the notches' figures.
    assert stick.ticks[0] == (pytest.approx(stick.poured_from_y), "0")
    one, two = stick.ticks[1], stick.ticks[2]
    assert (one[0] - two[0]) / stick.per_l == pytest.approx(float(two[1]) - float(one[1]))
    assert parts["never"].amount == say(show_litres(card.water.pour.high, METRIC))
    assert (stick.poured_from_y - stick.highest_y) / stick.per_l == pytest.approx(card.water.pour.high)


def test_a_thirsty_heap_hangs_below_zero(ticketed: Ticketer) -> None:
    card = ticketed(mix="concrete-1-2-4", moisture_percent={"sharp-sand": 0, "gravel-20": 0}).cards[0]
    stick = drawing.dipstick(card, METRIC)
    drunk = next(part for part in stick.parts if part.kind == "drunk")
    assert drunk.bottom > stick.zero_y
    assert stick.poured_from_y == pytest.approx(drunk.bottom)


@given(st.lists(st.floats(0, 200), min_size=1, max_size=8))
def test_labels_never_stand_on_each_other(wanted: list[float]) -> None:
    placed = drawing.spread(sorted(wanted), 20, 0, 300)
    assert all(b - a >= 20 - 1e-9 for a, b in pairwise(placed))
    assert placed[-1] <= 300 + 1e-9


SHAPES: TypeAdapter[Any] = TypeAdapter(Shape)


@pytest.mark.parametrize(
    ("given", "ratio"),
    [
        ({"kind": "bored_hole", "diameter_mm": 300, "depth_mm": 900, "post": "square", "post_mm": 100}, 3.0),
        ({"kind": "cylinder", "diameter_mm": 400, "height_mm": 200}, 0.5),
        ({"kind": "slab", "length_mm": 4000, "width_mm": 1000, "depth_mm": 500}, 0.125),
        ({"kind": "mould", "container": {"form": "box", "length_mm": 300, "width_mm": 1, "height_mm": 150},
          "model": {"form": "cylinder", "diameter_mm": 1, "height_mm": 20}}, 0.5),
        ({"kind": "known", "volume_l": 8}, 1.0),
    ],
)  # fmt: skip
def test_a_shape_keeps_its_proportions(given: dict[str, Any], ratio: float) -> None:
    lines = drawing_shapes.shape(SHAPES.validate_python(given), METRIC)
    outline = points(next(line.points for line in lines if line.kind == "fill"))
    wide = max(x for x, _ in outline) - min(x for x, _ in outline)
    high = max(y for _, y in outline) - min(y for _, y in outline)
    assert high / wide == pytest.approx(ratio, rel=0.02)
    assert all(-1 <= x <= 211 for x, _ in outline)


def test_a_load_is_lined_up_as_it_would_stand(ticketed: Ticketer) -> None:
    ticket = ticketed(mix="stucco-base", mixer="drum-site", shapes=[{"kind": "known", "volume_l": 85}])
    rows = drawing_gauges.rows(ticket.cards[0], ticket, METRIC)
    assert [row.name for row in rows] == ["Portland cement", "Hydrated lime", "Plaster sand", PROSE["water-to-pour"]]
    assert rows[0].big == "1 bag"
    assert [one.kind for one in rows[0].laid.pictures] == ["bag"]
    sand = ticket.cards[0].doses[2].fill
    assert sand is not None
    assert len(rows[2].laid.pictures) == min(sand.fills, drawing_gauges.MOST_DRAWN)
    assert rows[2].others == ()
