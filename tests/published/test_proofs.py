"""Specimens, statistics and acceptance against scipy, numpy and the worked figures of the rules."""

from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from keeve.core.hardening.strength import dry_cast_kg
from keeve.core.message.errors import MixError
from keeve.core.records.proofs import (
    CHARACTERISTIC,
    Broken,
    Cast,
    Result,
    Weighing,
    aci_318,
    check_result,
    drying,
    due_on,
    en_206,
    figures,
    means_of_loads,
)
from keeve.core.records.specimens import stress_mpa
from tests.prose import PROSE

AT = datetime(2026, 9, 14, 9, tzinfo=UTC)
STRENGTHS = st.lists(st.floats(5, 90), min_size=2, max_size=60)


def cast(**more: object) -> Cast:
    return Cast.model_validate({"id": "cast-0001", "at": AT, "shape": "cube-150"} | more)


@pytest.mark.parametrize(
    ("shape", "kn", "mpa"),
    [("cube-100", 300, 30.0), ("cube-150", 900, 40.0), ("cylinder-100", 235.6, 30.0), ("bar-40", 16, 10.0)],
)
def test_force_over_area(shape: str, kn: float, mpa: float) -> None:
    assert stress_mpa(shape, kn) == pytest.approx(mpa, abs=0.01)  # type: ignore[arg-type]


@given(STRENGTHS)
def test_mean_and_deviation_are_those_of_numpy(results: list[float]) -> None:
    found = figures(results)
    assert found is not None
    assert found.mean == pytest.approx(float(np.mean(results)))
    assert found.deviation == pytest.approx(float(np.std(results, ddof=1)), abs=1e-9)
    assert found.characteristic == pytest.approx(float(np.mean(results) - 1.64 * np.std(results, ddof=1)))


def test_the_characteristic_value_is_the_twentieth_part_of_a_normal_distribution() -> None:
    # One in twenty lies below: scipy's normal quantile is 1.645, the standard's 1.64.
    assert pytest.approx(-float(stats.norm.ppf(0.05)), abs=0.006) == CHARACTERISTIC


def test_first_production_by_en_206() -> None:
    # C25/30 in cylinders, 25 asked: a mean of three of 29 and each of 21. EN 206, from memory.
    assert en_206((29.0, 29.0, 29.0), 25).passed
    assert not en_206((28.9, 29.0, 29.0), 25).passed
    assert en_206((21.0, 33.0, 33.0), 25).passed
    assert not en_206((20.9, 33.2, 33.0), 25).passed
    # Groups do not overlap: 24.9 apart from two good ones in another group.
    assert en_206((29, 29, 29, 40, 40, 24.9), 25).passed
    assert not en_206((29.0, 29.0), 25).enough


@given(st.lists(st.floats(20, 60), min_size=35, max_size=60), st.floats(20, 50))
def test_continuous_production_by_en_206(results: list[float], fck: float) -> None:
    wanted = fck + 1.48 * float(np.std(results[:35], ddof=1))  # the deviation of the first 35 holds
    expected = float(np.mean(results[-15:])) >= wanted and min(results) >= fck - 4
    near = abs(float(np.mean(results[-15:])) - wanted) < 1e-9
    assert near or en_206(results, fck).passed == expected


@given(STRENGTHS, st.floats(15, 60))
def test_three_in_a_row_by_aci_318(results: list[float], fc: float) -> None:
    rows = np.convolve(results, np.ones(3) / 3, "valid") if len(results) >= 3 else np.array([])
    psi = 0.45359237 * 9.80665 / 0.0254**2 / 1e6  # NIST SP 811
    least = fc - 500 * psi if fc <= 5000 * psi else 0.9 * fc
    near = bool(len(rows)) and min(float(np.min(np.abs(rows - fc))), abs(min(results) - least)) < 1e-6
    assert near or aci_318(results, fc).passed == (
        bool(len(rows)) and float(rows.min()) >= fc and min(results) >= least
    )


def test_above_thirty_five_the_least_is_nine_tenths() -> None:
    # f'c 40: 36 may be, 35.9 may not; f'c 30: 26.5 may be. ACI 318-19, from memory.
    assert aci_318((44.0, 36.0, 44.0), 40).passed
    assert not aci_318((44.0, 35.9, 44.0), 40).passed
    assert aci_318((34.0, 26.56, 34.0), 30).passed  # 30 MPa less 500 psi of 6.894757 kPa each: 26.553


def test_a_result_before_the_cast_and_one_with_its_point_moved_are_asked_about() -> None:
    early = Result(id="result-01", at=AT - timedelta(hours=1), of="cast-0001", mpa=30)
    with pytest.raises(MixError, match=PROSE["before-it-is-cast"]):
        check_result(cast(), early, 30, sure=True)
    slip = Result(id="result-01", at=AT + timedelta(days=28), of="cast-0001", mpa=3)
    with pytest.raises(MixError, match=PROSE["is-the-point-in"]):
        check_result(cast(), slip, 30, sure=False)
    check_result(cast(), slip, 30, sure=True)
    check_result(cast(), slip, None, sure=False)
    assert due_on(cast(due_days=7)) == AT + timedelta(days=7)


def weighed(*rows: tuple[float, float]) -> list[Weighing]:
    return [Weighing(id=f"weigh-{n:03d}", at=AT + timedelta(days=day), kg=kg) for n, (day, kg) in enumerate(rows)]


def test_a_cast_is_dry_within_a_per_cent_and_when_it_hardly_changes() -> None:
    dry_kg = dry_cast_kg(10)  # 11.86 kg: plain arithmetic
    wet = drying(weighed((0, 16.0)), dry_kg)
    assert wet is not None
    assert not wet.dry
    assert wet.share == pytest.approx(16 / 11.86 - 1)
    falling = drying(weighed((0, dry_kg * 1.32), (2, dry_kg * 1.16)), dry_kg)
    assert falling is not None
    # Half of it in two days: from 16 % to 1 % are four halvings, eight days.
    assert falling.days_left == pytest.approx(8)
    nearly = drying(weighed((0, dry_kg * 1.015), (1, dry_kg * 1.008)), dry_kg)
    assert nearly is not None
    assert not nearly.dry  # 0.7 % in a day
    done = drying(weighed((0, dry_kg * 1.008), (2, dry_kg * 1.006)), dry_kg)
    assert done is not None
    assert done.dry


def test_inch_cylinders_have_inch_areas() -> None:
    # 6 in across are 28.27 in²: 113 100 lbf make 4000 psi; 4 in across 12.57 in², 50 265 lbf. Plain arithmetic.
    lbf_kn, psi = 0.45359237 * 9.80665 / 1000, 0.45359237 * 9.80665 / 0.0254**2 / 1e6
    assert stress_mpa("cylinder-6in", 113_097 * lbf_kn) / psi == pytest.approx(4000, abs=0.5)
    assert stress_mpa("cylinder-4in", 50_265 * lbf_kn) / psi == pytest.approx(4000, abs=0.5)
    assert stress_mpa("cube-2in", 16_000 * lbf_kn) / psi == pytest.approx(4000)  # 4 in²


def test_what_is_exactly_at_its_limit_is_accepted() -> None:
    psi = 0.45359237 * 9.80665 / 0.0254**2 / 1e6
    for fc in (3000, 4000, 5000, 6000):
        least = (fc - 500 if fc <= 5000 else 0.9 * fc) * psi
        rest = (3 * fc * psi - least) / 2
        assert aci_318((rest, least, rest), fc * psi).passed
        assert not aci_318((rest, least - 0.01, rest + 0.01), fc * psi).passed
    assert en_206((34.1, 33.9, 34.0), 30).passed  # the mean is 34 and no hair less


def test_a_test_is_the_mean_of_the_specimens_of_one_load() -> None:
    """ACI 318 from memory: of two at least; one by itself is shown, not judged. EN 206: a result is the mean of a sample."""
    day = datetime(2026, 9, 14, 8, tzinfo=UTC)

    def broken(load: int | None, mpa: float, hours: float = 0.0, **more: int) -> Broken:
        cast = {"id": "12345678", "at": day + timedelta(hours=hours), "shape": "cylinder-6in", "load": load}
        return Broken(Cast.model_validate(cast | more), mpa)

    found = [broken(1, 30), broken(1, 32), broken(2, 40), broken(3, 28), broken(3, 30), broken(3, 29)]
    assert means_of_loads(found, 2) == pytest.approx((31, 29))
    assert means_of_loads(found, 1) == pytest.approx((31, 40, 29))
    assert means_of_loads([broken(None, 30), broken(None, 32), broken(None, 40, 3)], 1) == pytest.approx((31, 40))
    assert means_of_loads([broken(1, 30), broken(1, 20, due_days=7)], 2) == ()


def test_a_known_deviation_is_used() -> None:
    results = [33.0 + (n % 3 - 1) * 0.5 for n in range(15)]
    assert en_206(results, 30, sigma_mpa=1.9).passed  # 30 + 1.48 · 1.9 = 32.81
    assert not en_206(results, 30, sigma_mpa=2.1).passed  # 33.11
