"""A good load as the recipe of the next: the water it really had, in the place of the one asked."""

from operator import attrgetter
from typing import Final, NamedTuple

from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import mark
from keeve.core.proportions.base import Basis
from keeve.core.run.models import LoadState
from keeve.core.ticket.cards import TicketWater

NEAR: Final = 0.005
"""So near the water asked a load is as the recipe says: own assumption."""
_ROUNDS: Final = 8
_CLOSE: Final = 1e-9


class Pinned(NamedTuple):
    """What is changed in a recipe."""

    field: str
    value: float
    held: bool
    """Whether the recipe's own bounds held it back."""


def real_share(load: LoadState, water: TicketWater) -> float:
    """Return the free water a load really had over what was asked [-], its heaps as they were counted.

    Raises
    ------
    MixError : a load that is not used, was not judged right, or was dried

    References
    ----------
    (brought + poured) / free target: plain arithmetic.
    """
    if load.ended != "accepted" or not load.verdicts or load.verdicts[-1] != "right" or load.dry_added_kg > 0:
        why = mark("Only a load that was right, was used, and had no dry mix added is a recipe.")
        raise MixError(Fault(Code.REFUSED, why, mark("Choose another load."), field="load"))
    return (water.brought_l + load.poured_l) / water.free.target


def pinned(basis: Basis, share: float) -> Pinned:
    """Put the water of a load into a recipe, within the recipe's own bounds.

    Parameters
    ----------
    basis : of the mix
    share : water it had over what was asked [-], as `real_share`

    Returns
    -------
    the field of the recipe that changes, its new value, and whether the bounds held it back

    Raises
    ------
    MixError : the load was as the recipe says, or the recipe designs its own water

    References
    ----------
    Plain arithmetic; to stay within the bounds of the label: own assumption.
    """
    if abs(share - 1) < NEAR:
        why = mark("This load had the water the recipe asks for: there is nothing to change.")
        raise MixError(Fault(Code.REFUSED, why, mark("Mix the next one the same way."), field="load"))
    if basis.water_fields is None:
        why = mark("This mix works its water out of its strength: it has none of its own that a load could set.")
        raise MixError(Fault(Code.REFUSED, why, mark("Change it in a mix of your own."), field="load"))
    target, low, high = basis.water_fields
    wanted = _wanted(basis, target, _value(basis, target), share)
    least, most = _value(basis, low) if low else 0.0, _value(basis, high) if high else wanted
    value = min(max(wanted, least), most)
    return Pinned(target, float(f"{value:.5g}"), value != wanted)


def _value(basis: Basis, path: str) -> float:
    return float(attrgetter(path)(basis))


def _wanted(basis: Basis, target: str, before: float, share: float) -> float:
    """Return the figure at which a recipe has so much more water to its dry mass, whatever it states."""
    wet = _wetness(basis)
    last, wanted, off = before, before * share, share - 1
    for _ in range(_ROUNDS):  # the secant: wetness is all but straight in what a recipe states
        now = share - _wetness(_with(basis, target, wanted)) / wet
        if abs(now) < _CLOSE or now == off:
            break
        last, wanted, off = wanted, wanted + now * (wanted - last) / (off - now), now
    return wanted


def _wetness(basis: Basis) -> float:
    made = basis.proportions()
    return made.water.target / made.dry_kg_m3


def _with(basis: Basis, path: str, value: float) -> Basis:
    whole, _, part = path.partition(".")
    inner = getattr(basis, whole).model_copy(update={part: value}) if part else value
    return basis.model_copy(update={whole: inner})
