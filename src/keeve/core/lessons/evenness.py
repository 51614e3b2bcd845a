"""How even the work is: each load against what was expected, with the limits of its own scatter."""

from collections.abc import Sequence
from itertools import pairwise
from statistics import fmean, stdev
from typing import Final, Literal, NamedTuple

LIMIT: Final = 2.66
"""3 / d2 of two: limits of individuals by their mean moving range; Shewhart's chart, from memory."""
RANGE_LIMIT: Final = 3.267
"""D4 of two: the most a moving range comes to; Shewhart's chart, from memory."""
RUN: Final = 8
"""So many in a row on one side are no chance any more: house ruling, common in the trade of charts."""
LEAST: Final = 6
"""Fewer say nothing of limits: own assumption."""

LEAST_OF_ONE: Final = 3

Signal = Literal["beyond", "jump", "run"]


class Point(NamedTuple):
    """One load on the chart."""

    value: float
    signals: tuple[Signal, ...]


class Chart(NamedTuple):
    """Individuals with their limits."""

    points: tuple[Point, ...]
    mean: float
    low: float
    high: float
    limited: bool
    """Whether there are enough for limits."""


class Group(NamedTuple):
    """Loads of one hand, or one mixer."""

    name: str
    loads: int
    mean: float
    scatter: float
    """Standard deviation of its loads."""


def by_group(values: Sequence[float], names: Sequence[str]) -> tuple[Group, ...]:
    """Set the loads of each hand, or of each mixer, beside the others'.

    Parameters
    ----------
    values : of the loads, any unit [L, or −]
    names : whose each is, as many; a load of nobody's has an empty one

    Returns
    -------
    groups of three loads and more, the largest first; none where there is only one

    References
    ----------
    Sample mean and standard deviation, plain arithmetic; fewer than three say nothing: own assumption.

    >>> by_group((1.0, 2.0, 3.0, 0.0, 0.0, 0.3), ("a", "a", "a", "b", "b", "b"))[0]
    Group(name='a', loads=3, mean=2.0, scatter=1.0)
    """
    of: dict[str, list[float]] = {}
    for value, name in zip(values, names, strict=True):
        if name:
            of.setdefault(name, []).append(value)
    found = [Group(name, len(all_), fmean(all_), stdev(all_)) for name, all_ in of.items() if len(all_) >= LEAST_OF_ONE]
    return tuple(sorted(found, key=lambda one: (-one.loads, one.name))) if len(found) > 1 else ()


def individuals(values: Sequence[float]) -> Chart:
    """Set values against the limits of their own scatter.

    Parameters
    ----------
    values : in their order, any unit [L, or −]

    Returns
    -------
    each value with its signals: beyond a limit, a jump from the one before beyond the ranges' limit, the eighth and
    later of eight in a row on one side of the mean; mean and limits, mean ± 2.66 × mean moving range

    References
    ----------
    Shewhart's individuals chart, constants for ranges of two, from memory.

    >>> chart = individuals((1.0, 1.1, 1.0, 1.1, 1.0, 1.1, 2.0))
    >>> round(chart.mean, 2), round(chart.high, 2), chart.points[-1].signals
    (1.19, 1.81, ('beyond', 'jump'))
    """
    if not values:
        return Chart((), 0.0, 0.0, 0.0, limited=False)
    mean = fmean(values)
    ranges = [abs(b - a) for a, b in pairwise(values)]
    spread = fmean(ranges) if ranges else 0.0
    low, high = mean - LIMIT * spread, mean + LIMIT * spread
    limited = len(values) >= LEAST
    points, side, long = [], 0, 0
    for at, value in enumerate(values):
        now = (value > mean) - (value < mean)
        long = long + 1 if now == side and now else 1
        side = now
        found: list[Signal] = []
        if limited:
            found += ["beyond"] if not low <= value <= high else []
            found += ["jump"] if at and ranges[at - 1] > RANGE_LIMIT * spread else []
            found += ["run"] if long >= RUN and now else []
        points.append(Point(value, tuple(found)))
    return Chart(tuple(points), mean, low, high, limited)
