"""Days and moments that somebody may mean: outside of them a clock was never set, or a year was mistyped."""

from datetime import date
from typing import Final, TypeVar

from keeve.core.message.said import mark

FIRST_YEAR: Final = 1970
LAST_YEAR: Final = 2200
On = TypeVar("On", bound=date)


def of_our_days(on: On) -> On:
    """Return a day or moment as it is. Plain arithmetic.

    Raises
    ------
    ValueError : its year is not from 1970 to 2200: it cannot be reckoned with, in every zone, from there

    >>> of_our_days(date(2026, 9, 14))
    datetime.date(2026, 9, 14)
    """
    if not FIRST_YEAR <= on.year <= LAST_YEAR:
        raise ValueError(mark("That is no day of ours: look at the year."))
    return on
