"""A mix in the amounts people think in, and the scale judged against them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keeve.catalogue import load_catalogue
from keeve.core.dosing.per_pack import Portion, portions
from keeve.core.message.errors import MixError
from keeve.core.message.said import plain
from keeve.core.vessels.scale_check import check_scale
from keeve.core.vessels.tolerance import BY_SCALE
from keeve.core.vessels.vessels import Container, Ring, Section, brim_l
from tests.prose import PROSE

SHELF = load_catalogue()
# A square box 200 mm wide and 250 mm deep: 10 L struck full.
BOX = Container(key="box", name="Box, 10 L", short="box", section=Section(rings=(
    Ring(height_mm=0, width_mm=200, depth_mm=200), Ring(height_mm=250, width_mm=200, depth_mm=200))))  # fmt: skip


def stated(key: str) -> dict[str, Portion]:
    mix = SHELF.mixes[key]
    return {p.of: p for p in portions(mix, mix.basis.proportions(), BOX)}


def test_one_gauge_of_cement_takes_the_gauges_the_mix_is_named_after() -> None:
    assert brim_l(BOX.section) == pytest.approx(10)
    gauge = stated("concrete-1-2-4")["gauge"]
    cement, sand, stone = gauge.doses
    # Cement at 1440 for nominal mixes, 10 L of it: 14.4 kg; and 1 : 2 : 4 is two boxes of dry sand and four of stone.
    assert cement.dry_kg == pytest.approx(14.4)
    assert (cement.gauges, sand.gauges, stone.gauges) == pytest.approx((1, 2, 4))


def test_one_bag_makes_what_its_label_says() -> None:
    bag = stated("concrete-bag-25kg")["pack"]
    assert bag.made_m3 == pytest.approx(0.012)
    assert bag.water_l.target == pytest.approx(1.75)
    assert bag.doses[0].dry_kg == pytest.approx(25)


def test_a_pail_is_counted_with_the_water_in_it() -> None:
    pail = stated("wet-base-kit")["pack"]
    first = pail.doses[0]
    held = SHELF.materials[first.material_key].held_water_percent
    assert held > 0
    assert pail.pack_kg == pytest.approx(first.dry_kg * (1 + held / 100))
    assert pail.pack_word == "pail"


def test_what_must_be_weighed_is_not_gauged() -> None:
    mix = SHELF.mixes["concrete-designed"]
    for portion in portions(mix, mix.basis.proportions(), BOX):
        for dose in portion.doses:
            if dose.role in ("supplementary", "powder", "fibre"):
                assert dose.gauges is None


@pytest.mark.parametrize("key", SHELF.mixes)
def test_every_portion_has_the_proportions_of_the_mix(key: str) -> None:
    made = SHELF.mixes[key].basis.proportions()
    for portion in stated(key).values():
        for dose, part in zip(portion.doses, made.constituents, strict=True):
            assert dose.dry_kg / portion.made_m3 == pytest.approx(part.dry_kg_m3, rel=1e-9)
        assert portion.water_l.target / portion.made_m3 == pytest.approx(made.water.target, rel=1e-9)


# ASTM C94 and EN 206, from memory: cement ±1 %, aggregate ±2 %, water ±1 %, admixtures ±3 %; EN 206 ±3 % and ±5 %.
@pytest.mark.parametrize(
    ("role", "off_percent", "passes"),
    [
        ("cement", 0.9, 2), ("cement", 1.1, 1), ("cement", -2.9, 1), ("cement", 3.1, 0),
        ("sand", 1.9, 2), ("sand", -2.1, 1), ("stone", 3.1, 0),
        ("water", 0.9, 2), ("water", 1.1, 1), ("water", 3.1, 0),
        ("admixture", 2.9, 2), ("admixture", -4.9, 1), ("admixture", 5.1, 0),
    ],
)  # fmt: skip
def test_readings_are_judged_as_the_standards_do(role: str, off_percent: float, passes: int) -> None:
    judged = check_scale(role, 40.0, 40.0 * (1 + off_percent / 100))
    assert len(judged.passes) == passes
    assert judged.good is (passes > 0)
    assert (PROSE["put-it-right"] in plain(judged.words)) is (passes == 0)
    assert ("too little" in plain(judged.words)) is (off_percent < 0)


@given(st.sampled_from(["cement", "sand", "water", "fibre", "lime"]), st.floats(0.01, 500), st.floats(-0.79, 3.9))
def test_a_reading_is_good_exactly_when_some_standard_lets_it_pass(role: str, wanted_kg: float, off: float) -> None:
    judged = check_scale(role, wanted_kg, wanted_kg * (1 + off))
    widest = 5.0 if role == "fibre" else 3.0
    assert judged.good is (abs(off) * 100 <= widest + 1e-9)
    assert judged.percent == pytest.approx(off * 100, abs=1e-6)


@pytest.mark.parametrize("times", [10, 0.1, 5.01, 0.19])
def test_a_point_in_the_wrong_place_is_refused(times: float) -> None:
    with pytest.raises(MixError, match=PROSE["about-ten-times-off"]):
        check_scale("powder", 0.084, 0.084 * times)


def test_the_european_rule_is_never_the_stricter_one() -> None:
    assert all(BY_SCALE["EN 206"][kind] >= allowed for kind, allowed in BY_SCALE["ASTM C94"].items())
