"""The moisture of a heap learned from load to load: the same as conditioning all at once, and sane whatever is seen."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.special import logsumexp
from scipy.stats import norm

from keeve.core.lessons import moisture_filter as mf
from keeve.core.lessons.moisture_filter import Judgement, anew, begun, judged, later, measured, water_for
from keeve.core.materials.looks import SAND_LOOKS, SAND_UNSEEN
from keeve.core.materials.moisture import HeapWater  # type: ignore[attr-defined]
from keeve.core.message.errors import MixError

Seen = list[tuple[float, float | None]]
DAYS = st.lists(st.tuples(st.floats(0.05, 1.5), st.one_of(st.none(), st.floats(0.5, 10))), min_size=1, max_size=12)


def all_at_once(nature: int, look: HeapWater, seen: Seen, sd: float) -> tuple[np.ndarray, np.ndarray]:
    """Mean and covariance of (moisture, trend) at the end, by conditioning one great normal on all that was measured.

    No recursion over gains: the joint covariance of every state is written out and the measured ones are conditioned on.
    Draining above 3 % is linear piece by piece; the pieces are those that the mean went through.
    """
    belief, kind = begun(look), mf.NATURES[nature]
    start = belief.tracks[nature]
    means, steps, covs = [np.array([start.percent, start.slope])], [], []
    for hours, found in seen:
        drains = mf.DRAINS_PER_H if belief.tracks[nature].percent > mf.FIELD_PERCENT else 0.0
        stays, carries = 1 - drains * hours, math.exp(-hours / mf.SLOPE_LASTS_H)
        steps.append((np.array([[stays, hours], [0, carries]]), np.array([(1 - stays) * mf.FIELD_PERCENT, 0])))
        covs.append(np.diag([kind.wanders_percent**2 * hours, kind.slope_percent_h**2 * (1 - carries**2)]))
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
    for nature, track in enumerate(belief.tracks):
        mean, cov = all_at_once(nature, look, seen, sd)
        assert (track.percent, track.slope) == pytest.approx(tuple(mean), abs=1e-6)
        assert (track.var, track.cov, track.slope_var) == pytest.approx((cov[0, 0], cov[0, 1], cov[1, 1]), abs=1e-6)


@given(st.lists(st.tuples(st.floats(0.1, 1), st.floats(0.5, 10)), min_size=1, max_size=8))
def test_who_foresaw_better_is_heard_more(seen: list[tuple[float, float]]) -> None:
    """Weights by the densities of a library: SciPy's normal, what is old to the power of its forgetting."""
    belief, logs = begun(SAND_LOOKS["moist"]), np.zeros(len(mf.NATURES))
    for hours, found in seen:
        belief = later(belief, hours)
        sds = [math.sqrt(one.var + mf.FORESEEN_PERCENT**2) for one in belief.tracks]
        foreseen = [norm.logpdf(found, one.percent, sd) for one, sd in zip(belief.tracks, sds, strict=True)]
        logs = mf.FORGETS * np.maximum(logs - logsumexp(logs), math.log(1e-14)) + np.array(foreseen)
        belief = measured(belief, found, 0.5)
        assert math.fsum(belief.weights) == pytest.approx(1)
    assert belief.weights == pytest.approx(np.exp(logs - logsumexp(logs)), abs=1e-6)
    low, high = (f(one.percent for one in belief.tracks) for f in (min, max))
    assert low - 1e-9 <= belief.percent <= high + 1e-9
    assert belief.sd >= min(math.sqrt(one.var) for one in belief.tracks) - 1e-9


def test_a_heap_that_changes_fast_is_followed_and_a_still_one_is_not_chased() -> None:
    still = fast = begun(SAND_LOOKS["wet"])
    for load in range(12):
        still, fast = later(still, 1 / 3), later(fast, 1 / 3)
        still = measured(still, 7.0 + 0.3 * (-1) ** load, mf.SCATTER_PERCENT)
        fast = measured(fast, 7.0 - 0.3 * load, mf.SCATTER_PERCENT)
    assert fast.weights[1] > 0.8 > still.weights[1]
    assert later(fast, 1 / 3).percent == pytest.approx(7.0 - 0.3 * 12, abs=0.3)


@given(st.floats(0, 10), st.floats(0.05, 2))
def test_a_ceiling_follows_the_belief(percent: float, sd: float) -> None:
    """House ruling: mean − 2 sd, not under 0; where w/c is the limit, mean + 1 sd."""
    belief = anew(percent, sd)
    assert water_for(belief).ceiling == pytest.approx(max(percent - 2 * sd, 0))
    assert water_for(belief, limited=True).ceiling == pytest.approx(percent + sd)


SAID = st.sampled_from(["dry", "right", "wet"])
LOOKS = st.lists(st.builds(Judgement, st.floats(0, 12), SAID), min_size=1, max_size=6)


@given(st.lists(LOOKS, min_size=1, max_size=12), st.floats(0.01, 0.12))
def test_whatever_is_said_it_stays_a_belief(loads: list[list[Judgement]], share: float) -> None:
    belief = begun(SAND_UNSEEN)
    for looks in loads:
        before = later(belief, 0.2)
        belief = judged(before, looks, share)
        for track in belief.tracks:
            assert all(math.isfinite(one) for one in track)
            assert 0.01 <= track.var <= 3 + 1e-9  # what contradicts itself makes unsure, as unsure as nobody looked
            assert track.slope_var * track.var - track.cov**2 >= -1e-9
        assert math.isfinite(belief.sd)


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
    start = anew(percent, 0.7)
    there = later(start, one)
    assert there.percent <= percent + 1e-9
    assert there.percent >= min(percent, mf.FIELD_PERCENT) - 1e-9
    assert later(there, two).percent <= there.percent + 1e-9


def test_time_does_not_run_backward() -> None:
    with pytest.raises(MixError, match="backward"):
        later(begun(SAND_UNSEEN), -0.1)
