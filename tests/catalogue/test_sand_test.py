"""Sand tests: the same sand gives the same answer however it was weighed."""

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from keeve.catalogue import SandTest, judge_sand, load_catalogue
from keeve.core.message.errors import MixError

SHELF = load_catalogue()
SERIES = (9.5, 4.75, 2.36, 1.18, 0.6, 0.3, 0.15)
# Nothing may lie on the largest sieve: what would lie on a larger one is not known, and there is no fineness modulus.
grams = st.lists(st.integers(1, 400), min_size=len(SERIES) - 1, max_size=len(SERIES) - 1).map(lambda kept: [0, *kept])


def sheet_of(first: list[float], pan: float = 0.0, **more: Any) -> SandTest:
    rows = [{"sieve_mm": mm, "first": g} for mm, g in zip(SERIES, first, strict=True)]
    return SandTest.model_validate({"rows": rows, "first_pan_g": pan} | more)


@given(grams, st.integers(0, 100), st.floats(0.1, 10))
def test_fineness_does_not_hang_on_how_much_was_sieved(kept: list[int], pan: int, times: float) -> None:
    one = judge_sand(sheet_of([float(g) for g in kept], pan), SHELF).first
    more = judge_sand(sheet_of([g * times for g in kept], pan * times), SHELF).first
    assert one.fineness is not None
    assert more.fineness is not None
    assert more.fineness.result == pytest.approx(one.fineness.result, rel=1e-9)
    assert [m.sieve_mm for m in one.misses] == [m.sieve_mm for m in more.misses]
    # By the definition: hundredths of the cumulative percents kept, summed here by hand.
    whole = sum(kept) + pan
    cumulative = [sum(kept[: i + 1]) / whole * 100 for i in range(len(kept))]
    assert one.fineness.result == pytest.approx(sum(cumulative) / 100, rel=1e-9)


@given(grams, st.integers(0, 100))
def test_grams_kept_and_shares_passed_are_two_ways_to_say_it(kept: list[int], pan: int) -> None:
    whole = sum(kept) + pan
    passing = [100 * (1 - sum(kept[: i + 1]) / whole) for i in range(len(kept))]
    weighed = judge_sand(sheet_of([float(g) for g in kept], pan), SHELF).first
    stated = judge_sand(sheet_of([max(p, 0.0) for p in passing], stated="passing %"), SHELF).first
    assert weighed.fineness is not None
    assert stated.fineness is not None
    assert stated.fineness.result == pytest.approx(weighed.fineness.result, abs=1e-6)


@pytest.mark.parametrize("envelope", SHELF.envelopes)
def test_a_sand_in_the_middle_of_an_envelope_is_inside_it(envelope: str) -> None:
    bounds = SHELF.envelopes[envelope].bounds
    rows = [{"sieve_mm": b.sieve_mm, "first": (b.low + b.high) / 2} for b in bounds]
    test = SandTest.model_validate({"rows": rows, "stated": "passing %", "envelope": envelope})
    assert judge_sand(test, SHELF).first.misses == ()


def test_other_sieves_give_a_curve_and_no_fineness() -> None:
    rows = [
        {"sieve_mm": mm, "first": g}
        for mm, g in ((8, 0), (4, 20), (2, 80), (1, 150), (0.5, 250), (0.25, 300), (0.125, 150))
    ]
    side = judge_sand(SandTest.model_validate({"rows": rows, "first_pan_g": 50}), SHELF).first
    assert side.fineness is None
    assert side.no_fineness
    assert side.grading.at(1) == pytest.approx(75)


def test_two_sands_alike_make_no_blend() -> None:
    rows = [{"sieve_mm": mm, "first": 50, "second": 50} for mm in SERIES]
    with pytest.raises(MixError, match="alike"):
        judge_sand(SandTest.model_validate({"rows": rows}), SHELF)


@pytest.mark.parametrize("rows", [[{"sieve_mm": -1, "first": 3}], [{"sieve_mm": 1, "first": -3}], [{"first": 1}] * 21])
def test_readings_that_cannot_be_are_refused_at_the_door(rows: list[dict[str, float]]) -> None:
    with pytest.raises(ValidationError, match="rows"):
        SandTest.model_validate({"rows": rows})
