"""What a dose is read on: scale, jug or syringe, and whether its marks are fine enough for that dose."""

import math
from typing import Final, NamedTuple

from keeve.core.measure.units import GAL_L
from keeve.core.message.said import Words, mark
from keeve.core.vessels.scale_check import allowed_percent


class Instrument(NamedTuple):
    """A scale or a measure; its unit is the kilogram or the litre."""

    key: str
    name: Words
    step: float
    """Smallest mark."""
    most: float
    """What it takes at once."""


# Common practice, no source: 0.1 g under 100 g, 5 g for the rest; a syringe of a chemist's, a kitchen jug.
SCALE: Final = Instrument("scale", mark("scale"), 0.005, 50.0)
FINE_SCALE: Final = Instrument("fine scale", mark("fine scale"), 0.0001, 2.0)
FINE_JUG: Final = Instrument("fine jug", mark("measuring jug with 5 mL marks"), 0.005, 1.0)
SYRINGE: Final = Instrument("syringe", mark("syringe"), 0.001, 0.06)
FULL_SHARE: Final = 0.97
"""A jug fuller than that slops over when it is carried: common practice, no source."""
SYRINGES: Final = 3
"""So often one draws up a syringe for one dose."""


JUG_STEPS_L: Final = (0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.25, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0)
US_JUG_STEPS_L: Final = tuple(
    GAL_L / 128 * ounces for ounces in (0.05, 0.1, 0.25, 0.5, 1, 2, 4, 8, 16, 32, 64, 128, 256)
)
"""Amounts that jugs show: litres, and for a US reader fluid ounces, pints, quarts and gallons."""


def too_much_l(target_l: float, steps_l: tuple[float, ...] = JUG_STEPS_L) -> float:
    """Choose the step by which it is told what too much water does.

    Parameters
    ----------
    target_l : free water of the load [L], > 0
    steps_l : what a jug shows [L], rising

    Returns
    -------
    the largest step not over a tenth of it [L]

    References
    ----------
    House ruling, common practice.

    >>> too_much_l(11.7), too_much_l(0.35)
    (1.0, 0.02)
    """
    return max((step for step in steps_l if step <= target_l / 10 * (1 + 1e-9)), default=steps_l[0])


class Choice(NamedTuple):
    """What to read a dose on."""

    instrument: Instrument
    error_percent: float
    """Half a step, on the dose [%]."""
    good: bool
    """Whether that is inside the tolerance of its constituent."""


def _choice(instrument: Instrument, dose: float, allowed: float) -> Choice:
    error = instrument.step / 2 / dose * 100 if dose > 0 else 0.0
    return Choice(instrument, error, error <= allowed + 1e-9)


def weigh_on(role: str, mass_kg: float) -> Choice:
    """Choose the scale for a dose.

    Parameters
    ----------
    role : of the constituent; `water` or `admixture` for those
    mass_kg : the dose [kg], > 0

    Returns
    -------
    the common scale where half its step is inside the tolerance, else the fine one

    References
    ----------
    Tolerances: ASTM C94, from memory; the scales: common practice, no source.

    >>> [weigh_on("powder", kg).instrument.key for kg in (4.25, 0.0084)], weigh_on("powder", 1e-6).good
    (['scale', 'fine scale'], False)
    """
    allowed = allowed_percent(role)
    common = _choice(SCALE, mass_kg, allowed)
    if common.good or mass_kg > FINE_SCALE.most:
        return common
    return _choice(FINE_SCALE, mass_kg, allowed)


def jug_full_l(brim_l: float, *, us: bool = False) -> float:
    """Return to where a jug is filled that is called full [L]: its highest whole mark, which can be carried.

    Parameters
    ----------
    brim_l : what it holds to the brim [L]
    us : whether its marks are quarts

    Returns
    -------
    volume [L]: whole litres or quarts, tenths or quarters of them in a small jug; never over 97 % of the brim

    References
    ----------
    Common practice, no source.

    >>> jug_full_l(5.4), jug_full_l(2.29), jug_full_l(0.52)
    (5.0, 2.0, 0.5)
    """
    unit = GAL_L / 4 if us else 1.0
    room = brim_l * FULL_SHARE / unit
    part = 1.0 if room >= 1 else 0.25 if us else 0.1
    return math.floor(room / part + 1e-9) * part * unit if room >= part else brim_l * FULL_SHARE


def pour_with(role: str, volume_l: float, jug_mark_l: float) -> Choice:
    """Choose the measure for something that is poured.

    Parameters
    ----------
    role : `water` or `admixture`
    volume_l : the dose [L], >= 0
    jug_mark_l : smallest mark of the jug at hand [L]

    Returns
    -------
    the jug at hand where half its step is inside the tolerance, else a finer jug or a syringe

    References
    ----------
    Tolerances: ASTM C94, from memory; the measures: common practice, no source.

    >>> [pour_with("water", litres, 0.1).instrument.key for litres in (9.0, 0.4, 0.05)]
    ['jug', 'fine jug', 'syringe']
    """
    allowed = allowed_percent(role)
    jug = Instrument("jug", mark("jug"), jug_mark_l, float("inf"))
    choices = [_choice(jug, volume_l, allowed)]
    choices += [
        _choice(one, volume_l, allowed)
        for one, times in ((FINE_JUG, 2), (SYRINGE, SYRINGES))
        if volume_l <= one.most * times and one.step < jug_mark_l
    ]
    return next((one for one in choices if one.good), min(choices, key=lambda one: one.error_percent))


METRIC_JUG_L: Final = (0.02, 0.05, 0.1, 0.25, 0.5, 1.0, 2.0, 5.0, 10.0)
# 2, 4 and 8 fl oz, a pint, a quart, a half gallon, a gallon, two gallons.
US_JUG_L: Final = tuple(GAL_L * share for share in (1 / 64, 1 / 32, 1 / 16, 1 / 8, 1 / 4, 1 / 2, 1.0, 2.0))


def jug_steps_l(sip_l: float, first_l: float, marks_l: tuple[float, ...] = METRIC_JUG_L) -> tuple[float, float, float]:
    """Three jug amounts to tap beside the mixer: a sip, a middling one and a big one.

    Parameters
    ----------
    sip_l : the step for a mix that is a little dry [L]
    first_l : the first pour [L]
    marks_l : amounts a jug can show [L], rising, at least three

    Returns
    -------
    three rising amounts [L]

    References
    ----------
    Common practice, no source.

    >>> jug_steps_l(0.6, 12)
    (0.5, 1.0, 5.0)
    """
    # A tap is never much more than the sip: what is in cannot be taken out.
    near = max((i for i in range(len(marks_l) - 2) if marks_l[i] <= sip_l * 1.1), default=0)
    far = max((i for i in range(near + 2, len(marks_l)) if marks_l[i] <= first_l / 2), default=near + 2)
    return marks_l[near], marks_l[near + 1], marks_l[far]
