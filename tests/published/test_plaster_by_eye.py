"""Plaster without a scale for the water: islands and the shop's quart, against arithmetic anyone can redo."""

import pytest

from keeve.catalogue import JobSheet, plan_sheet
from keeve.core.message.errors import TradeError
from keeve.core.message.said import plain

LB, QT_L, IN3_L = 0.45359237, 0.946352946, 0.016387064  # NIST SP 811


def planned(mix: str, **changes):
    sheet = {"shapes": [{"kind": "known", "volume_l": 3}], "mix": mix, "changes": changes}
    return plan_sheet(JobSheet.model_validate(sheet))


def test_three_pounds_to_the_quart_is_069_and_makes_89_cubic_inches() -> None:
    # Handbook check 4: 1 qt and 3.00 lb give w/p 0.694 at 998.2 kg/m³, 0.695 at 1000; 1.46 L = 89.1 in³ without air.
    plan = planned("casting-plaster-shop")
    assert plan.ratios[0].value == pytest.approx(0.6954, abs=5e-4)
    solids_l = 3 * LB / 2.650 + QT_L
    assert solids_l / IN3_L == pytest.approx(89.1, abs=0.1)
    made_l = 1 / sum(c.dry_kg_m3 for c in plan.proportions.constituents) * 3 * LB * 1000
    assert made_l == pytest.approx(solids_l / 0.99)
    rule = plan.proportions.workings[1]
    assert rule.result == pytest.approx((solids_l / 0.99 / (80 * IN3_L) - 1) * 100)
    given = {g.name: g.value for g in rule.given}
    assert given["w/p if a quart weighed 2 lb"] == pytest.approx(2 / 3, abs=1e-3)


def test_a_shop_rule_turned_round_is_caught() -> None:
    with pytest.raises(TradeError, match="turned round"):
        planned("casting-plaster-shop", powder_kg="2 lb", water_l="1.4 qt")


def test_one_to_one_by_volume_and_what_070_takes() -> None:
    # Handbook: 1 : 1 is w/p 0.9 (settled, 1100) to 1.2 (sifted, 850); 0.70 takes 1.3 to 1.7 volumes. Plain arithmetic.
    assert pytest.approx(0.91, abs=0.005) == 1 / 1.100
    assert pytest.approx(1.18, abs=0.005) == 1 / 0.850
    given = {g.name: g.value for g in planned("casting-plaster-islands").proportions.workings[0].given}
    ratio = given["w/p from them"]
    assert given["volumes of settled plaster to one of water"] == pytest.approx(1 / (ratio * 1.100))
    assert given["volumes of sifted plaster to one of water"] == pytest.approx(1 / (ratio * 0.850))


def test_more_islands_make_a_stronger_plaster_and_the_range_is_told() -> None:
    third, half, two_thirds = (planned("casting-plaster-islands", cover_percent=c) for c in (34, 50, 66))
    assert third.ratios[0].value > half.ratios[0].value > two_thirds.ratios[0].value
    # the usual plasters lie in the range that the school gives
    assert two_thirds.ratios[0].value < 0.65 < third.ratios[0].value
    assert any("0.69" in plain(words) and "0.61" in plain(words) for words in half.warnings)
    assert third.proportions.water.low < third.proportions.water.target < third.proportions.water.high


def test_the_bucket_keeps_room_above_the_water_for_the_powder() -> None:
    sheet = {"shapes": [{"kind": "known", "volume_l": 40}], "mix": "casting-plaster-islands", "mixer": "paddle-bucket"}
    plan = plan_sheet(JobSheet.model_validate(sheet))
    # gross of the 20 L bucket: frustum 255/295 over 340 mm
    gross_l = 3.141592653589793 * 340 / 12 * (255**2 + 255 * 295 + 295**2) * 1e-6
    assert max(card.water.pour.target for card in plan.cards) <= gross_l / 3 * (1 + 1e-6)
