"""What stands beside a field, and what a bare number in it means."""

from typing import Any, get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keeve.core.measure.reading import read_length_mm, read_percent, read_strength_mpa, read_volume_l
from keeve.core.proportions.asked import Beside
from keeve.words.beside import MEANT, number_beside, unit_beside, with_units, without_unit
from keeve.words.reader import METRIC, US, Reader


@pytest.mark.parametrize(
    ("typed", "unit", "kept"),
    [
        ("4000 psi", "MPa", "4000 psi"),  # typed in a metric yard
        ("28 MPa", "psi", "28 MPa"),  # and in a US one
        ("4000", "psi", "4000 psi"),
        ("6'-4 1/2\"", "mm", "6'-4 1/2\""),
        ("1.2m", "mm", "1.2m"),
        ("1,5 m", "mm", "1,5 m"),
        ("3*2.4 + 0.6", "m", "3*2.4 + 0.6 m"),
        ("95 ± 5", "mm", "95 ± 5 mm"),
        ("2½", "in", "2½ in"),
        ("1/2", "%", "1/2"),
        ("1/2", "in", "1/2 in"),
        ("1060/1000", "%", "1060/1000"),
        ("6 wet", "%", "6 wet"),
        ("  ", "mm", ""),
    ],
)
def test_a_bare_number_takes_the_unit_beside_it_and_nothing_else_does(typed: str, unit: str, kept: str) -> None:
    assert with_units({"shapes": [{"depth_mm": f"{typed}{MEANT}{unit}"}]}) == {"shapes": [{"depth_mm": kept}]}


@pytest.mark.parametrize("typed", ["12\u00a0mm", "note, by the gate", "", 12, None, True, [1, {"a": "b"}]])
def test_what_no_field_sent_stays_as_it_is(typed: Any) -> None:
    assert with_units({"note": typed}) == {"note": typed}


@pytest.mark.parametrize("reader", [METRIC, US])
@pytest.mark.parametrize("beside", get_args(Beside))
def test_what_a_field_shows_is_what_it_takes(beside: Beside, reader: Reader) -> None:
    unit = unit_beside(beside, reader)
    assert without_unit(f"450 {unit}", unit) == (f"450 {unit}" if not unit else "450")
    assert without_unit(None, unit) == ""
    assert without_unit(450.0, unit) == "450"


READS = {"far": read_length_mm, "near": read_length_mm, "litres": read_volume_l, "water": read_volume_l,
         "yield": read_volume_l, "strength": read_strength_mpa, "%": read_percent}  # fmt: skip


@given(st.sampled_from(sorted(READS)), st.floats(1, 900), st.sampled_from([METRIC, US]))
def test_a_grey_number_typed_over_itself_changes_nothing(beside: Beside, value: float, reader: Reader) -> None:
    shown = number_beside(value, beside, reader)
    sent = with_units({"x": f"{shown}{MEANT}{unit_beside(beside, reader)}"})["x"]
    figures = 6e-3 if reader.us and beside in ("near", "far") else 6e-4
    assert READS[beside](sent) == pytest.approx(value, rel=figures)  # three figures are shown, or four
