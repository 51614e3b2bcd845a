"""Casting plaster and moulds against worked figures."""

import math

import pytest

from keeve.catalogue import JobSheet, load_catalogue, plan_sheet
from keeve.core.message.errors import MixError
from keeve.core.proportions.bases.powder_water import PowderWater, read_water_to_powder
from keeve.core.takeoff.shapes import Body, Mould
from tests.prose import PROSE

LB_KG = 0.45359237  # NIST SP 811
QT_L = 0.946352946  # NIST SP 811
IN3_L = 0.016387064  # NIST SP 811
WATER_20C = 998.2  # kg/m³ at 20 °C, CRC handbook, from memory


def test_ten_pounds_at_65_take_six_and_a_half_pounds_of_water() -> None:
    # Common practice, no source: the consistency number is parts of water to 100 of powder by mass.
    assert 10 * read_water_to_powder("65") == pytest.approx(6.5)


@pytest.mark.parametrize(("powder_lb", "expected"), [(2.75, 0.757), (2.85, 0.731), (3.00, 0.694)])
def test_a_quart_of_water_to_some_pounds_of_plaster_is_this_ratio(powder_lb: float, expected: float) -> None:
    # Plain arithmetic with water at 20 °C; the shop's "3 lb to the quart" is therefore a 69, not a 65.
    typed = f"{QT_L * WATER_20C / 1000 / LB_KG:.6f} : {powder_lb}"
    assert read_water_to_powder(typed) == pytest.approx(expected, abs=0.001)


@pytest.mark.parametrize("typed", ["3 lb to the quart", "1 qt : 3 lb", "3lb/qt", "3 lb per qt"])
def test_the_shops_rule_is_read_for_what_it_is(typed: str) -> None:
    # NIST SP 811: a quart is 0.946 L and 3 lb are 1.361 kg; at 1 kg/L that is 0.70 (0.694 at 20 °C).
    assert read_water_to_powder(typed) == pytest.approx(0.695, abs=0.002)


def test_three_pounds_and_a_quart_make_89_cubic_inches() -> None:
    # Solids arithmetic at 2650 kg/m³, without air; the shop rule says 80 and hides about 10 %.
    plaster = load_catalogue().materials["casting-plaster"]
    powder_kg = 3 * LB_KG
    mix = PowderWater(material=plaster, water_to_powder=QT_L / powder_kg, air_percent=0)
    made_l = powder_kg / mix.proportions().constituents[0].dry_kg_m3 * 1000
    assert made_l == pytest.approx(1.46, abs=0.005)
    assert made_l / IN3_L == pytest.approx(89.1, abs=0.1)


@pytest.mark.parametrize("typed", ["70 plaster : 100 water", "100:70", "143", "100 water to 70 plaster", "1.43"])
def test_seventy_plaster_to_a_hundred_water_is_refused_as_turned_round(typed: str) -> None:
    with pytest.raises(MixError, match=PROSE["did-you-mean-70-of"]) as caught:
        read_water_to_powder(typed)
    assert caught.value.faults[0].value == pytest.approx(0.70)


def test_half_a_mould_of_210_less_63_cubic_inches_is_73_and_a_half() -> None:
    # Plain arithmetic; 80 in³ to the "quart" is a shop rule, common practice, no source.
    mould = Mould(
        container=Body(form="volume", volume_l="210 in3"),
        model=Body(form="volume", volume_l="63 in3"),
        share_percent="1/2",
    )
    volume_in3 = mould.volume()[0] * 1000 / IN3_L
    assert volume_in3 == pytest.approx(73.5)
    assert volume_in3 / 80 == pytest.approx(0.92, abs=0.005)


def test_water_and_plaster_of_a_cylinder_by_hand() -> None:
    # A cup of 200 mm by 100 mm, recomputed here from the definition of w/p: no function of the core.
    volume_m3 = math.pi * 0.1**2 * 0.1 * 1.05
    powder = volume_m3 * 0.99 / (1 / 2650 + 0.70 / 1000)
    cup = {"kind": "cylinder", "diameter_mm": 200, "height_mm": 100}
    plan = plan_sheet(JobSheet.model_validate({"shapes": [cup], "mix": "casting-plaster-70"}))
    assert plan.totals[0].dry_kg == pytest.approx(powder, rel=1e-6)
    assert plan.water_l.target == pytest.approx(powder * 0.70, rel=1e-6)
