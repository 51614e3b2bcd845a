"""Heat and time: how far concrete has come, by its age or by the temperature it really had."""

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import Final, Literal, NamedTuple

from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import Amount, Said, mark

Speed = Literal["R", "N", "S"]
"""How fast a cement hardens: rapid, normal, slow."""
SPEEDS: Final[dict[Speed, float]] = {"R": 0.20, "N": 0.25, "S": 0.38}
"""s of the Eurocode's curve [-]: EN 1992-1-1, from memory."""
SAUL_DATUM_C: Final = -10.0
C1074_DATUM_C: Final = 0.0
"""Advice of ASTM C1074 for plain type I at 0 to 40 °C, from memory."""
REFERENCE_C: Final = 20.0
MOST_GAP_H: Final = 16.0
"""Read in the morning and in the evening it is straight between; silent for longer it tells nothing: own assumption."""
MOST_POINTS: Final = 20_000


class At(NamedTuple):
    """One reading of a temperature trace."""

    h: float
    """After the cast."""
    c: float


def checked_trace(trace: Sequence[At]) -> tuple[At, ...]:
    """Put a trace in order and refuse one that tells too little.

    Parameters
    ----------
    trace : readings [h after the cast, °C]

    Returns
    -------
    the same, in order of time

    Raises
    ------
    MixError : under two readings, one before the cast, no temperature that can be, or a gap of over sixteen hours

    References
    ----------
    Own assumption.
    """
    if not 2 <= len(trace) <= MOST_POINTS:
        raise MixError(
            Fault(
                Code.MISSING,
                mark("A trace wants two readings at least, and 20 000 at most."),
                "",
                field="trace",
                value=len(trace),
            )
        )
    found = tuple(sorted(trace))
    if found[0].h < 0:
        raise MixError(
            Fault(
                Code.OUT_OF_RANGE,
                mark("A reading is dated before the cast."),
                mark("Look at the clocks."),
                field="trace",
            )
        )
    bad = next((one for one in found if not -40 <= one.c <= 110), None)
    if bad is not None:
        at = Said("No concrete is at {c}.", c=Amount(bad.c, "°C"))
        raise MixError(Fault(Code.OUT_OF_RANGE, at, mark("Check the unit, °C or °F."), field="trace", value=bad.c))
    for before, after in pairwise(found):
        if after.h - before.h > MOST_GAP_H:
            a, b = (Amount(one.h, "h") for one in (before, after))
            silent = Said("The trace is silent from {a} to {b} after the cast.", a=a, b=b)
            hint = mark("Take a trace without gaps, or write in what is known of these hours.")
            raise MixError(
                Fault(Code.MISSING, silent, hint, field="trace", value=after.h - before.h, limit=MOST_GAP_H, unit="h")
            )
    return found


def maturity_c_h(trace: Sequence[At], datum_c: float = SAUL_DATUM_C) -> float:
    """Return how far heat and time have brought a cast [°C·h].

    Parameters
    ----------
    trace : readings [h after the cast, °C], at least two
    datum_c : below it nothing happens [°C]: −10 of Saul, 0 of ASTM C1074's advice

    Returns
    -------
    maturity [°C·h]

    Raises
    ------
    MixError : as `checked_trace`

    Notes
    -----
    Σ max(T − T0, 0) Δt, T the mean of each interval: house ruling.

    References
    ----------
    Nurse 1949, Saul 1951, ASTM C1074, from memory.

    >>> maturity_c_h((At(0, 20), At(4, 30)))
    140.0
    """
    return math.fsum(
        max((before.c + after.c) / 2 - datum_c, 0.0) * (after.h - before.h)
        for before, after in pairwise(checked_trace(trace))
    )


def equivalent_days(trace: Sequence[At], datum_c: float = SAUL_DATUM_C) -> float:
    """Return the age at 20 °C with the same maturity [days].

    Parameters
    ----------
    trace, datum_c : as `maturity_c_h` [h, °C]; a datum under 20 °C

    References
    ----------
    As `maturity_c_h`; ASTM C1074, from memory.

    >>> equivalent_days(tuple(At(h, 20.0) for h in range(0, 49, 6)))
    2.0
    """
    return maturity_c_h(trace, datum_c) / (REFERENCE_C - datum_c) / 24


def share_of_28_days(days: float, speed: Speed = "N") -> float:
    """Return the mean strength at an age, as a share of that at 28 days [-].

    Parameters
    ----------
    days : age at 20 °C [days], above 0
    speed : of the cement

    Raises
    ------
    MixError : an age that is none

    Notes
    -----
    β = exp[s (1 − √(28 / t))], s 0.20 rapid, 0.25 normal, 0.38 slow

    References
    ----------
    EN 1992-1-1 eq. 3.2, from memory.

    >>> round(share_of_28_days(28), 3), round(share_of_28_days(7), 3)
    (1.0, 0.779)
    """
    if days <= 0:
        raise MixError(
            Fault(
                Code.OUT_OF_RANGE, mark("At this age it is not cast yet."), "", field="age_days", value=days, limit=0.0
            )
        )
    return math.exp(SPEEDS[speed] * (1 - math.sqrt(28 / days)))


def fitted_28_days_mpa(results: Sequence[tuple[float, float]], speed: Speed = "N") -> float | None:
    """Return the 28-day strength whose curve lies nearest to results of any age [MPa]; None of none.

    Parameters
    ----------
    results : age at 20 °C [days], strength [MPa]
    speed : of the cement

    Notes
    -----
    Least squares on f = f28 β(t): f28 = Σ f β / Σ β².

    References
    ----------
    As `share_of_28_days`; least squares: plain arithmetic.

    >>> round(fitted_28_days_mpa(((7, 23.37), (28, 30.0))), 2)
    30.0
    """
    shares = [(share_of_28_days(days, speed), mpa) for days, mpa in results]
    weight = math.fsum(share * share for share, _ in shares)
    return math.fsum(share * mpa for share, mpa in shares) / weight if weight > 0 else None
