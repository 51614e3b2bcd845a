"""What admixtures do to a mix: a reducer cuts its water, an air entrainer sets its air, latex takes up room."""

import math
from typing import Final, NamedTuple

from keeve.core.materials.material import CEMENTITIOUS, WET_HEAPS
from keeve.core.measure.units import WATER_KG_M3
from keeve.core.message.errors import MixError
from keeve.core.message.said import Amount, Said, Words
from keeve.core.message.working import Given, Working
from keeve.core.mixes.admixtures import Admixture, Wanted, to_ml_per_100kg
from keeve.core.mixes.mix import Mix
from keeve.core.proportions.base import Constituent, Proportions, WaterWindow
from keeve.core.proportions.family import Family
from keeve.core.proportions.plausible import Moved

USUAL_AIR: Final = 0.02
"""Air of a mix in which none is entrained: common practice, no source."""


class Acted(NamedTuple):
    """A mix with what its admixtures did to it."""

    proportions: Proportions
    left: float = 1.0
    """Share of the water that reducers leave [-]."""
    thinned: float = 1.0
    """By how much entrained air thins everything else [-]."""
    ratio: float = 1.0
    """By how much water to binder fell [-]."""
    denser: float = 1.0
    """By how much denser less water made it [-]."""

    def moved(self, mix: Mix) -> Moved:
        """Say how far that moves the usual bounds [-]; entrained air a mix states itself counts as well.

        House ruling: the factor of the air is (1 − air) / (1 − 2 %).
        """
        air = self.thinned
        if mix.basis.entrains_air():
            air *= min((1 - self.proportions.air) / (1 - USUAL_AIR), 1.0)
        return Moved(self.left * air, self.ratio, air, self.denser)


def acts_percent(wanted: Wanted, family: Family) -> float:
    """By how much an admixture cuts the water, or how much air it sets [%].

    Parameters
    ----------
    wanted : the admixture, with what was chosen for it
    family : of the mix

    Returns
    -------
    the choice where there is one; else the middle of the label's range, or 0 where the mix counts on a reducer already

    References
    ----------
    House ruling on common practice; the ranges are those of the labels.
    """
    label = wanted.admixture
    if wanted.acts_percent is not None:
        return wanted.acts_percent
    if label.acts == "" or (label.acts == "cuts water" and family.counts_reducer):
        return 0.0
    return (label.acts_least + label.acts_most) / 2


def act(mix: Mix, proportions: Proportions, wanted: tuple[Wanted, ...]) -> Acted:
    """Let the admixtures act on a mix.

    Parameters
    ----------
    mix : which mix
    proportions : of it, without them
    wanted : admixtures with their doses

    Returns
    -------
    proportions that fill one cubic metre again, with a working for each effect, and how far they moved

    Raises
    ------
    MixError : so much of it that no room is left

    Notes
    -----
    A reducer: water × (1 − cut). In a design w/c is held, so that the cement goes down with the water, the stone stays
    and the sand takes their room (ACI 211.1); with the cement held the sand takes the room of the water alone. Stated
    parts and ratios stay as they are and w/c falls. Air: the rest shrinks by (1 − air) / (1 − air before). Latex: its
    polymer takes its volume from the rest.

    References
    ----------
    House rulings on common practice; absolute volumes.
    """
    found = Acted(proportions)
    for one in wanted:
        percent = acts_percent(one, mix.kin)
        if one.admixture.acts == "cuts water" and percent > 0:
            found = _cut(found, one, percent, designed=mix.basis.designs_water)
        elif one.admixture.acts == "sets air" and percent > 0:
            found = _aerate(found, one.admixture, percent)
        elif one.admixture.polymer:
            found = _latex(found, one, mix.bag_kg())
    return found


def _with(before: Acted, made: Proportions, working: Working, said: Words) -> Acted:
    told = {"workings": (*made.workings, working), "warnings": (*made.warnings, *([said] if said else []))}
    return before._replace(proportions=made.model_copy(update=told))


def _designed_cut(made: Proportions, water: WaterWindow, binder_left: float) -> Proportions:
    """Let the sand of a design take the room that less water, and less cement with it, leave beside the stone."""
    sands = [c for c in made.constituents if c.material.role == "sand"]
    fillers = sands or [c for c in made.constituents if c.material.role in WET_HEAPS]
    solid = {id(c): c.solid_m3 * (1 if c.material.role in WET_HEAPS else binder_left) for c in made.constituents}
    taken = math.fsum(solid.values()) - math.fsum(c.solid_m3 for c in fillers)
    room = 1 - taken - water.target / WATER_KG_M3 - made.air - made.admixture_m3
    more = room / math.fsum(c.solid_m3 for c in fillers) if fillers else 1.0
    keys = {c.material.key for c in fillers}

    def factor(c: Constituent) -> float:
        if c.material.key in keys:
            return more
        return 1.0 if c.material.role in WET_HEAPS else binder_left

    return made.scaled(water, factor)


def _cut(before: Acted, wanted: Wanted, percent: float, *, designed: bool) -> Acted:
    made, label = before.proportions, wanted.admixture
    left = 1 - percent / 100
    water = made.water.times(left)
    saves = designed and not wanted.hold_cement
    if designed:
        made = _designed_cut(made, water, left if saves else 1.0)
    else:
        room = 1 - made.air - made.admixture_m3
        factor = room / (math.fsum(c.solid_m3 for c in made.constituents) + water.target / WATER_KG_M3)
        made = made.scaled(water.times(factor), lambda _: factor)
    working = Working(
        figure=Said("Water with {admixture}", admixture=label.name),
        formula="water × (1 − cut), filled up to the whole again",
        given=(
            Given("water before", before.proportions.water.target, "kg in 1 m³"),
            Given("cut", percent, "%"),
            Given("filled up by", made.water.target / water.target, ""),
        ),
        result=made.water.target,
        unit="kg in 1 m³",
        source=label.source,
    )
    said = Said(
        "{admixture} cuts the water by {cut}; its label says {least} to {most}.",
        admixture=label.name,
        cut=Amount(percent, "%"),
        least=Amount(label.acts_least, ""),
        most=Amount(label.acts_most, "%"),
    )
    acted = _with(before, made, working, said)
    denser = max(made.fresh_kg_m3 / before.proportions.fresh_kg_m3, 1.0)
    return acted._replace(
        left=before.left * left, ratio=before.ratio * (1 if saves else left), denser=before.denser * denser
    )


def _aerate(before: Acted, label: Admixture, percent: float) -> Acted:
    made = before.proportions
    air = percent / 100
    if air <= made.air:
        return before  # the mix has as much air already: what is entrained is not added to what a design asked for
    factor = (1 - air - made.admixture_m3) / (1 - made.air - made.admixture_m3)
    working = Working(
        figure=Said("Air with {admixture}", admixture=label.name),
        formula="air of the label; all else × (1 − air) / (1 − air before)",
        given=(Given("air before", made.air * 100, "%"), Given("all else ×", factor, "")),
        result=percent,
        unit="%",
        source=label.source,
    )
    said = Said(
        "{admixture} sets {air} of air; its label says {least} to {most}.",
        admixture=label.name,
        air=Amount(percent, "%"),
        least=Amount(label.acts_least, ""),
        most=Amount(label.acts_most, "%"),
    )
    made = made.scaled(made.water.times(factor), lambda _: factor, air=air)
    return _with(before, made, working, said)._replace(thinned=before.thinned * factor)


def _latex(before: Acted, wanted: Wanted, bag_kg: float | None) -> Acted:
    made, label = before.proportions, wanted.admixture
    base = math.fsum(c.dry_kg_m3 for c in made.constituents if c.material.role in CEMENTITIOUS)
    try:
        per_100kg = to_ml_per_100kg(wanted.amount, wanted.unit, label.density_kg_l, bag_kg, label.pack_kg)
    except MixError:
        return before  # the dose itself is refused where it is worked out, beside its field
    litres = per_100kg / 1000 * base / 100
    polymer_kg = litres * label.density_kg_l * label.solids_percent / 100
    room = 1 - made.air - made.admixture_m3
    # The dose follows the cement, and the cement shrinks to make room for it: k (room + p) = room.
    per_m3 = polymer_kg / label.polymer_kg_m3
    factor = room / (room + per_m3)
    made = made.scaled(made.water.times(factor), lambda _: factor, more_m3=per_m3 * factor)
    working = Working(
        figure=Said("Room that the polymer of {admixture} takes", admixture=label.name),
        formula="polymer / its density",
        given=(Given("polymer", polymer_kg * factor, "kg in 1 m³"), Given("density", label.polymer_kg_m3, "kg/m³")),
        result=per_m3 * factor * 1000,
        unit="L in 1 m³",
        source=label.source,
    )
    return _with(before, made, working, "")
