"""What a dose is read on: scale, jug or syringe, and whether its marks are fine enough for that dose."""

import math
from typing import Final, NamedTuple

from keeve.core.measure.units import GAL_L
from keeve.core.message.errors import Frozen
from keeve.core.message.said import Words, mark
from keeve.core.vessels.tolerance import allowed_percent


class Instrument(NamedTuple):
    """A scale or a measure; its unit is the kilogram or the litre."""

    key: str
    name: Words
    step: float
    """Smallest mark."""
    most: float
    """What it takes at once."""
    times: int = 1
    """So often it is filled for one dose at most."""
    us_step: float = 0.0
    """Smallest mark of its US twin; 0 where it is told in its own marks to every reader."""


_FL_OZ_L: Final = GAL_L / 128
US_MARKS_L: Final = tuple(_FL_OZ_L * ounces for ounces in (0.25, 0.5, 1, 2, 4, 8, 16, 32, 64, 128))


def us_mark_l(mark_l: float) -> float:
    """Return how the other side of a jug is marked, the one with fluid ounces [L].

    Parameters
    ----------
    mark_l : smallest mark of the side with litres [L], > 0

    Returns
    -------
    the nearest of quarter, half, 1, 2, 4 … fluid ounces [L]

    References
    ----------
    Common practice, no source: jugs are sold with both.

    >>> [round(us_mark_l(one) * 128 / 3.785411784, 2) for one in (0.005, 0.05, 0.1, 0.25)]
    [0.25, 2.0, 4.0, 8.0]
    """
    return min(US_MARKS_L, key=lambda one: abs(math.log(one / mark_l)))


# Common practice, no source: 0.1 g under 100 g, 5 g for the rest; syringes of a chemist's, a kitchen jug.
SCALE: Final = Instrument("scale", mark("scale"), 0.005, 50.0)
FINE_SCALE: Final = Instrument("fine scale", mark("fine scale"), 0.0001, 2.0)
FINE_JUG: Final = Instrument("fine jug", mark("measuring jug with 5 mL marks"), 0.005, 1.0, 2, _FL_OZ_L / 4)
US_FINE_JUG: Final = mark("measuring jug with ¼ fl oz marks")
CUP: Final = Instrument("jug", mark("jug"), 0.02, math.inf, 60, _FL_OZ_L / 2)
"""What an admixture is measured in that is not little."""
SYRINGES: Final = (
    Instrument("syringe-60", mark("60 mL syringe"), 0.001, 0.06, 4),
    Instrument("syringe-10", mark("10 mL syringe"), 0.0005, 0.01, 4),
    Instrument("syringe-5", mark("5 mL syringe"), 0.0002, 0.005, 4),
    Instrument("syringe-1", mark("1 mL syringe"), 0.00001, 0.001, 4),
)
"""Marked every 1, 0.5, 0.2 and 0.01 mL; drawn up four times at most. House ruling."""
ON_MARK: Final = 0.1
"""So near to a mark, as a share of what is allowed, a dose stands on it: own assumption."""
LEAST_MARKS: Final = 15
"""Of fewer marks none is trusted to be that true: own assumption."""
DILUTED: Final = 9
"""Parts of water to one of what is too little for any syringe. House ruling."""
US_PERCENT: Final = 3.0
"""Who reads the other side of a jug must be so near: the ratio of water to binder has no more. House ruling."""
FULL_SHARE: Final = 0.97
"""A jug fuller than that slops over when it is carried: common practice, no source."""
_SLACK: Final = 1e-9


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


class Drawn(Frozen):
    """A liquid as it is measured: in what, how often, and to which mark."""

    by: str
    """Key of the instrument."""
    name: Words
    step_l: float
    us_step_l: float
    """Smallest mark for a US reader; 0 where everybody is told the same."""
    fills: int
    full_l: float
    """What each but the last is filled to."""
    last_l: float
    diluted: int = 0
    """Parts of water it is diluted with first; 0 is neat."""
    error_percent: float
    """What reading it does to the dose."""
    good: bool
    """Whether half a mark is inside the tolerance."""

    @property
    def read_l(self) -> float:
        """All that is drawn up [L], with what it was diluted with."""
        return (self.fills - 1) * self.full_l + self.last_l


def _drawn(with_: Instrument, volume_l: float, allowed: float, diluted: int = 0) -> Drawn | None:
    """Measure a volume in one instrument; None where it would be filled too often."""
    marks = max(round(volume_l / with_.step), 1)
    fills = max(math.ceil(marks * with_.step / with_.most - _SLACK), 1)
    if fills > with_.times:
        return None
    full_l = math.floor(with_.most / with_.step + _SLACK) * with_.step if fills > 1 else 0.0
    read_l = marks * with_.step
    # A level that stands on a mark is read truer than one between two.
    on_mark = with_ is FINE_JUG and marks >= LEAST_MARKS and abs(read_l / volume_l - 1) * 100 <= allowed * ON_MARK
    # Who reads the other side is told this one, where that has no mark so near.
    us_step = 0.0 if on_mark and with_.us_step / 2 / volume_l * 100 > US_PERCENT else with_.us_step
    return Drawn(
        by=with_.key,
        name=with_.name,
        step_l=with_.step,
        us_step_l=us_step,
        fills=fills,
        full_l=full_l,
        last_l=read_l - (fills - 1) * full_l,
        diluted=diluted,
        error_percent=(read_l / volume_l - 1) * 100,
        good=(on_mark or with_.step / 2 / volume_l * 100 <= allowed + _SLACK)
        and us_step / 2 / volume_l * 100 <= US_PERCENT + _SLACK,
    )


def draw(role: str, volume_l: float, jug: Instrument = CUP) -> Drawn:
    """Choose the measure for something that is poured.

    Parameters
    ----------
    role : `water` or `admixture`
    volume_l : the dose [L], > 0
    jug : what is at hand

    Returns
    -------
    the jug where half its mark is inside the tolerance, else what is filled least often of a finer jug and syringes;
    else an admixture is diluted, and drawn up by syringe

    References
    ----------
    Tolerances: ASTM C94, from memory; the measures: common practice; draws and dilution: house rulings.

    >>> [draw("admixture", litres).by for litres in (0.4, 0.3, 0.103, 0.0125, 0.00025)]
    ['jug', 'fine jug', 'syringe-60', 'syringe-10', 'syringe-1']
    >>> found = draw("admixture", 0.0001)
    >>> found.diluted, round(found.read_l * 1000, 3)
    (9, 1.0)
    """
    allowed = allowed_percent(role)
    finer = [one for one in (FINE_JUG, *SYRINGES) if one.step < jug.step]
    neat = [found for one in (jug, *finer) if (found := _drawn(one, volume_l, allowed)) is not None]
    if good := [one for one in neat if one.good]:
        return min(good, key=lambda one: one.fills)
    if role == "admixture":
        thin = volume_l * (1 + DILUTED)
        made = [found for one in SYRINGES if (found := _drawn(one, thin, allowed, DILUTED)) is not None]
        if good := [one for one in made if one.good]:
            return min(good, key=lambda one: one.fills)
    return min(neat, key=lambda one: one.step_l)


METRIC_JUG_L: Final = (0.005, 0.01, 0.02, 0.05, 0.1, 0.25, 0.5, 1.0, 2.0, 5.0, 10.0)
US_JUG_L: Final = tuple(GAL_L / 128 * ounces for ounces in (0.25, 0.5, 1, 2, 4, 8, 16, 32, 64, 128, 256))


def jug_steps_l(sip_l: float, first_l: float, marks_l: tuple[float, ...] = METRIC_JUG_L) -> tuple[float, float, float]:
    """Three amounts to tap beside the mixer: a sip, a middling one and a big one.

    Parameters
    ----------
    sip_l : the step for a mix that is a little dry [L], > 0
    first_l : the first pour [L]
    marks_l : amounts a jug can show [L], rising

    Returns
    -------
    three rising amounts [L]: what is in cannot be taken out, so the first is the sip itself

    References
    ----------
    Common practice, no source.

    >>> jug_steps_l(0.3, 12), jug_steps_l(0.002, 0.05)
    ((0.3, 0.5, 5.0), (0.002, 0.005, 0.02))
    """
    near = max((one for one in marks_l if sip_l * 1.25 < one <= sip_l * 3), default=sip_l * 2)
    far = max((one for one in marks_l if near < one <= first_l / 2), default=near * 2)
    return sip_l, near, far
