"""Evaporation and the temperature of a batch against published charts and worked examples, and against pint."""

import pint
import pytest

from keeve.core.conditions.temperature import MaterialTemperatures
from keeve.core.conditions.weather import Batch, evaporation_kg_m2_h, grade, ice_for_kg, water_for_c
from keeve.core.measure.reading import read_speed_km_h
from keeve.words.reader import US
from keeve.words.showing import show

UNITS = pint.UnitRegistry()  # type: ignore[var-annotated]


def test_the_chart_of_aci_305r_reads_a_quarter_pound() -> None:
    """ACI 305R figure 2.1.5, its example, from memory: 80 °F air, 50 %, concrete at 87 °F, 12 mph: 0.25 lb/ft²h."""
    wind = UNITS.Quantity(12, "mile/hour").to("km/hour").magnitude
    found = evaporation_kg_m2_h((87 - 32) / 1.8, (80 - 32) / 1.8, 0.5, wind)
    chart = UNITS.Quantity(0.25, "lb/ft**2/hour").to("kg/m**2/hour").magnitude
    assert chart == pytest.approx(1.22, abs=0.005)
    assert found == pytest.approx(chart, rel=0.08)  # the chart is read to a twentieth, and the equation is below it
    assert grade(found) == "protect"


@pytest.mark.parametrize(
    ("concrete_c", "air_c", "humidity", "wind", "least", "most"),
    [
        # PCA, Design and Control of Concrete Mixtures, table of evaporation for 21 °C and 16 km/h, from memory:
        # 70 °F, 10 mph: 0.015 lb/ft²h at 90 %... and 0.135 at 10 % of humidity.
        (21.1, 21.1, 0.90, 16.1, 0.07, 0.13),
        (21.1, 21.1, 0.50, 16.1, 0.42, 0.55),
        (21.1, 21.1, 0.10, 16.1, 0.80, 0.90),
    ],
)
def test_the_table_of_the_handbook(
    concrete_c: float, air_c: float, humidity: float, wind: float, least: float, most: float
) -> None:
    assert least <= evaporation_kg_m2_h(concrete_c, air_c, humidity, wind) <= most


def test_ice_and_cold_water_by_the_rule_of_the_handbook() -> None:
    """A 4 °C colder water cools concrete by about 1 °C: PCA, from memory; for a mix of 300, 1850 and 165 kg."""
    batch = Batch(1850, 300, 165, 0)
    warm = MaterialTemperatures(water_c=24, aggregate_c=30, binder_c=40)
    whole = 0.22 * 2150 + 165
    now = (0.22 * (1850 * 30 + 300 * 40) + 165 * 24) / whole  # the formula of ACI 305R by hand
    assert water_for_c(now - 1, warm, batch) == pytest.approx(24 - 4, abs=0.2)
    # Seventy-five kilograms of ice in place of water cool by about 12 °C: 75 (24 + 79.6) over the heat of the batch.
    assert ice_for_kg(now - 75 * (24 + 79.6) / whole, warm, batch) == pytest.approx(75, rel=1e-9)


@pytest.mark.parametrize(
    ("text", "unit"), [("12 mph", "mile/hour"), ("7 m/s", "m/s"), ("9 kn", "knot"), ("15 km/h", "km/hour")]
)
def test_wind_is_read_as_pint_reads_it(text: str, unit: str) -> None:
    wanted = UNITS.Quantity(float(text.split(maxsplit=1)[0]), unit).to("km/hour").magnitude
    assert read_speed_km_h(text) == pytest.approx(wanted, rel=1e-9)


def test_wind_and_drying_are_shown_as_pint_turns_them() -> None:
    drying = UNITS.Quantity(1.2, "kg/m**2/hour").to("lb/ft**2/hour").magnitude
    assert float(show(1.2, "kg/m²h", US).split()[0]) == pytest.approx(drying, rel=0.005)
    assert float(show(16.09344, "km/h", US).split()[0]) == pytest.approx(10, rel=0.005)
