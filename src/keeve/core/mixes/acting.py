"""What admixtures do to a mix: a reducer cuts its water, an air entrainer sets its air, latex takes up room."""

import math
from typing import NamedTuple

from keeve.core.materials.material import CEMENTITIOUS, WET_HEAPS
from keeve.core.measure.units import WATER_KG_M3
from keeve.core.message.errors import MixError
from keeve.core.message.said import Amount, Said, Words
from keeve.core.message.working import Given, Working
from keeve.core.mixes.admixtures import Admixture, Wanted, to_ml_per_100kg
from keeve.core.mixes.mix import Mix
from keeve.core.proportions.base import Proportions
from keeve.core.proportions.family import Family


class _Acted(NamedTuple):
    """A mix on its way through its admixtures."""

    proportions: Proportions
    said: list[Words]


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


def act(mix: Mix, proportions: Proportions, wanted: tuple[Wanted, ...]) -> Proportions:
    """Let the admixtures act on a mix.

    Parameters
    ----------
    mix : which mix
    proportions : of it, without them
    wanted : admixtures with their doses

    Returns
    -------
    proportions that fill one cubic metre again, with a working for each effect; what a stated w/c holds is held

    Raises
    ------
    MixError : so much of it that no room is left

    Notes
    -----
    A reducer: water × (1 − cut). Where w/c is what the mix states (a design, ratios) the cement goes down with it and
    the aggregates take its room; else the parts stay as they are and w/c falls. Air: the rest shrinks by
    (1 − air) / (1 − air before). Latex: its polymer takes its volume from the rest.

    References
    ----------
    House rulings on common practice; absolute volumes.
    """
    found = _Acted(proportions, [])
    for one in wanted:
        percent = acts_percent(one, mix.kin)
        if one.admixture.acts == "cuts water" and percent > 0:
            found = _cut(found, one.admixture, percent, holds_ratio=mix.basis.states_ratio)
        elif one.admixture.acts == "sets air" and percent > 0:
            found = _aerate(found, one.admixture, percent)
        elif one.admixture.polymer:
            found = _latex(found, one, mix.bag_kg())
    made = found.proportions
    return made.model_copy(update={"warnings": (*made.warnings, *found.said)})


def _cut(before: _Acted, label: Admixture, percent: float, *, holds_ratio: bool) -> _Acted:
    made = before.proportions
    left = 1 - percent / 100
    water = made.water.times(left)
    if holds_ratio:
        binder = tuple(c for c in made.constituents if c.material.role not in WET_HEAPS)
        kept = math.fsum(c.solid_m3 for c in binder) * left + water.target / WATER_KG_M3 + made.air + made.admixture_m3
        heaps = math.fsum(c.solid_m3 for c in made.constituents if c.material.role in WET_HEAPS)
        more = (1 - kept) / heaps if heaps else 1.0
        made = made.scaled(water, lambda c: more if c.material.role in WET_HEAPS else left)
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
    return _Acted(made.model_copy(update={"workings": (*made.workings, working)}), [*before.said, said])


def _aerate(before: _Acted, label: Admixture, percent: float) -> _Acted:
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
    return _Acted(made.model_copy(update={"workings": (*made.workings, working)}), [*before.said, said])


def _latex(before: _Acted, wanted: Wanted, bag_kg: float | None) -> _Acted:
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
    return _Acted(made.model_copy(update={"workings": (*made.workings, working)}), before.said)
