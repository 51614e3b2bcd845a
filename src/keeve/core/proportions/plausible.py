"""The plausible envelope: outside it a mix is stopped and asked about."""

from typing import Final, NamedTuple

from keeve.core.materials.material import BINDERS
from keeve.core.measure.reading import AS_SHOWN
from keeve.core.message.errors import Code, Fault
from keeve.core.message.said import Amount, Said, mark
from keeve.core.proportions.base import Proportions
from keeve.core.proportions.family import Family


class Moved(NamedTuple):
    """How far admixtures and entrained air move the usual bounds [-]."""

    water: float = 1.0
    """By how much less water there is."""
    ratio: float = 1.0
    """By how much lower water to binder is."""
    lighter: float = 1.0
    """By how much lighter air makes it."""
    denser: float = 1.0
    """By how much denser less water makes it."""


_UNMOVED: Final = Moved()


def outside(family: Family, proportions: Proportions, moved: Moved = _UNMOVED) -> tuple[Fault, ...]:
    """Find what is unusual about a mix.

    Parameters
    ----------
    family : of the mix; one without usual bounds is not judged
    proportions : the mix per m³
    moved : how far a reducer and entrained air move the bounds [-]

    Returns
    -------
    a fault for each figure outside its family's usual bounds, with the row it broke; one that a page would show as the
    bound itself is none

    References
    ----------
    Common practice, no source; bounds × (1 − cut) × the factor of the air: house ruling.
    """
    row = family.usual
    if row is None:
        return ()
    binder = sum(c.dry_kg_m3 for c in proportions.constituents if c.material.role in BINDERS)
    ratio = proportions.water.target / binder if binder else 0.0
    fresh = row.fresh[0] * moved.lighter, row.fresh[1] * moved.lighter * moved.denser
    found = (
        (mark("water in a cubic metre"), proportions.water.target, _times(row.water, moved.water), "kg in 1 m³"),
        (mark("fresh density"), proportions.fresh_kg_m3, fresh, "kg/m³"),
        (mark("water to binder"), ratio, _times(row.ratio, moved.ratio), ""),
    )
    return tuple(_fault(family, *one) for one in found if not _holds(one[1], one[2]))


def _times(bounds: tuple[float, float], factor: float) -> tuple[float, float]:
    return bounds[0] * factor, bounds[1] * factor


def _holds(value: float, bounds: tuple[float, float]) -> bool:
    return bounds[0] <= value * (1 + AS_SHOWN) and value <= bounds[1] * (1 + AS_SHOWN)


def _fault(family: Family, name: str, value: float, bounds: tuple[float, float], unit: str) -> Fault:
    low, high = bounds
    return Fault(
        Code.OUT_OF_RANGE,
        Said(
            "For {family}, {name} of {value} is outside the usual {low} to {high}.",
            family=family.name,
            name=name,
            value=Amount(value, unit),
            low=Amount(low, unit),
            high=Amount(high, unit),
        ),
        family.check,
        field="unusual_ok",
        value=value,
        limit=low if value < low else high,
        unit=unit,
    )
