"""Vessels of one's own against closed forms, and what contradicts itself."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq

from keeve.core.message.errors import LoadError, TradeError
from keeve.core.message.said import plain
from keeve.core.vessels.own_vessel import VesselSheet, usual_mixed_l, vessel_of
from keeve.core.vessels.vessels import Container, Mixer, Ring, Section, brim_l, fill_height_mm, fill_with, volume_l


def made(**said: object):
    return vessel_of(VesselSheet.model_validate({"name": "Tin"} | said), "own-tin")


def test_round_and_square_vessels_hold_what_their_closed_forms_say() -> None:
    cylinder = made(depth_mm=200, top_mm=160).brim_l
    assert cylinder == pytest.approx(math.pi * 0.8**2 * 2)  # plain arithmetic, in dm
    frustum = made(depth_mm=300, bottom_mm=200, top_mm=300).brim_l
    assert frustum == pytest.approx(math.pi / 12 * 3 * (2**2 + 2 * 3 + 3**2))  # frustum of a cone, plain arithmetic
    box = made(form="box", depth_mm=250, top_mm=400, top_wide_mm=300).brim_l
    assert box == pytest.approx(4 * 3 * 2.5)
    tapered = made(form="box", depth_mm=300, bottom_mm=200, top_mm=300, bottom_wide_mm=100, top_wide_mm=200).brim_l
    prismatoid = 3 / 6 * (2 * 1 + 4 * 2.5 * 1.5 + 3 * 2)  # h/6 (A0 + 4 Am + A1), plain arithmetic
    assert tapered == pytest.approx(prismatoid)


@given(
    deep=st.floats(40, 600), top=st.floats(60, 400), bottom=st.floats(60, 400), off=st.floats(-0.047, 0.047),
    share=st.floats(0.02, 0.98),
)  # fmt: skip
def test_a_weighed_vessel_holds_what_was_weighed_and_its_marks_are_right(
    deep: float, top: float, bottom: float, off: float, share: float
) -> None:
    if bottom > 1.2 * top:
        top, bottom = bottom, top
    alone = made(use="drum", depth_mm=deep, top_mm=top, bottom_mm=bottom).brim_l
    weighed = alone * (1 + off)
    both = made(use="drum", depth_mm=deep, top_mm=top, bottom_mm=bottom, water_kg=weighed)
    assert both.brim_l == pytest.approx(weighed, rel=1e-12)
    assert both.by_measures_l == pytest.approx(alone)
    section = both.vessel.section
    wanted = share * weighed
    by_scipy = brentq(lambda h: volume_l(section, h) - wanted, 0, section.depth_mm, xtol=1e-9)
    assert fill_height_mm(section, wanted) == pytest.approx(by_scipy, abs=0.1)
    # Any third of the three gives the same vessel: a depth is found from a fill and the widths.
    found = made(use="drum", top_mm=top, bottom_mm=bottom, holds_l=alone).vessel.section
    assert found.depth_mm == pytest.approx(deep, rel=1e-9)


def test_a_vessel_that_was_only_filled_is_straight_and_round() -> None:
    tin = made(holds_l=2)
    assert tin.brim_l == pytest.approx(2)
    ring = tin.vessel.section.rings[0]
    assert ring.width_mm == pytest.approx(tin.vessel.section.depth_mm)
    deep = made(holds_l=2, depth_mm=200).vessel.section
    assert (deep.depth_mm, deep.rings[0].area_mm2) == (200, pytest.approx(10_000))


@pytest.mark.parametrize(
    ("said", "field", "words"),
    [
        ({}, "top_mm", "Nobody can say yet"),
        ({"top_mm": 200}, "depth_mm", "Nobody can say yet"),
        ({"depth_mm": 366, "top_mm": 300, "bottom_mm": 262, "holds_l": 18}, "holds_l", "by its measures it holds"),
        ({"depth_mm": 366, "top_mm": 300, "bottom_mm": 262, "water_kg": 18}, "water_kg", "by its measures it holds"),
        ({"holds_l": 18, "water_kg": 12}, "water_kg", "were poured in"),
        ({"use": "drum", "depth_mm": 20_000, "top_mm": 500}, "depth_mm", "No vessel measures"),
        ({"use": "pan", "depth_mm": 400, "top_mm": 90_000}, "top_mm", "No vessel measures"),
        ({"depth_mm": 300, "top_mm": 200, "bottom_mm": 300}, "bottom_mm", "across the bottom and only"),
        ({"depth_mm": 600, "top_mm": 600}, "depth_mm", "nobody lifts it"),
        ({"use": "jug", "depth_mm": 200, "top_mm": 110}, "mark_l", "read at its marks"),
        ({"use": "jug", "depth_mm": 200, "top_mm": 110, "mark_l": 1.5}, "mark_l", "too coarse"),
        ({"use": "drum", "depth_mm": 600, "top_mm": 500, "mixed_l": 300}, "mixed_l", "cannot mix"),
        ({"depth_mm": 0.5, "top_mm": 1}, "depth_mm", "holds only"),
        ({"depth_mm": "deep", "top_mm": 1}, "depth_mm", "cannot be read"),
    ],
)
def test_what_contradicts_itself_is_told_at_its_field(said: dict[str, object], field: str, words: str) -> None:
    from pydantic import ValidationError

    from keeve.core.message.errors import faults_of

    with pytest.raises((TradeError, ValidationError)) as refused:
        made(**said)
    faults = refused.value.faults if isinstance(refused.value, TradeError) else faults_of(refused.value)  # type: ignore[arg-type]
    assert faults[0].field == field
    assert words in plain(faults[0].sentence)
    assert plain(faults[0].hint)


def test_what_is_mixed_in_takes_the_usual_share_of_its_kind() -> None:
    # Shares as common practice has them: 0.62 of a drum, two thirds of the depth of a bucket, half a tray.
    drum = made(use="drum", depth_mm=700, top_mm=500).vessel
    assert isinstance(drum, Mixer)
    assert drum.mixed_l == pytest.approx(0.62 * brim_l(drum.section))
    assert drum.dry_share == 0.9
    bucket = made(use="bucket", depth_mm=300, top_mm=300, bottom_mm=240).vessel
    assert isinstance(bucket, Mixer)
    assert bucket.mixed_l == pytest.approx(volume_l(bucket.section, 200))
    assert bucket.mixed_l < 2 / 3 * brim_l(bucket.section)  # it is narrower below
    tray = made(use="tray", form="box", depth_mm=200, top_mm=900, top_wide_mm=600).vessel
    assert usual_mixed_l("tray", tray.section) == pytest.approx(54)
    rated = made(use="pan", depth_mm=380, top_mm=900, mixed_l=120, most_kg=300).vessel
    assert isinstance(rated, Mixer)
    assert (rated.kind, rated.mixed_l, rated.max_kg) == ("pan", 120, 300)
    jug = made(use="jug", depth_mm=230, top_mm=120, mark_l=0.05).vessel
    assert isinstance(jug, Container)
    assert jug.mark_l == 0.05


@given(st.floats(80, 500), st.floats(0.2, 1.0), st.floats(0, 0.8))
def test_a_bowl_is_part_of_a_ball(top: float, deep: float, flat: float) -> None:
    """Zone of a ball, V = π h (3 a² + 3 b² + h²) / 6; deeper than half a ball, that and a straight collar."""
    a, h, b = top / 2, top / 2 * deep, top / 2 * flat
    half = math.sqrt(a**2 - b**2)  # how high the ball of the rim's width stands over a bottom so wide
    ball = min(h, half)
    zone = math.pi * ball * (3 * a**2 + 3 * b**2 + ball**2) / 6 + math.pi * a**2 * (h - ball)
    measures = {"use": "bowl", "top_mm": top, "depth_mm": h} | ({"bottom_mm": 2 * b} if b > 1 else {})
    if b <= 1:
        zone = math.pi * h * (3 * a**2 + h**2) / 6
    assert made(**measures).brim_l == pytest.approx(zone * 1e-6, rel=2e-3)


def test_a_vessel_filled_part_way_keeps_its_typed_depth_and_rim() -> None:
    # A frustum of 262 and 300 across, 366 deep, filled to 150 and 300 mm: the marks above go on to its rim.
    pail = Section(rings=(Ring(height_mm=0, width_mm=262), Ring(height_mm=366, width_mm=300)))
    fills = [{"height_mm": h, "holds_l": volume_l(pail, h)} for h in (150, 300)]
    for typed in ({"depth_mm": 366}, {"depth_mm": 366, "top_mm": 300, "bottom_mm": 262}):
        found = made(fills=fills, **typed)
        assert found.vessel.section.depth_mm == 366
        assert found.brim_l == pytest.approx(brim_l(pail), rel=2e-3)
        assert fill_height_mm(found.vessel.section, 15) == pytest.approx(fill_height_mm(pail, 15), abs=0.5)


@pytest.mark.parametrize(
    ("typed", "field", "words"),
    [
        ({"depth_mm": 280}, "fills.1.height_mm", "its rim is at"),
        ({"depth_mm": 366, "top_mm": 330, "bottom_mm": 262}, "fills.1.holds_l", "by its measures"),
    ],
)
def test_a_fill_that_contradicts_the_measures_at_its_height_is_asked_about(
    typed: dict[str, float], field: str, words: str
) -> None:
    pail = Section(rings=(Ring(height_mm=0, width_mm=262), Ring(height_mm=366, width_mm=300)))
    fills = [{"height_mm": h, "holds_l": volume_l(pail, h)} for h in (150, 300)]
    with pytest.raises(LoadError, match=words) as refused:
        made(fills=fills, **typed)
    assert refused.value.faults[0].field == field


@pytest.mark.parametrize(("use", "rated", "gross"), [("drum", 90, 90 / 0.62), ("pan", 60, 60 / 0.62), ("tray", 40, 80)])
def test_a_mixer_of_which_only_the_rating_is_known_can_be_chosen(use: str, rated: float, gross: float) -> None:
    found = made(use=use, mixed_l=rated)
    assert isinstance(found.vessel, Mixer)
    assert (found.vessel.mixed_l, found.brim_l) == (rated, pytest.approx(gross))


def test_a_carry_is_the_fill_and_its_vessel() -> None:
    heavy = made(depth_mm=366, top_mm=300, bottom_mm=300, tare_kg=4).vessel
    assert isinstance(heavy, Container)
    # 22 kg and 4 kg of pail are more than 25 kg: two lifts.
    assert (fill_with(heavy, 12, 20.9).fills, fill_with(heavy, 12, 22).fills) == (1, 2)
