"""What a person finds out at the heap, and what it does to the doses."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keeve.catalogue import load_catalogue
from keeve.core.materials.field_tests import from_wet_basis_percent
from keeve.core.materials.heap_doors import read_bulking, read_moisture
from keeve.core.materials.looks import HeapLook
from keeve.core.materials.material import BulkingGrade
from keeve.core.materials.moisture import bulking_percent, heap_water, jar_moistures_percent, with_jar
from keeve.core.message.errors import TradeError
from keeve.core.message.said import plain
from tests.conftest import Planner
from tests.prose import PROSE

SHELF = load_catalogue()


@pytest.mark.parametrize(
    ("typed", "percent"),
    [
        ("1060/1000", 6.0),
        ("212 g / 200 g", 6.0),
        ("6", 6.0),
        ("6 % wet", 6.382978),
        ("6 wet basis", 6.382978),
        ("20 % of the wet mass", 25.0),
        ("0 wet", 0.0),
        ("5 1/2", 5.5),
    ],
)
def test_moisture_is_read_from_pan_meter_or_label(typed: str, percent: float) -> None:
    assert read_moisture(typed) == pytest.approx(percent, abs=1e-5)


def test_a_jar_is_read_as_two_heights() -> None:
    assert read_bulking("150/120") == pytest.approx(25)
    assert read_bulking("150 mm / 120 mm") == pytest.approx(25)
    assert read_bulking("25 %") == pytest.approx(25)


def test_no_heap_is_half_water() -> None:
    with pytest.raises(TradeError, match=PROSE["check-the-meter"]):
        from_wet_basis_percent(51)


def test_a_jar_goes_before_the_table_and_before_the_damp_loose_convention(planned: Planner) -> None:
    # 1 : 2½ lime mortar counts sand dry, 1600 kg/m³ loose; a jar of 25 % leaves 1280 in the gauge whatever the table says.
    dry = planned(
        mix="lime-pointing-1-2-5", moisture_percent={"sharp-sand": 2}, bulking_percent={"sharp-sand": "150/120"}
    )
    sand = dry.cards[0].doses[1]
    assert sand.gauged_l == pytest.approx(sand.dry_kg / 1280 * 1000)
    # 1 : 3 cement mortar counts it damp loose at 1281; the jar says what really lies in this pail.
    damp = planned(mix="cement-mortar-1-3", bulking_percent={"sharp-sand": 40})
    sand = damp.cards[0].doses[1]
    assert sand.gauged_l == pytest.approx(sand.dry_kg / (1600 / 1.4) * 1000)


def test_a_cap_on_water_to_cement_lowers_the_highest_and_never_the_target(planned: Planner) -> None:
    free = planned(mix="concrete-1-1h-3")
    cement = free.proportions.constituents[0].dry_kg_m3
    capped = planned(mix="concrete-1-1h-3", ratio_cap=0.50)
    assert capped.proportions.water.target == free.proportions.water.target
    assert capped.proportions.water.high == pytest.approx(0.50 * cement)
    assert capped.proportions.water.high < free.proportions.water.high


def test_a_cap_under_the_target_is_refused_with_the_way_out(planned: Planner) -> None:
    with pytest.raises(TradeError, match=r"over your 0\.45") as caught:
        planned(mix="concrete-1-2-4", ratio_cap="0.45")
    assert caught.value.faults[0].field == "ratio_cap"
    with pytest.raises(TradeError, match=PROSE["does-not-say-how"]):
        planned(mix="casting-plaster-70", ratio_cap=0.45)


def test_ice_takes_its_share_of_the_pour_and_goes_in_with_the_first_water(planned: Planner) -> None:
    plain = planned(mix="concrete-1-2-4", strategy="equal").cards[0]
    iced = planned(mix="concrete-1-2-4", strategy="equal", ice_percent=40).cards[0]
    assert iced.water.ice_kg == pytest.approx(0.4 * plain.water.pour.target)
    assert iced.water.pour.target == pytest.approx(0.6 * plain.water.pour.target)
    assert iced.water.free == plain.water.free
    placed = [step for step in iced.steps if any(d.material_key == "ice" for d in step.doses)]
    assert [step.kind for step in placed] == ["water"]


def test_a_trial_load_that_slumped_too_little_gets_more_water_at_the_same_ratio(planned: Planner) -> None:
    # ACI 211.1-91 section 6.3.9, from memory: 6 kg/m³ for 25 mm, w/c held.
    design = {"slump_mm": 90, "stone_mm": 37.5, "mean_mpa": 24, "fineness_modulus": 2.8}
    first = planned(mix="concrete-designed", changes=design)
    after = planned(mix="concrete-designed", changes=design | {"trial_slump_mm": 50})
    assert after.proportions.water.target - first.proportions.water.target == pytest.approx(6 * 40 / 25)
    assert after.ratios[0].value == pytest.approx(first.ratios[0].value)


def test_a_pan_is_read_with_its_tare() -> None:
    # (1474 − 412) / (1412 − 412) = 1062 / 1000: 6.2 % on the dry.
    assert read_moisture("(1474-412)/(1412-412)") == pytest.approx(6.2)
    assert read_moisture("(1474-1412)/(1412-412)") == pytest.approx(6.2)


@given(st.floats(0, 20), st.sampled_from(["ordinary", "fine", "coarse"]))
def test_a_jar_turned_round_finds_the_moisture_it_had(moisture: float, grade: BulkingGrade) -> None:
    found = jar_moistures_percent(bulking_percent(moisture, grade), grade)
    if found is None:
        assert bulking_percent(moisture, "ordinary") < 2  # hardly any: dry or drowned
    else:
        assert any(one == pytest.approx(moisture, abs=1e-6) for one in found)


@pytest.mark.parametrize(
    ("told", "wants"),
    [
        # The curve is 25 % at 4 % of water and, on its way from 28 at 8 to 18 at 12, at 9.2 % again.
        (None, 9.2),  # nobody looked: the wetter
        ("damp", 4.0),  # a damp heap is on its way up; the jar says 4, the look says less or as much
        ("wet", 9.2),
        (5.5, 5.5),  # a pan goes before both
    ],
)
def test_a_jar_has_its_own_figure_for_the_water(told: float | HeapLook | None, wants: float) -> None:
    sand = SHELF.mixes["cement-mortar-1-3"].materials()[1]
    found = with_jar(sand, told, 25.0)
    looked = heap_water(sand, told).likely if told is not None else 0.0
    assert found == pytest.approx(max(wants, looked))


def test_a_heap_that_alone_brings_too_much_is_told_before_it_is_begun(planned: Planner) -> None:
    plan = planned(mix="screed-semi-dry", mixer="pan-forced", moisture_percent={"screed-sand": 11})
    water = plan.cards[0].water
    sand = water.lines[0]
    assert water.free.target < sand.litres <= water.free.high
    assert water.pour.target == 0
    (said,) = [plain(one) for one in plan.warnings if PROSE["it-alone-brings"] in plain(one)]
    assert f"{sand.litres:.2f}"[:3] in said
    drier = planned(mix="screed-semi-dry", mixer="pan-forced", moisture_percent={"screed-sand": 10})
    assert not any(PROSE["it-alone-brings"] in plain(one) for one in drier.warnings)
