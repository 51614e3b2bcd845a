"""Sieve sheets as they come from the bench, good and bad."""

from collections.abc import Mapping
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keeve.catalogue import load_catalogue
from keeve.core.materials.blending import best_blend, mixed
from keeve.core.materials.grading import Grading, Passing, Retained, SieveSheet, fineness_modulus, misses, read_sheet
from keeve.core.message.errors import MixError
from keeve.core.message.said import plain

ENVELOPES = load_catalogue().envelopes
SERIES = (0.15, 0.30, 0.60, 1.18, 2.36, 4.75)


def curve(*passing: float, name: str = "Sand") -> Grading:
    return Grading(
        name=name, points=tuple(Passing(sieve_mm=mm, percent=p) for mm, p in zip(SERIES, passing, strict=True))
    )


def sheet(retained: Mapping[float, float], pan: float = 0, **more: Any) -> SieveSheet:
    rows = tuple(Retained(sieve_mm=mm, value=g) for mm, g in retained.items())
    return SieveSheet(rows=rows, pan_g=pan, **more)


GRAMS = {4.75: 10, 2.36: 65, 1.18: 95, 0.60: 130, 0.30: 120, 0.15: 60}  # and 20 in the pan: 500 g in all


def test_grams_kept_become_shares_passed() -> None:
    found = read_sheet(sheet(GRAMS, pan=20))
    assert [round(p.percent, 6) for p in found.points] == [4, 16, 40, 66, 85, 98]
    # cumulative kept: 2, 15, 34, 60, 84, 96 -> 291 -> 2.91; all passed 9.5, which the sheet does not name ...
    with pytest.raises(MixError, match=r"needs the 9\.5 mm sieve"):
        fineness_modulus(found)
    assert fineness_modulus(read_sheet(sheet(GRAMS | {9.5: 0}, pan=20))).result == pytest.approx(2.91)


def test_the_european_series_is_drawn_but_has_no_fineness_modulus_for_the_tables() -> None:
    rows = {4: 0, 2: 100, 1: 100, 0.5: 120, 0.25: 120, 0.125: 50}
    found = read_sheet(sheet(rows, pan=10))
    with pytest.raises(MixError, match=r"needs the 0\.15 mm sieve"):
        fineness_modulus(found)
    assert misses(found, ENVELOPES["c33-fine"]) is not None
    assert found.at(1.18) > found.at(1)


def test_a_lost_sample_is_said() -> None:
    assert read_sheet(sheet(GRAMS, pan=20, sample_g=500)).warnings == ()
    (said,) = read_sheet(sheet(GRAMS, pan=20, sample_g=510)).warnings
    assert "-2 %" in plain(said)


@pytest.mark.parametrize(
    ("bad", "words"),
    [
        (lambda: read_sheet(sheet({0.15: 0, 0.3: 0, 0.6: 0})), "Nothing was weighed"),
        (lambda: read_sheet(sheet({0.15: 10, 0.3: 20})), "at least 3 sieves"),
        (
            lambda: read_sheet(
                SieveSheet(
                    stated="passing %",
                    rows=tuple(Retained(sieve_mm=mm, value=v) for mm, v in ((0.3, 60), (0.6, 40), (1.18, 0))),
                )
            ),
            "cannot be",
        ),
        (
            lambda: read_sheet(SieveSheet(rows=tuple(Retained(sieve_mm=mm, value=1) for mm in (0.3, 0.6, 0.6)))),
            "twice",
        ),
        (lambda: best_blend(curve(1, 2, 3, 4, 5, 6), curve(1, 2, 3, 4, 5, 6), ENVELOPES["c144"]), "alike"),
    ],
)
def test_a_bad_sheet_is_refused_in_words(bad, words: str) -> None:
    with pytest.raises(MixError, match=words):
        bad()


def test_a_sand_outside_is_told_where_and_to_which_side() -> None:
    found = misses(curve(12, 45, 70, 90, 98, 100), ENVELOPES["c33-fine"])
    assert [m.sieve_mm for m in found] == [1.18, 0.6, 0.3, 0.15]
    assert all("too fine" in plain(m.words) for m in found)
    assert misses(curve(4, 16, 42, 66, 88, 100), ENVELOPES["c33-fine"]) == ()


shares = st.lists(st.floats(0, 100), min_size=6, max_size=6).map(sorted)


@given(shares, shares, st.floats(0, 1))
def test_a_blend_lies_between_its_sands_on_every_sieve_and_so_does_its_modulus(
    one: list[float], two: list[float], share: float
) -> None:
    one[-1] = two[-1] = 100.0
    a, b = curve(*one), curve(*two)
    both = mixed(a, b, share)
    for mm in SERIES:
        assert min(a.at(mm), b.at(mm)) - 1e-9 <= both.at(mm) <= max(a.at(mm), b.at(mm)) + 1e-9
    moduli = [fineness_modulus(g).result for g in (a, b)]
    assert fineness_modulus(both).result == pytest.approx(share * moduli[0] + (1 - share) * moduli[1])


@given(shares, shares)
def test_what_is_called_inside_is_inside_and_a_step_beyond_is_not(one: list[float], two: list[float]) -> None:
    a, b = curve(*one, name="first"), curve(*two, name="second")
    if max(abs(x - y) for x, y in zip(one, two, strict=True)) < 5:
        return
    envelope = ENVELOPES["c144"]
    blend = best_blend(a, b, envelope)
    tried = [i / 50 for i in range(51)]
    good = [x for x in tried if not misses(mixed(a, b, x), envelope)]
    if blend.inside is None:
        assert len(good) <= 1  # at most a touch within the reading's rounding
        return
    low, high = blend.inside
    assert all(low - 0.05 <= x <= high + 0.05 for x in good)
    assert all(x in good for x in tried if low <= x <= high)
