"""The ratios by which the trade judges a mix."""

from keeve.core.materials.material import CEMENTITIOUS, Role
from keeve.core.message.errors import Frozen
from keeve.core.message.said import WHOLE, Said, mark
from keeve.core.message.working import PRACTICE, Given, Working
from keeve.core.proportions.base import Proportions


class JudgedRatio(Frozen):
    """A ratio by which the trade judges a mix."""

    name: str
    value: float
    working: Working


def judged(proportions: Proportions) -> tuple[JudgedRatio, ...]:
    """Work out the ratios of a mix.

    Parameters
    ----------
    proportions : the mix

    Returns
    -------
    water over what the trade divides by: cement, cementitious, sum of binders or powder [kg/kg]

    References
    ----------
    Common practice, no source; masonry standards count lime too.
    """
    water = proportions.water.target
    roles = {c.material.role for c in proportions.constituents}
    cementitious = ("w/cm", mark("cementitious")) if "supplementary" in roles else ("w/c", mark("cement"))
    kinds = [(CEMENTITIOUS, cementitious), (frozenset[Role]({"plaster"}), ("w/p", mark("powder")))]
    if "lime" in roles:  # masonry standards count lime too, and then say sum of binders
        kinds = [(CEMENTITIOUS | {"lime"}, ("w/b", mark("sum of binders")))]
    found: list[JudgedRatio] = []
    for judged, (name, what) in kinds:
        mass = sum(c.dry_kg_m3 for c in proportions.constituents if c.material.role in judged)
        if mass > 0:
            working = Working(
                figure=name,
                formula=Said("free water / {binder}", binder=what),
                given=(
                    Given(Said("free water in {where}", where=WHOLE), water, "kg in 1 m³"),
                    Given(Said("{binder} in {where}", binder=what, where=WHOLE), mass, "kg in 1 m³"),
                ),
                result=water / mass,
                unit="",
                source=PRACTICE,
            )
            found.append(JudgedRatio(name=name, value=water / mass, working=working))
    return tuple(found)
