"""How wet the sand is now, learned from load to load: what is believed, how surely, and what the next load wants."""

import math
from collections.abc import Sequence
from typing import Final, Literal, NamedTuple

from keeve.core.materials.looks import HeapWater
from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import mark

# Filter constants, own assumptions; their reasons, and what days drawn by lot make of them, stand in docs/moisture.md.
FIELD_PERCENT: Final = 3.0
"""What a heap keeps however long it drains."""
DRAINS_PER_H: Final = 0.08
"""Share of what it holds above that, lost in an hour."""
WANDERS_PERCENT: Final = 0.1
"""How far the heap strays from that in an hour, standard deviation."""
SLOPE_PERCENT_H: Final = 0.15
SLOPE_LASTS_H: Final = 5.0
"""How much faster or slower than that it may drain, and how long such a trend lasts."""
SCATTER_PERCENT: Final = 0.5
"""One load's sand beside the next one's of the same heap."""
LOOK_PERCENT: Final = 0.95
"""A look is off: its class is two wide, and one in seven is the next class."""
PAN_PERCENT: Final = 0.6
"""A pan test is off by the scale's step, and by its one scoop beside the rest of the heap."""
RIGHT_SHARE: Final = 0.02
"""So much of the free water too little or too much still looks right."""
EYE_SHARE: Final = 0.015
"""And the eye that judges it strays by so much."""
FIRST_SDS: Final = 1.0
"""First water is for a load that is wetter than believed by so many standard deviations: k."""
_UNSEEN_VAR: Final = 3.0
_GRID: Final = 49
_WIDE: Final = 6.0
_HARDLY: Final = 1e-14

JudgedAs = Literal["dry", "right", "wet"]


class Belief(NamedTuple):
    """How wet a heap is believed to be at a moment."""

    percent: float
    """Mean of its moisture, of the dry mass."""
    slope: float
    """Trend beyond draining [% per h]."""
    var: float
    cov: float
    slope_var: float
    """Variances of the two, and what they share."""

    @property
    def sd(self) -> float:
        """Return how unsure the heap's moisture is [%], one standard deviation. Plain arithmetic."""
        return math.sqrt(max(self.var, 0.0))

    @property
    def load_sd(self) -> float:
        """Return how unsure that of one load's sand is [%]. Plain arithmetic."""
        return math.sqrt(max(self.var, 0.0) + SCATTER_PERCENT**2)


class Judgement(NamedTuple):
    """What a load looked like with so much water in it."""

    percent: float
    """Moisture at which that water would have been just right."""
    said: JudgedAs


def begun(heap: HeapWater) -> Belief:
    """Believe what a look says, or what is so where nobody looked.

    Parameters
    ----------
    heap : moisture [%]: from, likely, to; all alike where it was measured

    References
    ----------
    Own assumption: a pan is off by 0.6 %, a look by 0.95 %, a heap nobody looked at lies anywhere in its range.

    >>> round(begun(HeapWater(2, 5, 8, seen=False)).sd, 2), begun(HeapWater(6, 6, 6)).sd
    (1.73, 0.6)
    """
    wide = heap.high - heap.low
    sd = PAN_PERCENT if wide == 0 else LOOK_PERCENT if heap.seen else wide / math.sqrt(12)
    return Belief(heap.likely, 0.0, sd**2, 0.0, SLOPE_PERCENT_H**2)


def later(now: Belief, hours: float) -> Belief:
    """Let a heap lie.

    Parameters
    ----------
    now : what is believed [%]
    hours : how long [h], >= 0

    Returns
    -------
    what is believed then: drained by its share above 3 %, along its trend, and less surely

    Raises
    ------
    MixError : time that runs backward

    Notes
    -----
    m' = m + (b − κ (m − 3)) Δt above 3 %, b' = φ b, φ = e^(−Δt/5 h); variances by the same matrix, and what wanders.

    References
    ----------
    Local level with damped trend, Kalman 1960, from memory; constants: own assumption.

    >>> round(later(begun(HeapWater(8, 8, 8)), 1).percent, 2)
    7.6
    """
    if hours < 0:
        raise MixError(
            Fault(Code.OUT_OF_RANGE, mark("Time does not run backward."), "", field="hours", value=hours, limit=0.0)
        )
    drains = DRAINS_PER_H if now.percent > FIELD_PERCENT else 0.0
    stays, carries = 1 - min(drains * hours, 1.0), math.exp(-hours / SLOPE_LASTS_H)
    var = stays**2 * now.var + 2 * stays * hours * now.cov + hours**2 * now.slope_var + WANDERS_PERCENT**2 * hours
    cov = carries * (stays * now.cov + hours * now.slope_var)
    slope_var = carries**2 * now.slope_var + SLOPE_PERCENT_H**2 * (1 - carries**2)
    percent = stays * now.percent + (1 - stays) * FIELD_PERCENT + now.slope * hours
    return Belief(percent, carries * now.slope, var, cov, slope_var)


def measured(now: Belief, percent: float, sd_percent: float) -> Belief:
    """Take in a measured moisture.

    Parameters
    ----------
    now : what is believed [%]
    percent : what was found [%]
    sd_percent : how far off it may be [%], standard deviation, > 0

    References
    ----------
    Kalman 1960, from memory.

    >>> found = measured(begun(HeapWater(2, 5, 8)), 6.0, 0.5)
    >>> round(found.percent, 2), round(found.sd, 2)
    (5.78, 0.44)
    """
    return _learned(now, percent, now.var + sd_percent**2, 0.0)


def _learned(now: Belief, percent: float, spread: float, left: float) -> Belief:
    """Move level and trend toward what a load's sand was: a finding of `spread` before and variance `left` after."""
    gain, slope_gain, less = now.var / spread, now.cov / spread, spread - left
    return Belief(
        now.percent + gain * (percent - now.percent),
        now.slope + slope_gain * (percent - now.percent),
        now.var - gain**2 * less,
        now.cov - gain * slope_gain * less,
        now.slope_var - slope_gain**2 * less,
    )


def judged(now: Belief, looks: Sequence[Judgement], share_per_percent: float) -> Belief:
    """Take in what a load looked like, pour by pour.

    Parameters
    ----------
    now : what is believed [%]
    looks : each with the moisture [%] at which its water would have been just right
    share_per_percent : share of the free water that one percent of moisture brings [-], > 0

    Returns
    -------
    what is believed then; a load that looked right may still have been 2 % off, one sipped up was drier than its sips
    say: each look counts with how likely it is at each moisture

    References
    ----------
    Bayes' rule on the look, moments matched; Kalman 1960 for the rest; own assumption for the eye.
    """
    spread = now.var + SCATTER_PERCENT**2
    sd = math.sqrt(spread)
    found = [now.percent + sd * _WIDE * (2 * n / (_GRID - 1) - 1) for n in range(_GRID)]
    weights = [math.exp(-0.5 * ((one - now.percent) / sd) ** 2) for one in found]
    for look in looks:
        weights = [
            weight * _likely((one - look.percent) * share_per_percent, look.said)
            for one, weight in zip(found, weights, strict=True)
        ]
    whole = math.fsum(weights)
    mean = math.fsum(w * one for w, one in zip(weights, found, strict=True)) / whole
    var = math.fsum(w * (one - mean) ** 2 for w, one in zip(weights, found, strict=True)) / whole
    found_out = _learned(now, mean, spread, var)
    # Looks that contradict each other make unsure, yet no more so than of a heap nobody looked at.
    # How heap and drift hang together stays: else what is left would be the belief of nobody.
    share = min(1.0, max(_UNSEEN_VAR, now.var) / found_out.var)
    return found_out._replace(var=found_out.var * share, cov=found_out.cov * math.sqrt(share))


def _likely(over: float, said: JudgedAs) -> float:
    """How likely a look is with so much too much water, as a share of the free water."""
    wet, dry = 1 - _normal((RIGHT_SHARE - over) / EYE_SHARE), _normal((-RIGHT_SHARE - over) / EYE_SHARE)
    return max({"wet": wet, "dry": dry, "right": 1 - wet - dry}[said], _HARDLY)


def _normal(x: float) -> float:
    return 0.5 * math.erfc(-x / math.sqrt(2))


class WaterFor(NamedTuple):
    """Moistures to plan a load's water with [%]."""

    expected: float
    """Mean: what the load will want."""
    first: float
    """Mean + k · sd: what goes in first, so that few loads come out too wet."""


def water_for(now: Belief, sds: float = FIRST_SDS) -> WaterFor:
    """Say with which moistures the next load's two figures are reckoned.

    Parameters
    ----------
    now : what is believed [%]
    sds : how much surer the first water is to be [-]: k

    References
    ----------
    House ruling: two figures, never one; k is own assumption.

    >>> water_for(Belief(5.0, 0.0, 0.11, 0.0, 0.0))
    WaterFor(expected=5.0, first=5.6)
    """
    expected = max(now.percent, 0.0)
    return WaterFor(expected, round(expected + sds * now.load_sd, 9))
