"""What a person types, and how figures are said."""

from collections.abc import Callable

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from keeve.core.materials.heap_doors import read_moisture
from keeve.core.measure.reading import (
    read_density_kg_m3,
    read_length_mm,
    read_number,
    read_percent,
    read_strength_mpa,
    read_temperature_c,
    read_volume_l,
)
from keeve.core.message.errors import UnitError
from keeve.core.message.said import plain
from keeve.core.takeoff.shapes import Slab
from keeve.words.reader import US
from keeve.words.showing import show, show_length, show_litres, show_mass, show_space
from tests.prose import PROSE


@pytest.mark.parametrize(
    ("typed", "expected_mm"),
    [
        ("450", 450), ("1.2m", 1200), ("1,2 m", 1200), ("2 1/2 in", 63.5), ("2½ in", 63.5), ("6'4\"", 1930.4),
        ("6 ft 4 in", 1930.4), ("6'4", 1930.4), ("7/8 in", 22.225), ("0,5 m", 500), ("-3", -3), ("1e3", 1000),
        ("6'-4 1/2\"", 1943.1), ("1,5 m", 1500), ("1.500,5", 1500.5), ("1,500.5 mm", 1500.5), ("1,234,567", 1234567),
        ("2\u202f650", 2650), ("1.500", 1.5),
    ],
)  # fmt: skip
def test_lengths_are_read_as_people_write_them(typed: str, expected_mm: float) -> None:
    assert read_length_mm(typed) == pytest.approx(expected_mm)


@pytest.mark.parametrize(
    "typed",
    [
        "",
        "  ",
        "wide",
        "3 kg",
        "2 1/0 in",
        "1,200 mm",
        "1,500",
        "1.500,5,5",
        "1 234",
        "1 234 mm",
        "3 4",
        "4..2",
        "10 %",
    ],
)
def test_what_cannot_be_read_is_refused_with_a_way_out(typed: str) -> None:
    with pytest.raises(UnitError) as caught:
        read_length_mm(typed)
    assert plain(caught.value.faults[0].sentence).endswith(".")


def test_a_comma_that_could_mean_thousands_is_asked_about() -> None:
    with pytest.raises(UnitError, match=r"Write 1200 mm"):
        read_length_mm("1,200 mm")


@pytest.mark.parametrize(("typed", "expected"), [("1/2", 50), ("½", 50), ("33.3", 33.3), ("7,5 %", 7.5)])
def test_shares_may_be_fractions(typed: str, expected: float) -> None:
    assert read_percent(typed) == pytest.approx(expected)


@pytest.mark.parametrize(
    ("typed", "percent"), [("1060/1000", 6), ("530 / 500", 6), ("5 %", 5), ("7.5", 7.5), ("1/2", 50)]
)
def test_moisture_may_be_typed_as_a_pan_test(typed: str, percent: float) -> None:
    # ASTM C566, from memory: (wet - dry) / dry.
    assert read_moisture(typed) == pytest.approx(percent)


def test_a_plain_number_takes_no_unit() -> None:
    assert read_number("1 3/4") == 1.75
    with pytest.raises(UnitError, match=r"cannot be read|without a unit|plain number"):
        read_number("3 mm")


@given(st.floats(1.0, 1e5))
def test_litres_shown_in_gallons_read_back_to_what_they_were(litres: float) -> None:
    number, unit = show_litres(litres, US)
    again = read_volume_l(f"{number} {unit}".replace("\u202f", ""))
    assert again == pytest.approx(litres, rel=0.006)


@given(st.floats(1.0, 1e5))
def test_lengths_shown_in_feet_read_back_to_the_nearest_eighth(length_mm: float) -> None:
    number, unit = show_length(length_mm, US)
    assert read_length_mm(f"{number} {unit}") == pytest.approx(length_mm, abs=25.4 / 16 + 1e-6)


@pytest.mark.parametrize(
    ("shown", "expected"),
    [
        (show_mass(0.0004), ("0.400", "g")), (show_mass(0.5, US), ("1.10", "lb")), (show_mass(0.1, US), ("3.53", "oz")),
        (show_litres(0.0), ("0", "L")), (show_litres(0.02, US), ("0.676", "fl oz")), (show_litres(1.0, US), ("1.06", "qt")),
        (show_space(0.01, US), ("0.35", "ft³")), (show_space(0.0005, US), ("30.5", "in³")), (show_space(12.3), ("12.3", "m³")),
        (show_length(5), ("5.0", "mm")), (show_length(2, US), ("3/32", "in")), (show_mass(1234.5), ("1\u202f234", "kg")),
    ],
)  # fmt: skip
def test_figures_are_said_with_the_digits_that_matter(shown: tuple[str, str], expected: tuple[str, str]) -> None:
    assert shown == expected


def test_an_unknown_unit_is_said_as_it_is() -> None:
    assert show(0.5, "bags") == "0.5 bags"


@pytest.mark.parametrize(
    ("typed", "mpa"), [("28", 28), ("28 MPa", 28), ("4000 psi", 27.579), ("4 ksi", 27.579), ("30 N/mm²", 30)]
)
def test_a_strength_is_read_in_either_system(typed: str, mpa: float) -> None:
    # 1 psi = 0.006 894 757 MPa: NIST SP 811, appendix B.8.
    assert read_strength_mpa(typed) == pytest.approx(mpa, rel=1e-4)


@pytest.mark.parametrize(
    ("typed", "kg_m3"), [("1506", 1506), ("94 lb/ft3", 1505.74), ("94 lb / ft³", 1505.74), ("1.5 kg/L", 1500)]
)
def test_a_density_is_read_in_either_system(typed: str, kg_m3: float) -> None:
    # 1 lb/ft³ = 16.018 46 kg/m³: NIST SP 811, appendix B.8.
    assert read_density_kg_m3(typed) == pytest.approx(kg_m3, rel=1e-4)


@pytest.mark.parametrize(
    ("typed", "celsius"), [("21", 21), ("70 F", 21.11), ("70°F", 21.11), ("-5 °C", -5), ("32 f", 0)]
)
def test_a_temperature_is_read_on_either_scale(typed: str, celsius: float) -> None:
    # t = (t_F − 32) / 1.8: NIST SP 811, appendix B.8.
    assert read_temperature_c(typed) == pytest.approx(celsius, abs=0.01)


@pytest.mark.parametrize(
    ("read", "typed"),
    [(read_strength_mpa, "28 kg"), (read_strength_mpa, "4,000 psi"), (read_density_kg_m3, "94 lb"), (read_temperature_c, "70 K")],
)  # fmt: skip
def test_a_unit_of_another_kind_is_asked_about(read: Callable[[str], float], typed: str) -> None:
    with pytest.raises(UnitError) as caught:
        read(typed)
    assert caught.value.faults[0].hint


def test_true_is_no_length() -> None:
    with pytest.raises(ValidationError, match=PROSE["write-a-number-here"]):
        Slab.model_validate({"length_mm": True, "width_mm": 1000, "depth_mm": 100})
