"""The plausible envelope: outside it a mix is stopped and asked about."""

from keeve.core.materials.material import BINDERS
from keeve.core.message.errors import Code, Fault
from keeve.core.message.said import Amount, Said, mark
from keeve.core.proportions.base import Proportions
from keeve.core.proportions.family import Family


def outside(family: Family, proportions: Proportions) -> tuple[Fault, ...]:
    """Find what is unusual about a mix.

    Parameters
    ----------
    family : of the mix; one without usual bounds is not judged
    proportions : the mix per m³

    Returns
    -------
    a fault for each figure outside its family's usual bounds, with the row it broke

    References
    ----------
    Common practice, no source.
    """
    row = family.usual
    if row is None:
        return ()
    binder = sum(c.dry_kg_m3 for c in proportions.constituents if c.material.role in BINDERS)
    found = (
        (mark("water in a cubic metre"), proportions.water.target, row.water, "kg in 1 m³"),
        (mark("fresh density"), proportions.fresh_kg_m3, row.fresh, "kg/m³"),
        (mark("water to binder"), proportions.water.target / binder if binder else 0.0, row.ratio, ""),
    )
    return tuple(_fault(family, *one) for one in found if not one[2][0] <= one[1] <= one[2][1])


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
