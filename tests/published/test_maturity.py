"""Maturity, strength with age, and drying against published figures, `pint` and plain integration."""

import math

import numpy as np
import pint
import pytest
from hypothesis import given
from hypothesis import strategies as st

from keeve.core.hardening.maturity import At, equivalent_days, maturity_c_h, share_of_28_days
from keeve.core.hardening.waiting import screed_drying_days, with_drying
from keeve.core.message.errors import MixError
from keeve.core.proportions.family import FAMILIES
from tests.prose import PROSE


def steady(c: float, days: float) -> tuple[At, ...]:
    return tuple(At(float(h), c) for h in np.arange(0, days * 24 + 1, 4))


def test_twenty_eight_days_at_eighteen_degrees() -> None:
    # Neville, Properties of Concrete: 28 days at 18 °C are about 19 800 °C·h, datum −11 °C; from memory, so within 2 %.
    assert maturity_c_h(steady(18, 28), -11) == pytest.approx(19_800, rel=0.02)


@pytest.mark.parametrize(("days", "share"), [(1, 0.34), (3, 0.60), (7, 0.78), (14, 0.90), (28, 1.00), (90, 1.12)])
def test_strength_with_age_of_a_normal_cement(days: float, share: float) -> None:
    # EN 1992-1-1 commentary, β for s = 0.25, from memory to two figures.
    assert share_of_28_days(days) == pytest.approx(share, abs=0.006)


@pytest.mark.parametrize(("days", "rapid", "slow"), [(3, 0.66, 0.46), (7, 0.82, 0.68)])
def test_strength_with_age_of_rapid_and_slow_cement(days: float, rapid: float, slow: float) -> None:
    # The same table for s = 0.20 and 0.38, from memory to two figures.
    assert share_of_28_days(days, "R") == pytest.approx(rapid, abs=0.006)
    assert share_of_28_days(days, "S") == pytest.approx(slow, abs=0.006)


def test_maturity_in_fahrenheit_is_the_same_by_pint() -> None:
    units = pint.UnitRegistry()  # type: ignore[var-annotated]
    trace = steady(25, 2)
    told = units.Quantity(maturity_c_h(trace, 0.0), "delta_degC * hour").to("delta_degF * hour").magnitude
    assert told == pytest.approx((25 * 9 / 5) * 48)


@given(st.lists(st.floats(-5, 60), min_size=3, max_size=40))
def test_above_the_datum_it_is_the_area_under_the_trace(temperatures: list[float]) -> None:
    trace = tuple(At(3.0 * n, c) for n, c in enumerate(temperatures))
    area = np.trapezoid([c + 10 for c in temperatures], dx=3.0)
    assert maturity_c_h(trace) == pytest.approx(float(area), abs=1e-9)
    # What froze does not go back; and warmer is never behind.
    assert maturity_c_h(trace, 0.0) >= 0
    assert maturity_c_h(tuple(one._replace(c=one.c + 5) for one in trace)) >= maturity_c_h(trace)
    assert equivalent_days(trace) == pytest.approx(maturity_c_h(trace) / 30 / 24)


def test_heat_cured_it_is_older_than_its_days() -> None:
    # Twelve hours at 60 °C by Saul are 840 °C·h: 28 hours at 20 °C. Plain arithmetic.
    assert equivalent_days(tuple(At(float(h), 60.0) for h in range(0, 13, 4))) * 24 == pytest.approx(28)


@pytest.mark.parametrize(
    ("trace", "said"),
    [
        ((), "two readings"),
        ((At(0, 20),), "two readings"),
        ((At(-1, 20), At(1, 20)), "before the cast"),
        ((At(0, 20), At(1, 160)), "No concrete is at"),
        ((At(0, 20), At(30, 20)), "silent from 0"),
    ],
)
def test_a_trace_that_tells_too_little_is_refused_in_words(trace: tuple[At, ...], said: str) -> None:
    with pytest.raises(MixError, match=said):
        maturity_c_h(trace)


def test_an_age_before_the_cast_is_refused() -> None:
    with pytest.raises(MixError, match=PROSE["not-cast-yet"]):
        share_of_28_days(0)


@pytest.mark.parametrize(("mm", "days"), [(40, 40), (50, 50), (65, 80), (75, 100), (100, 150)])
def test_a_screed_dries_as_the_guidance_says(mm: float, days: float) -> None:
    # BS 8204 guidance, a day a millimetre to 50 mm, two above; from memory. Counted from the uncovering.
    assert screed_drying_days(mm) == days
    dries = with_drying((), FAMILIES["screed"], mm)[0]
    assert (dries.from_days, dries.to_days) == (7, 7 + math.ceil(days))
