"""The moisture of a heap learned from load to load: the same as conditioning all at once, and sane whatever is seen."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from keeve.core.lessons import moisture_filter as mf
from keeve.core.lessons.moisture_filter import Belief, Judgement, begun, judged, later, measured, water_for
from keeve.core.materials.looks import SAND_LOOKS, SAND_UNSEEN
from keeve.core.materials.moisture import HeapWater  # type: ignore[attr-defined]
from keeve.core.message.errors import MixError

Seen = list[tuple[float, float | None]]
DAYS = st.lists(st.tuples(st.floats(0.05, 1.5), st.one_of(st.none(), st.floats(0.5, 10))), min_size=1, max_size=12)


def all_at_once(start: Belief, seen: Seen, sd: float) -> tuple[np.ndarray, np.ndarray]:
    """Mean and covariance of (moisture, trend) at the end, by conditioning one great normal on all that was measured.

    No recursion over gains: the joint covariance of every state is written out and the measured ones are conditioned on.
    Draining above 3 % is linear piece by piece; the pieces are those that the mean went through.
    """
    means, steps, covs, belief = [np.array([start.percent, start.slope])], [], [], start
    for hours, found in seen:
        drains = mf.DRAINS_PER_H if belief.percent > mf.FIELD_PERCENT else 0.0
        stays, carries = 1 - drains * hours, math.exp(-hours / mf.SLOPE_LASTS_H)
        steps.append((np.array([[stays, hours], [0, carries]]), np.array([(1 - stays) * mf.FIELD_PERCENT, 0])))
        covs.append(np.diag([mf.WANDERS_PERCENT**2 * hours, mf.SLOPE_PERCENT_H**2 * (1 - carries**2)]))
        belief = later(belief, hours)
        belief = belief if found is None else measured(belief, found, sd)
    size = len(seen) + 1
    joint = np.zeros((2 * size, 2 * size))
    joint[:2, :2] = [[start.var, start.cov], [start.cov, start.slope_var]]
    for n, ((through, offset), more) in enumerate(zip(steps, covs, strict=True), 1):
        means.append(through @ means[-1] + offset)
        joint[2 * n : 2 * n + 2, : 2 * n] = through @ joint[2 * n - 2 : 2 * n, : 2 * n]
        joint[: 2 * n, 2 * n : 2 * n + 2] = joint[2 * n : 2 * n + 2, : 2 * n].T
        joint[2 * n : 2 * n + 2, 2 * n : 2 * n + 2] = (
            through @ joint[2 * n - 2 : 2 * n, 2 * n - 2 : 2 * n] @ through.T + more
        )
    mean, rows = np.concatenate(means), [2 * n for n, (_, found) in enumerate(seen, 1) if found is not None]
    if not rows:
        return mean[-2:], joint[-2:, -2:]
    noise = joint[np.ix_(rows, rows)] + sd**2 * np.eye(len(rows))
    shared = joint[-2:, rows]
    values = np.array([found for _, found in seen if found is not None])
    at = mean[-2:] + shared @ np.linalg.solve(noise, values - mean[rows])
    return at, joint[-2:, -2:] - shared @ np.linalg.solve(noise, shared.T)


@given(DAYS, st.sampled_from([*SAND_LOOKS.values(), SAND_UNSEEN]), st.floats(0.2, 1))
def test_it_equals_conditioning_all_at_once(seen: Seen, look: HeapWater, sd: float) -> None:
    belief = begun(look)
    for hours, found in seen:
        belief = later(belief, hours)
        belief = belief if found is None else measured(belief, found, sd)
    mean, cov = all_at_once(begun(look), seen, sd)
    assert (belief.percent, belief.slope) == pytest.approx(tuple(mean), abs=1e-6)
    assert (belief.var, belief.cov, belief.slope_var) == pytest.approx((cov[0, 0], cov[0, 1], cov[1, 1]), abs=1e-6)


SAID = st.sampled_from(["dry", "right", "wet"])
LOOKS = st.lists(st.builds(Judgement, st.floats(0, 12), SAID), min_size=1, max_size=6)


@given(st.lists(LOOKS, min_size=1, max_size=12), st.floats(0.01, 0.12))
def test_whatever_is_said_it_stays_a_belief(loads: list[list[Judgement]], share: float) -> None:
    belief = begun(SAND_UNSEEN)
    for looks in loads:
        before = later(belief, 0.2)
        belief = judged(before, looks, share)
        assert all(math.isfinite(one) for one in belief)
        assert 0 < belief.var <= 3.1  # what contradicts itself makes unsure, as unsure as nobody looked
        assert belief.slope_var * belief.var - belief.cov**2 >= -1e-9
        assert belief.var >= 0.01


@given(st.floats(1, 9), st.floats(0.02, 0.1))
def test_too_wet_means_wetter_and_too_dry_drier(percent: float, share: float) -> None:
    belief = begun(SAND_LOOKS["moist"])
    at = belief.percent
    wet = judged(belief, [Judgement(percent, "wet")], share)
    dry = judged(belief, [Judgement(percent, "dry")], share)
    assert dry.percent <= at + 1e-9 <= wet.percent + 2e-9


def test_a_load_sipped_up_says_more_than_one_that_looked_right_at_once() -> None:
    belief = begun(SAND_LOOKS["moist"])
    at_once = judged(belief, [Judgement(5.0, "right")], 0.06)
    sipped = judged(belief, [Judgement(5.5, "dry"), Judgement(5.0, "right")], 0.06)
    assert sipped.percent < at_once.percent  # nearer to too dry than to too wet
    assert sipped.sd < belief.sd


def test_first_water_is_less_than_expected_and_nears_it_with_every_load() -> None:
    belief, gaps = begun(SAND_UNSEEN), []
    for _ in range(12):
        two = water_for(belief)
        assert two.first > two.expected  # wetter sand: less water
        gaps.append(two.first - two.expected)
        belief = measured(later(belief, 0.2), 5.0, mf.SCATTER_PERCENT)
    assert gaps == sorted(gaps, reverse=True)
    assert gaps[-1] < 0.7


@given(st.floats(0, 12), st.floats(0, 12), st.floats(0, 6))
def test_a_heap_that_lies_drains_and_never_below_what_it_keeps(percent: float, one: float, two: float) -> None:
    start = Belief(percent, 0.0, 0.5, 0.0, 0.0)
    there = later(start, one)
    assert there.percent <= percent + 1e-9
    assert there.percent >= min(percent, mf.FIELD_PERCENT) - 1e-9
    assert later(there, two).percent <= there.percent + 1e-9


def test_time_does_not_run_backward() -> None:
    with pytest.raises(MixError, match="backward"):
        later(begun(SAND_UNSEEN), -0.1)
