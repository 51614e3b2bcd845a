"""Strength by age, drawn: what was found, the curve that lies nearest, and what is asked for."""

import math
from collections.abc import Sequence
from typing import Final, NamedTuple

from keeve.core.hardening.maturity import fitted_28_days_mpa, share_of_28_days
from keeve.core.measure.units import STRENGTH_MPA

WIDE: Final = 640.0
HIGH: Final = 240.0
LEFT: Final = 96.0
RIGHT: Final = 44.0
TOP: Final = 14.0
BOTTOM: Final = 26.0
AGES: Final = (1.0, 3.0, 7.0, 14.0, 28.0, 56.0)
_STEPS: Final = (2.0, 5.0, 10.0, 20.0, 50.0)
_PSI_STEPS: Final = tuple(psi * STRENGTH_MPA["psi"] for psi in (250, 500, 1000, 2500, 5000))


class Curve(NamedTuple):
    """The drawing."""

    wide: float
    high: float
    bottom: float
    left: float
    dots: tuple[tuple[float, float, float], ...]
    """x, y, strength [MPa]."""
    line: str
    ages: tuple[tuple[float, str], ...]
    levels: tuple[tuple[float, float], ...]
    """y, strength [MPa]."""
    asked_y: float | None
    full_mpa: float
    """At 28 days, by the curve [MPa]."""


def draw_curve(points: Sequence[tuple[float, float]], asked_mpa: float | None, *, us: bool = False) -> Curve | None:
    """Draw strengths [MPa] by age [days]; None without any. Levels are round in psi for a US reader."""
    full = fitted_28_days_mpa(points)
    if full is None:
        return None
    last = max(56.0, *(days for days, _ in points))
    top = max(full * share_of_28_days(last), asked_mpa or 0.0, *(mpa for _, mpa in points)) * 1.08
    base = HIGH - BOTTOM

    def x(days: float) -> float:
        return round(LEFT + (WIDE - LEFT - RIGHT) * math.sqrt(days / last), 1)

    def y(mpa: float) -> float:
        return round(base - (base - TOP) * mpa / top, 1)

    step = next((one for one in (_PSI_STEPS if us else _STEPS) if top / one <= 6), 100.0)
    days = [0.25 + (last - 0.25) * (n / 60) ** 2 for n in range(61)]
    return Curve(
        WIDE,
        HIGH,
        base,
        LEFT,
        tuple((x(age), y(mpa), mpa) for age, mpa in points),
        " ".join(f"{x(age)},{y(full * share_of_28_days(age))}" for age in days),
        tuple((x(age), f"{age:g}") for age in AGES if age <= last),
        tuple((y(n * step), n * step) for n in range(1, int(top / step) + 1)),
        y(asked_mpa) if asked_mpa else None,
        full,
    )
