"""The plausible envelope: outside it a mix is stopped and asked about."""

from typing import Final, NamedTuple

from keeve.core.materials.material import BINDERS
from keeve.core.message.errors import Code, Fault
from keeve.core.message.said import Amount, Said, mark
from keeve.core.proportions import Proportions


class Plausible(NamedTuple):
    """Usual bounds of one family: water [kg/m³], fresh density [kg/m³], water to binder [-]."""

    water: tuple[float, float]
    fresh: tuple[float, float]
    ratio: tuple[float, float]


# Common practice, no source. For cement-lime mortar the lower ratio is taken as 0.45, not 0.55: base-coat stucco at
# its own usual water (0.145 kg per kg dry, 3.6 sand to 1 Portland) comes to 0.50, and at its driest to 0.45.
PLAUSIBLE: Final[dict[str, Plausible]] = {
    "concrete": Plausible((140, 245), (2250, 2480), (0.35, 1.0)),
    "cement mortar": Plausible((250, 310), (1850, 2200), (0.5, 0.9)),
    "cement-lime mortar": Plausible((250, 310), (1800, 2150), (0.45, 0.9)),
    "hydraulic lime mortar": Plausible((250, 340), (1800, 2120), (0.8, 1.3)),
    "screed": Plausible((130, 180), (1950, 2250), (0.3, 0.5)),
    "pervious": Plausible((85, 130), (1600, 2050), (0.26, 0.36)),
    "high-strength": Plausible((210, 260), (2150, 2350), (0.2, 0.3)),
}


_HINT: Final = mark("Check the parts, the materials and the water; if you mean it, say so under “Outside the usual”.")
_PERVIOUS_HINT: Final = mark(
    "Said as 3 : 1 by volume it holds for fluffy cement only, 830 to 1000 to the cubic metre: settled cement fills the "
    "voids. State it by mass, 4 to 4½ of rock; if you mean it, say so under “Outside the usual”."
)


def outside(family: str, proportions: Proportions) -> tuple[Fault, ...]:
    """Find what is unusual about a mix.

    Parameters
    ----------
    family : of the mix; families without a row are not judged
    proportions : the mix per m³

    Returns
    -------
    a fault for each figure outside its family's usual bounds, with the row it broke

    References
    ----------
    Common practice, no source.
    """
    row = PLAUSIBLE.get(family)
    if row is None:
        return ()
    binder = sum(c.dry_kg_m3 for c in proportions.constituents if c.material.role in BINDERS)
    found = (
        (mark("water in a cubic metre"), proportions.water.target, row.water, "kg in 1 m³"),
        (mark("fresh density"), proportions.fresh_kg_m3, row.fresh, "kg/m³"),
        (mark("water to binder"), proportions.water.target / binder if binder else 0.0, row.ratio, ""),
    )
    return tuple(_fault(family, *one) for one in found if not one[2][0] <= one[1] <= one[2][1])


def _fault(family: str, name: str, value: float, bounds: tuple[float, float], unit: str) -> Fault:
    low, high = bounds
    return Fault(
        Code.OUT_OF_RANGE,
        Said(
            "For {family}, {name} of {value} is outside the usual {low} to {high}.",
            family=family,
            name=name,
            value=Amount(value, unit),
            low=Amount(low, unit),
            high=Amount(high, unit),
        ),
        _PERVIOUS_HINT if family == "pervious" else _HINT,
        "unusual_ok",
        value,
        low if value < low else high,
        unit,
    )
