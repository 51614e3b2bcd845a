"""Conversions against pint, fill marks against scipy, a pail against common practice."""

import pint
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq

from keeve.catalogue import load_catalogue
from keeve.core.measure.reading import read_length_mm, read_mass_kg, read_volume_l
from keeve.core.vessels.vessels import Ring, Section, brim_l, fill_height_mm, volume_l

PINT = pint.UnitRegistry()  # type: ignore[var-annotated]
VESSELS = [
    *(m.section for m in load_catalogue().mixers.values()),
    *(c.section for c in load_catalogue().containers.values()),
]


@pytest.mark.parametrize("unit", ["mm", "cm", "m", "inch", "foot", "yard"])
def test_lengths_agree_with_pint(unit: str) -> None:
    short = {"inch": "in", "foot": "ft", "yard": "yd"}.get(unit, unit)
    assert read_length_mm(f"2.5 {short}") == pytest.approx(PINT.Quantity(2.5, unit).to("mm").magnitude, rel=1e-12)


@pytest.mark.parametrize(
    ("ours", "theirs"),
    [
        ("mL", "milliliter"), ("L", "liter"), ("m3", "meter**3"), ("gal", "gallon"), ("qt", "quart"), ("pt", "pint"),
        ("fl oz", "fluid_ounce"), ("ft3", "foot**3"), ("in3", "inch**3"), ("yd3", "yard**3"),
    ],
)  # fmt: skip
def test_volumes_agree_with_pint(ours: str, theirs: str) -> None:
    assert read_volume_l(f"3.5 {ours}") == pytest.approx(PINT.Quantity(3.5, theirs).to("liter").magnitude, rel=1e-12)


@pytest.mark.parametrize(("ours", "theirs"), [("g", "gram"), ("kg", "kg"), ("t", "metric_ton"), ("lb", "pound"), ("oz", "ounce")])  # fmt: skip
def test_masses_agree_with_pint(ours: str, theirs: str) -> None:
    assert read_mass_kg(f"7 {ours}") == pytest.approx(PINT.Quantity(7, theirs).to("kg").magnitude, rel=1e-12)


@given(st.sampled_from(VESSELS), st.floats(0.001, 0.999))
def test_fill_heights_agree_with_a_root_finder(section: Section, share: float) -> None:
    wanted = brim_l(section) * share
    expected = brentq(lambda h: volume_l(section, h) - wanted, 0, section.depth_mm, xtol=1e-9)
    assert fill_height_mm(section, wanted) == pytest.approx(expected, abs=1e-5)


def test_an_ordinary_pail_filled_to_50_mm_below_the_rim_holds_about_19_litres() -> None:
    # Rim 300, base 262, depth 366 mm. Common practice, no source: "five gallons to two inches below the rim".
    pail = Section(rings=(Ring(height_mm=0, width_mm=262), Ring(height_mm=366, width_mm=300)))
    assert volume_l(pail, 366 - 50) == pytest.approx(19, abs=0.4)


def test_the_drums_hold_what_their_names_say_mixed() -> None:
    # Common practice, no source: mixed volume is about 0.62 of the gross.
    for key in ("drum-small", "drum-site"):
        drum = load_catalogue().mixers[key]
        assert drum.mixed_l / brim_l(drum.section) == pytest.approx(0.62, abs=0.04)
