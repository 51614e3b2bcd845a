"""How long a load lives, how long water takes to show, and what plaster goes through after the stir."""

import math
from collections.abc import Iterable
from typing import Final

from pydantic import Field

from keeve.core.message.errors import Frozen
from keeve.core.message.said import Words

CEMENT_REF_C: Final = 20.0
PLASTER_REF_C: Final = 21.0
"""A working life is stated at this temperature: common practice, no source."""
_DOUBLES_C: Final = 10.0
PLASTER_FASTEST_C: Final = 35.0
"""Warmer plaster is no quicker: house ruling."""
PACE_BELIEVED: Final = (1 / 3, 3.0)
"""A stage seen so much sooner or later than expected was marked by mistake: house ruling."""
PLAIN_WET_OUT_S: Final = 45
"""Three time constants of 15 s: water stirred into a plain mix shows by then."""
REDUCED_WET_OUT_S: Final = 180
"""Three time constants of 60 s, where a reducer or a lot of fine powder holds it back."""
LIME_WET_OUT_S: Final = 300
"""Hydraulic lime looks dry, then fattens by itself: common practice, no source."""
STAGE_LIFE_MIN: Final = 12.0
"""Working life of the plaster whose stages the table states."""
MOST_STAGED_LIFE_MIN: Final = 20.0
"""Plaster that stays open longer is held back and goes through them at its own pace: own assumption."""


class Stage(Frozen):
    """What plaster looks like for a while, and what it is good for then."""

    key: str
    name: Words
    look: Words
    good_for: Words
    from_min: float = Field(ge=0)
    """After the first powder, at the reference temperature."""
    to_min: float = Field(gt=0)
    heat: float = Field(ge=0, le=1)
    """How warm it is between cold and its peak, at its beginning."""
    firm: float = Field(ge=0, le=1)
    """How firm it is between milk and stone, at its beginning."""


def life_at_min(life_min: float, ref_c: float, at_c: float) -> float:
    """Return how long a mix may be worked at a temperature [min].

    Parameters
    ----------
    life_min : as stated [min]
    ref_c : at which temperature [°C]
    at_c : how warm it is [°C]

    Notes
    -----
    life(T) = life(ref) · 2^((ref − T) / 10)

    References
    ----------
    Common practice, no source: ten degrees double the pace; plaster gains no more over 35 °C: house ruling.

    >>> life_at_min(90, 20, 30), life_at_min(12, 21, 35) == life_at_min(12, 21, 47)
    (45.0, True)
    """
    felt_c = min(at_c, PLASTER_FASTEST_C) if ref_c == PLASTER_REF_C else at_c
    return life_min * math.pow(2.0, (ref_c - felt_c) / _DOUBLES_C)


def life_ends_ms(met_ms: int, life_min: float, ref_c: float, began_c: float, looks: Iterable[tuple[int, float]]) -> int:
    """Return the moment a load's life is used up [ms since 1970].

    Parameters
    ----------
    met_ms : when water and binder met
    life_min : as stated [min], at `ref_c` [°C]
    began_c : how warm it was then [°C]
    looks : when it was measured [ms], and how warm it was [°C], in order

    Notes
    -----
    ∫ dt / life(T(t)) = 1, each temperature until the next is known.

    References
    ----------
    Plain arithmetic; the pace as `life_at_min`.

    >>> life_ends_ms(0, 90, 20, 20, [(45 * 60_000, 30.0)]) / 60_000
    67.5
    """
    at, used, celsius = met_ms, 0.0, began_c
    for when, measured in looks:
        if when > at:
            share = (when - at) / (life_at_min(life_min, ref_c, celsius) * 60_000)
            if used + share >= 1:
                break
            used, at = used + share, when
        celsius = measured
    return at + math.floor((1 - used) * life_at_min(life_min, ref_c, celsius) * 60_000 + 0.5)


def stages_of(stages: Iterable[Stage], life_min: float, at_c: float = PLASTER_REF_C) -> tuple[Stage, ...]:
    """Return the stages of a plaster with its own working life [min] at a temperature [°C]: all in proportion.

    Own assumption: what hastens its thickening hastens what follows. Days of drying stay days.
    """
    if not 0 < life_min <= MOST_STAGED_LIFE_MIN:
        return ()
    pace = life_at_min(life_min, PLASTER_REF_C, at_c) / STAGE_LIFE_MIN
    return tuple(
        one.model_copy(update={"from_min": one.from_min * pace, "to_min": one.to_min * pace})
        if one.to_min < 24 * 60
        else one.model_copy(update={"from_min": one.from_min * pace})
        for one in stages
    )
