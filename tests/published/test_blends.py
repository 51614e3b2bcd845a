"""Best blends against scipy, a reference library."""

import numpy
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy.optimize import linprog, lsq_linear

from keeve.catalogue import load_catalogue
from keeve.core.materials.blending import best_blend
from keeve.core.materials.grading import Grading, Passing, misses

ENVELOPES = load_catalogue().envelopes
SERIES = (0.15, 0.30, 0.60, 1.18, 2.36, 4.75, 9.5)
shares = st.lists(st.integers(0, 100), min_size=6, max_size=6).map(sorted)


def gradings(one: list[float], two: list[float]) -> tuple[Grading, Grading]:
    first, second = (
        Grading(name=n, points=tuple(Passing(sieve_mm=mm, percent=p) for mm, p in zip(SERIES, [*v, 100], strict=True)))
        for n, v in (("first", one), ("second", two))
    )
    return first, second


@given(shares, shares, st.sampled_from(sorted(ENVELOPES)))
def test_the_best_blend_is_that_of_bounded_least_squares(one: list[float], two: list[float], key: str) -> None:
    # The shares inside by scipy.optimize.linprog; among them, or among all, the nearest by scipy.optimize.lsq_linear.
    envelope = ENVELOPES[key]
    at = {mm: (a, b) for mm, a, b in zip(SERIES, [*one, 100], [*two, 100], strict=True)}
    a, b = numpy.array([at[bound.sieve_mm] for bound in envelope.bounds], dtype=float).T
    assume(numpy.abs(a - b).max() > 10)
    least, most = (numpy.array([getattr(bound, side) for bound in envelope.bounds]) for side in ("low", "high"))
    apart = (a - b)[:, None]
    rows, limits = numpy.vstack([apart, -apart]), numpy.concatenate([most - b, b - least])
    ends = [linprog([sign], A_ub=rows, b_ub=limits, bounds=[(0, 1)]) for sign in (1, -1)]
    inside = all(end.success for end in ends)
    low, high = (ends[0].x[0], ends[1].x[0]) if inside else (0.0, 1.0)
    assume(high - low > 1e-3)
    solved = lsq_linear(apart, (least + most) / 2 - b, bounds=(low, high), tol=1e-12)
    blend = best_blend(*gradings(one, two), envelope)
    assert blend.first_share == pytest.approx(solved.x[0], abs=1e-3)
    if inside:
        assert blend.inside == pytest.approx((low, high), abs=1e-6)


def test_a_blend_that_can_pass_every_sieve_does() -> None:
    # By hand: the 4.75 mm sieve lets at most 41.7 % of the coarse sand in, the 0.6 mm sieve wants at least 37.3 %;
    # the curve nearest to the middle would be at 53 %, outside.
    coarse = gradings([2, 6, 18, 38, 62, 88], [0] * 6)[0]
    fine = gradings([5, 35, 85, 97, 100, 100], [0] * 6)[0]
    blend = best_blend(coarse, fine, ENVELOPES["c33-fine"])
    assert blend.inside == pytest.approx((25 / 67, 5 / 12))
    assert blend.first_share == pytest.approx(5 / 12)
    assert misses(blend.grading, ENVELOPES["c33-fine"]) == ()
