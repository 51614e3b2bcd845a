"""How wet the sand is now, learned from load to load: what is believed, how surely, and what the next load wants."""

import math
from collections.abc import Iterable, Sequence
from typing import Final, Literal, NamedTuple

from keeve.core.materials.looks import HeapWater
from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import mark

# Filter constants, own assumptions; their reasons, and what days drawn by lot make of them, stand in docs/moisture.md.
FIELD_PERCENT: Final = 3.0
"""What a heap keeps however long it drains."""
DRAINS_PER_H: Final = 0.05
"""Share of what it holds above that, lost in an hour."""
SLOPE_LASTS_H: Final = 5.0
"""How long a trend beyond draining lasts."""
SCATTER_PERCENT: Final = 0.42
"""One load's sand beside the next one's of the same heap."""
LOOK_PERCENT: Final = 1.2
"""A look is off: its class is two wide, and the eye strays by one."""
PAN_PERCENT: Final = 0.6
"""A pan test is off by the scale's step, and by its one scoop beside the rest of the heap."""
RIGHT_SHARE: Final = 0.03
"""So much of the free water too little or too much still looks right."""
EYE_SHARE: Final = 0.015
"""And the eye that judges it strays by so much."""
FIRST_SDS: Final = 0.75
"""First water is for a load that is wetter than believed by so many standard deviations: k."""
UNSEEN_VAR: Final = 3.0
GRID: Final = 49
WIDE: Final = 6.0
HARDLY: Final = 1e-14

JudgedAs = Literal["dry", "right", "wet"]


class Nature(NamedTuple):
    """How restless a heap is."""

    wanders_percent: float
    """How far it strays from draining in an hour, standard deviation."""
    slope_percent_h: float
    """How much faster or slower than that it may drain."""


NATURES: Final = (Nature(0.1, 0.15), Nature(0.45, 0.85))
"""A calm heap and a restless one: both are followed, and who foresaw the last loads better is heard more."""
FORGETS: Final = 0.97
"""What a load later is left of how well each foresaw."""
FORESEEN_PERCENT: Final = 0.35
"""So far off a load may be beside what was foreseen of the heap, when the two are weighed."""


class Track(NamedTuple):
    """How wet a heap of one nature is believed to be at a moment."""

    percent: float
    """Mean of its moisture, of the dry mass."""
    slope: float
    """Trend beyond draining [% per h]."""
    var: float
    cov: float
    slope_var: float
    """Variances of the two, and what they share."""


class Belief(NamedTuple):
    """How wet a heap is believed to be at a moment: of each nature, and how likely that nature is."""

    tracks: tuple[Track, ...]
    weights: tuple[float, ...]

    @property
    def percent(self) -> float:
        """Return the mean of its moisture [%]. Plain arithmetic."""
        return math.fsum(w * one.percent for w, one in zip(self.weights, self.tracks, strict=True))

    @property
    def var(self) -> float:
        """Return the variance of its moisture [%²]. Plain arithmetic."""
        mean = self.percent
        return math.fsum(
            w * (max(one.var, 0.0) + (one.percent - mean) ** 2)
            for w, one in zip(self.weights, self.tracks, strict=True)
        )

    @property
    def sd(self) -> float:
        """Return how unsure the heap's moisture is [%], one standard deviation. Plain arithmetic."""
        return math.sqrt(self.var)

    @property
    def load_sd(self) -> float:
        """Return how unsure that of one load's sand is [%]. Plain arithmetic."""
        return math.sqrt(self.var + SCATTER_PERCENT**2)

    def with_tracks(self, tracks: Iterable[Track]) -> "Belief":
        """Return the same natures believed anew. Plain arithmetic."""
        return self._replace(tracks=tuple(tracks))

    def weighed(self, percent: float) -> "Belief":
        """Hear more of the nature that foresaw a moisture [%]. Bayes' rule; forgetting: own assumption."""
        spreads = [one.var + FORESEEN_PERCENT**2 for one in self.tracks]
        logs = [
            FORGETS * math.log(max(w, HARDLY)) - 0.5 * ((percent - one.percent) ** 2 / var + math.log(var))
            for w, one, var in zip(self.weights, self.tracks, spreads, strict=True)
        ]
        shares = [math.exp(one - max(logs)) for one in logs]
        return self._replace(weights=tuple(one / math.fsum(shares) for one in shares))


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
    Own assumption: a pan is off by 0.6 %, a look by 1.2 %, a heap nobody looked at lies anywhere in its range.

    >>> round(begun(HeapWater(2, 5, 8, seen=False)).sd, 2), begun(HeapWater(6, 6, 6)).sd
    (1.73, 0.6)
    """
    wide = heap.high - heap.low
    sd = PAN_PERCENT if wide == 0 else LOOK_PERCENT if heap.seen else wide / math.sqrt(12)
    return anew(heap.likely, sd)


def anew(percent: float, sd_percent: float) -> Belief:
    """Believe a moisture and nothing else, whatever the heap's nature [%]. As `begun`."""
    tracks = tuple(Track(percent, 0.0, sd_percent**2, 0.0, one.slope_percent_h**2) for one in NATURES)
    return Belief(tracks, (1 / len(NATURES),) * len(NATURES))


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
    7.75
    """
    if hours < 0:
        raise MixError(
            Fault(Code.OUT_OF_RANGE, mark("Time does not run backward."), "", field="hours", value=hours, limit=0.0)
        )
    return now.with_tracks(_later(one, nature, hours) for one, nature in zip(now.tracks, NATURES, strict=True))


def _later(now: Track, nature: Nature, hours: float) -> Track:
    drains = DRAINS_PER_H if now.percent > FIELD_PERCENT else 0.0
    stays, carries = 1 - min(drains * hours, 1.0), math.exp(-hours / SLOPE_LASTS_H)
    wandered = nature.wanders_percent**2 * hours
    var = stays**2 * now.var + 2 * stays * hours * now.cov + hours**2 * now.slope_var + wandered
    cov = carries * (stays * now.cov + hours * now.slope_var)
    slope_var = carries**2 * now.slope_var + nature.slope_percent_h**2 * (1 - carries**2)
    percent = stays * now.percent + (1 - stays) * FIELD_PERCENT + now.slope * hours
    return Track(percent, carries * now.slope, var, cov, slope_var)


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
    (5.85, 0.46)
    """
    weighed = now.weighed(percent)
    return weighed.with_tracks(_learned(one, percent, one.var + sd_percent**2, 0.0) for one in weighed.tracks)


def _learned(now: Track, percent: float, spread: float, left: float) -> Track:
    """Move level and trend toward what a load's sand was: a finding of `spread` before and variance `left` after."""
    gain, slope_gain, less = now.var / spread, now.cov / spread, spread - left
    return Track(
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
    right = next((look.percent for look in looks if look.said == "right"), None)
    weighed = now if right is None else now.weighed(right)
    return weighed.with_tracks(_judged(one, looks, share_per_percent) for one in weighed.tracks)


def _judged(now: Track, looks: Sequence[Judgement], share_per_percent: float) -> Track:
    spread = now.var + SCATTER_PERCENT**2
    sd = math.sqrt(spread)
    found = [now.percent + sd * WIDE * (2 * n / (GRID - 1) - 1) for n in range(GRID)]
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
    share = min(1.0, UNSEEN_VAR / found_out.var)
    return found_out._replace(var=found_out.var * share, cov=found_out.cov * math.sqrt(share))


def _likely(over: float, said: JudgedAs) -> float:
    """How likely a look is with so much too much water, as a share of the free water."""
    wet, dry = 1 - _normal((RIGHT_SHARE - over) / EYE_SHARE), _normal((-RIGHT_SHARE - over) / EYE_SHARE)
    return max({"wet": wet, "dry": dry, "right": 1 - wet - dry}[said], HARDLY)


def _normal(x: float) -> float:
    return 0.5 * math.erfc(-x / math.sqrt(2))


class WaterFor(NamedTuple):
    """Moistures to plan a load's water with [%]."""

    expected: float
    """Mean: what the load will want."""
    first: float
    """Mean + k · sd: what goes in first, so that few loads come out too wet."""
    ceiling: float
    """Never more than for a heap as dry as that."""


CEILING_SDS: Final = 2.0
"""Where too much water is a matter of consistency, the heap may be so much drier than believed. House ruling."""
LIMIT_SDS: Final = 1.0
"""Where it is a limit of w/c, it is counted so much wetter. House ruling."""


def water_for(now: Belief, *, limited: bool = False, sds: float = FIRST_SDS) -> WaterFor:
    """Say with which moistures the next load's figures are reckoned.

    Parameters
    ----------
    now : what is believed [%]
    limited : whether its highest water is a limit of w/c
    sds : how much surer the first water is to be [-]: k

    Returns
    -------
    three moistures [%]; one load's spread for the first water, the heap's for the ceiling, none under 0

    References
    ----------
    House ruling: two figures, never one, and a ceiling that is a ratio; k is own assumption.

    >>> [round(one, 2) for one in water_for(anew(5.0, 0.332))]
    [5.0, 5.4, 4.34]
    """
    expected = max(now.percent, 0.0)
    ceiling = expected + LIMIT_SDS * now.sd if limited else max(now.percent - CEILING_SDS * now.sd, 0.0)
    return WaterFor(expected, round(expected + sds * now.load_sd, 9), ceiling)
