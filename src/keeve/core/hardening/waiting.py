"""What comes in the hours and days after the placing: finishing, damp, demoulding, the next coat, test days."""

import math
from typing import Final, Literal

from pydantic import Field

from keeve.core.message.errors import Code, Fault, Frozen, MixError
from keeve.core.message.said import Amount, Said, Words, mark
from keeve.core.proportions.family import Family

WaitKind = Literal["finish", "damp", "cover", "demould", "dry", "test", "next", "frost"]
UNDER_SHEET_DAYS: Final = 7
"""Damp before a screed is uncovered: BS 8204, from memory."""
HOT_GROUND_C: Final = 30.0
"""Ground so hot is wetted twice: common practice, no source."""
_FAST_MM: Final = 50.0
_SLOW_MM_DAY: Final = 0.5


class Waiting(Frozen):
    """One thing after the placing, in hours of the day or in calendar days."""

    kind: WaitKind
    what: Words
    from_h: float | None = Field(None, ge=0, le=48)
    to_h: float | None = Field(None, ge=0, le=48)
    """Elapsed hours after the last placing."""
    from_days: int | None = Field(None, ge=0, le=800)
    to_days: int | None = Field(None, ge=0, le=800)
    """Days after, at the same clock time."""


class Wetting(Frozen):
    """How the ground under a work is wetted before it."""

    how: Words
    least_l_m2: float = Field(gt=0, le=10)
    most_l_m2: float = Field(gt=0, le=10)
    before_min: int = Field(ge=0, le=1440)
    """How long before the placing the last of it is put on: the film must go."""
    source: Words


class NextCoat(Frozen):
    """The coat that follows on the same wall."""

    mix: str
    thickness_mm: float = Field(gt=0, le=100)
    called: Words = ""
    """What the coat is called, where its mix has another name."""


def with_drying(waits: tuple[Waiting, ...], family: Family, thickness_mm: float) -> tuple[Waiting, ...]:
    """Put the drying of a screed after its days under a sheet.

    Parameters
    ----------
    waits : what comes after the placing
    family : of the mix
    thickness_mm : of the thickest part [mm]; 0 where nobody knows

    Returns
    -------
    the same, and for a screed how long it dries [days]

    References
    ----------
    As `screed_drying_days`; counted from the uncovering.

    >>> from keeve.core.proportions.family import FAMILIES
    >>> [(one.from_days, one.to_days) for one in with_drying((), FAMILIES["screed"], 75)]
    [(7, 107)]
    """
    if not family.dries_long or thickness_mm <= 0:
        return waits
    dry = UNDER_SHEET_DAYS + math.ceil(screed_drying_days(thickness_mm))
    return (*waits, Waiting(kind="dry", what=mark("Dries, uncovered"), from_days=UNDER_SHEET_DAYS, to_days=dry))


def screed_drying_days(thickness_mm: float) -> float:
    """How long a screed dries once it is uncovered.

    Parameters
    ----------
    thickness_mm : of the screed [mm], above 0 to 300

    Returns
    -------
    time [days], in warm and airy rooms

    Raises
    ------
    MixError : no screed is so thick

    Notes
    -----
    A millimetre a day up to 50 mm, half a millimetre a day above.

    References
    ----------
    Guidance in BS 8204, from memory.

    >>> screed_drying_days(50), screed_drying_days(75)
    (50.0, 100.0)
    """
    if not 0 < thickness_mm <= 300:
        raise MixError(
            Fault(
                Code.OUT_OF_RANGE,
                Said("No screed is {thick} thick.", thick=Amount(thickness_mm, "mm")),
                "",
                field="depth",
            )
        )
    return min(thickness_mm, _FAST_MM) + max(thickness_mm - _FAST_MM, 0.0) / _SLOW_MM_DAY
