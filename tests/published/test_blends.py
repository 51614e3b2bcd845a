"""Best blends against scipy, a reference library."""

import numpy
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy.optimize import nnls

from keeve.catalogue import load_catalogue
from keeve.core.grading import Grading, Passing, best_blend

ENVELOPES = load_catalogue().envelopes
SERIES = (0.15, 0.30, 0.60, 1.18, 2.36, 4.75, 9.5)
shares = st.lists(st.integers(0, 100), min_size=6, max_size=6).map(sorted)


@given(shares, shares, st.sampled_from(sorted(ENVELOPES)))
def test_the_best_blend_is_that_of_non_negative_least_squares(one: list[float], two: list[float], key: str) -> None:
    # scipy.optimize.nnls; the shares are held to a sum of one by a row that outweighs all others.
    envelope = ENVELOPES[key]
    first, second = (
        Grading(name=n, points=tuple(Passing(sieve_mm=mm, percent=p) for mm, p in zip(SERIES, [*v, 100], strict=True)))
        for n, v in (("first", one), ("second", two))
    )
    sizes = [b.sieve_mm for b in envelope.bounds]
    at = {mm: (a, b) for mm, a, b in zip(SERIES, [*one, 100], [*two, 100], strict=True)}
    matrix = numpy.array([at[mm] for mm in sizes], dtype=float)
    assume(numpy.abs(matrix[:, 0] - matrix[:, 1]).max() > 10)
    aim = numpy.array([(b.low + b.high) / 2 for b in envelope.bounds])
    heavy = 1e5
    solved, _ = nnls(numpy.vstack([matrix, [heavy, heavy]]), numpy.append(aim, heavy))
    assert best_blend(first, second, envelope).first_share == pytest.approx(solved[0], abs=1e-3)
