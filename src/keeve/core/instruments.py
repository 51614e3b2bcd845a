"""What a dose is read on: scale, jug or syringe, and whether its marks are fine enough for that dose."""

from typing import Final, NamedTuple

from keeve.core.said import Words, mark
from keeve.core.scale_check import allowed_percent


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
SYRINGES: Final = 3
"""So often one draws up a syringe for one dose."""


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
