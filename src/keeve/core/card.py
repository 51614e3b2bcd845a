"""One load as a card: each dose the way it will be measured, its water, and its steps in order."""

import math
from typing import Final

from keeve.core.admixtures import AdmixtureDose, Wanted, When, dose_all
from keeve.core.errors import Frozen
from keeve.core.material import BINDERS, WET_HEAPS, Role
from keeve.core.mix import Mix
from keeve.core.moisture import Heaps, dry_kg_in_gauge_m3, heap_water, sand_moisture_percent
from keeve.core.procedure import Addition, Procedure, Step, StepDose, StepTemplate
from keeve.core.proportions import Constituent, Proportions
from keeve.core.said import Amount, Names, Said, Words
from keeve.core.vessels import Container, Fill, best_fill
from keeve.core.water import WaterAccount, account

ADMIXTURE: Final = "admixture:"
"""Begins the key of a step's dose that is an admixture."""
ICE: Final = "ice"
"""Key of a step's dose that is ice."""

# A premix settles into its sizes, plaster, hemp and powders are weighed: a pail measures none of them honestly.
WEIGHED: Final[frozenset[Role]] = frozenset({"premix", "plaster", "supplementary", "hemp", "fibre", "powder"})


LEAST_HAND: Final = 1 / 3
"""However little it is, turning it by hand takes so much of the time for a full tray: common practice, no source."""
_QUARTER_MIN: Final = 15
_PART_PACK: Final = 1e-6
_TELLS: Final = 0.005
"""A gauge that may differ by less than this share is told as one."""


class Dose(Frozen):
    """The amount of one constituent in one load."""

    material_key: str
    name: Words
    role: Role
    dry_kg: float
    batch_kg: float
    """As it goes on the scale, with the water it holds."""
    solid_l: float
    """Room it takes in the finished mix, with the water it brings."""
    gauged_l: float
    """Room it takes in a gauge, as it lies in the heap."""
    packs: float | None
    pack_kg: float | None
    pack_word: str = "bag"
    gauge: Fill | None
    gauged_to_l: tuple[float, float] | None = None
    """From and to, where nobody looked at the heap and it may bulk more or less."""


class Card(Frozen):
    """What one load is mixed from; loads of one size share a card."""

    volume_m3: float
    fresh_kg: float
    doses: tuple[Dose, ...]
    admixtures: tuple[AdmixtureDose, ...] = ()
    water: WaterAccount
    steps: tuple[Step, ...]
    meets: int
    """Index of the step in which water and binder meet: the working life runs from there."""
    seconds: int
    """Sum of the timers."""


def _moisture(constituent: Constituent, heaps: Heaps) -> float:
    material = constituent.material
    if material.role not in WET_HEAPS:
        return material.held_water_percent
    return heap_water(material, heaps.moisture_percent.get(material.key)).likely


def gauge_kg_m3(constituent: Constituent, heaps: Heaps, moisture_percent: float | None = None) -> float:
    """Dry mass of a constituent in a cubic metre of gauge, as it lies in the heap.

    Parameters
    ----------
    constituent : from the proportions
    heaps : moisture and bulking by material key [%]
    moisture_percent : total moisture [%] to reckon with in the place of what is likely

    Returns
    -------
    dry mass per volume of gauge [kg/m³]; a weighed measure, then a jar test go before tables and conventions

    References
    ----------
    As `moisture.dry_kg_in_gauge_m3`.
    """
    material = constituent.material
    weighed = heaps.bulk_kg_m3.get(material.key)
    if weighed is not None:
        return weighed / (1 + _moisture(constituent, heaps) / 100)
    if material.key in heaps.bulking_percent:
        return material.loose_bulk_kg_m3 / (1 + heaps.bulking_percent[material.key] / 100)
    loose = material.loose_bulk_kg_m3 if material.role == "sand" else constituent.gauge_bulk_kg_m3
    total = _moisture(constituent, heaps) if moisture_percent is None else moisture_percent
    in_sand = sand_moisture_percent(material, total)
    return dry_kg_in_gauge_m3(loose, in_sand, material.bulking, constituent.stated_damp_kg_m3, material.sand_share)


def loose_m3_per_m3(proportions: Proportions, heaps: Heaps) -> float:
    """Loose volume of all dry materials per cubic metre of fresh mix [m³/m³]. Plain arithmetic."""
    return sum(c.dry_kg_m3 / gauge_kg_m3(c, heaps) for c in proportions.constituents)


def dose_card(
    proportions: Proportions,
    volume_m3: float,
    mix: Mix,
    procedure: Procedure,
    heaps: Heaps,
    gauges: tuple[Container, ...],
    jug_mark_l: float,
    wanted: tuple[Wanted, ...] = (),
    ice_share: float = 0.0,
) -> Card:
    """Dose one load.

    Parameters
    ----------
    proportions : the mix per m³
    volume_m3 : fresh volume of the load [m³], > 0
    mix, procedure : what is made and in which order
    heaps : moisture and bulking by material key [%]
    gauges : containers at hand for dry materials
    jug_mark_l : smallest readable mark of the water jug [L]
    wanted : admixtures with their doses
    ice_share : share of the water to pour that goes in as ice [-], 0..1

    Returns
    -------
    the card of the load

    Raises
    ------
    MixError : the aggregates hold more water than the mix allows

    Notes
    -----
    m_batch = m_dry (1 + w).

    References
    ----------
    ACI 211.1-91, section 6.3.8, from memory.
    """
    bagged, bag_kg = mix.bagged().key, mix.bag_kg()
    admixtures = dose_all(wanted, proportions, volume_m3, bag_kg)
    water = account(
        proportions,
        volume_m3,
        heaps.moisture_percent,
        procedure.hold_back_share,
        jug_mark_l,
        admixtures,
        ice_share,
        first_to_low=procedure.first_to == "low end",
        never_past_wettest=mix.basis.designs_water,
    )
    brought_l = {line.key: line.litres for line in water.lines}
    doses = tuple(
        _dose(
            c,
            volume_m3,
            bag_kg if c.material.key == bagged else None,
            heaps,
            gauges if not mix.by_scale and (mix.basis.by_volume or c.material.role in WET_HEAPS) else (),
            brought_l.get(c.material.key, 0.0),
        )
        for c in proportions.constituents
    )
    sized = (step for t in procedure.steps for step in _steps(t, procedure, doses, water))
    by_hand = _by_hand(procedure, tuple(sized), volume_m3 * 1000)
    steps = with_admixtures(by_hand, doses, admixtures)
    return Card(
        volume_m3=volume_m3,
        fresh_kg=proportions.fresh_kg_m3 * volume_m3,
        doses=doses,
        admixtures=admixtures,
        water=water,
        steps=steps,
        meets=_meets(steps, {d.material_key for d in doses if d.role in BINDERS}),
        seconds=sum(s.seconds for s in steps),
    )


def _dose(
    constituent: Constituent,
    volume_m3: float,
    bag_kg: float | None,
    heaps: Heaps,
    gauges: tuple[Container, ...],
    brought_l: float,
) -> Dose:
    material = constituent.material
    dry_kg = constituent.dry_kg_m3 * volume_m3
    batch_kg = dry_kg * (1 + _moisture(constituent, heaps) / 100)
    gauged_l = dry_kg / gauge_kg_m3(constituent, heaps) * 1000
    gauged = material.role not in WEIGHED
    return Dose(
        material_key=material.key,
        name=material.name,
        role=material.role,
        dry_kg=dry_kg,
        batch_kg=batch_kg,
        solid_l=constituent.solid_m3 * volume_m3 * 1000 + brought_l,
        gauged_l=gauged_l,
        packs=dry_kg / bag_kg if bag_kg and material.role in BINDERS else None,
        pack_kg=bag_kg,
        pack_word=material.pack_word,
        gauge=best_fill(gauges, gauged_l, batch_kg) if gauged else None,
        gauged_to_l=_spread_l(constituent, dry_kg, heaps) if gauged else None,
    )


def _spread_l(constituent: Constituent, dry_kg: float, heaps: Heaps) -> tuple[float, float] | None:
    """Least and most room a dose may take in a gauge [L]; None where it is known."""
    material = constituent.material
    if material.role not in WET_HEAPS or material.key in {**heaps.bulking_percent, **heaps.bulk_kg_m3}:
        return None
    water = heap_water(material, heaps.moisture_percent.get(material.key))
    if water.seen:
        return None
    rooms = [dry_kg / gauge_kg_m3(constituent, heaps, w) * 1000 for w in water[:3]]
    return (min(rooms), max(rooms)) if max(rooms) > min(rooms) * (1 + _TELLS) else None


def _steps(template: StepTemplate, procedure: Procedure, doses: tuple[Dose, ...], water: WaterAccount) -> list[Step]:
    """Size one step: none where all it would add is not in this mix, one for each pack where it is done so."""
    packs = next(
        (d.packs for d in doses if d.packs and any(a.takes(d.material_key, d.role) for a in template.adds)), None
    )
    if not template.per_pack or packs is None or packs <= 1 + _PART_PACK:
        step = _step(template, procedure, doses, water, 1.0)
        return [_numbered(step, 1, 1)] if step else []
    count = math.ceil(packs - _PART_PACK)
    shares = [min(1.0, packs - i) / packs for i in range(count)]
    made = (_step(template, procedure, doses, water, share) for share in shares)
    return [_numbered(step, number, count) for number, step in enumerate(made, 1) if step]


def _numbered(step: Step, number: int, count: int) -> Step:
    if not isinstance(step.title, str) or "{number}" not in step.title:
        return step
    said = Said(step.title, number=Amount(number, "whole"), count=Amount(count, "whole"))
    return step.model_copy(update={"title": said})


def _step(
    template: StepTemplate, procedure: Procedure, doses: tuple[Dose, ...], water: WaterAccount, part: float
) -> Step | None:
    """Size one step, or its part [-] of what it adds; None where all it would add is not in this mix."""
    parts: list[StepDose] = []
    water_l = 0.0
    for add in template.adds:
        if add.of == "water":
            share = _water_share(add, procedure, water) * part
            litres = water.pour.target * share
            water_l += litres
            parts.append(StepDose(material_key="water", share=share, batch_kg=litres, solid_l=litres))
            if water.ice_kg > 0 and add.share != "hold back":
                parts.append(StepDose(material_key=ICE, share=1.0, batch_kg=water.ice_kg, solid_l=water.ice_kg))
            continue
        share = procedure.share_of(add) * part
        parts += [
            StepDose(material_key=d.material_key, share=share, batch_kg=d.batch_kg * share, solid_l=d.solid_l * share)
            for d in doses
            if add.takes(d.material_key, d.role)
        ]
    if template.adds and not parts:
        return None
    powder_kg = math.fsum(d.dry_kg for d in doses if d.role in BINDERS)
    heavy = 0 < template.heavy_kg < powder_kg
    return Step(
        kind=template.kind,
        title=title(template.title, [d.name for d in doses if any(p.material_key == d.material_key for p in parts)]),
        detail=template.detail,
        seconds=template.heavy_seconds if heavy else template.seconds,
        doses=tuple(parts),
        water_l=water_l,
    )


def _water_share(add: Addition, procedure: Procedure, water: WaterAccount) -> float:
    """Share of the pour [-] that goes in with an addition."""
    if procedure.first_to == "share" or add.share == "all" or water.pour.target <= 0:
        return procedure.share_of(add)
    return (water.first_l if add.share == "first" else water.hold_back_l) / water.pour.target


def _by_hand(procedure: Procedure, steps: tuple[Step, ...], volume_l: float) -> tuple[Step, ...]:
    """Let the turning of a small load by hand take less than that of a full tray."""
    if procedure.hand_l <= 0:
        return steps
    part = min(max(volume_l / procedure.hand_l, LEAST_HAND), 1.0)
    return tuple(
        step.model_copy(update={"seconds": round(step.seconds * part / _QUARTER_MIN) * _QUARTER_MIN})
        if step.kind == "mix"
        else step
        for step in steps
    )


def _meets(steps: tuple[Step, ...], binders: set[str]) -> int:
    wet = next((i for i, s in enumerate(steps) if s.water_l > 0), 0)
    bound = next((i for i, s in enumerate(steps) if any(d.material_key in binders for d in s.doses)), 0)
    return max(wet, bound)


_INTO: Final[dict[When, tuple[str, ...]]] = {
    "in the water": ("water",),
    "last": ("sips", "water"),
    "in the dry": ("add",),
    "with the sand": ("sand", "add"),
}
"""Kind of step, or role added in it, where an admixture goes in; the first that the steps have."""


def with_admixtures(
    steps: tuple[Step, ...], doses: tuple[Dose, ...], admixtures: tuple[AdmixtureDose, ...]
) -> tuple[Step, ...]:
    """Put each admixture into the step where it belongs.

    Parameters
    ----------
    steps, doses, admixtures : of one load

    Returns
    -------
    the steps, with the admixtures among what goes in

    References
    ----------
    Common practice, no source.
    """
    placed = list(steps)
    for given in admixtures:
        at = _step_for(placed, doses, given)
        part = StepDose(
            material_key=f"{ADMIXTURE}{given.key}", share=1.0, batch_kg=given.mass_kg, solid_l=given.water_l
        )
        placed[at] = placed[at].model_copy(update={"doses": (*placed[at].doses, part)})
    return tuple(placed)


def _step_for(steps: list[Step], doses: tuple[Dose, ...], given: AdmixtureDose) -> int:
    roles = {d.material_key: d.role for d in doses}
    for kind in _INTO[given.when]:
        for index, step in enumerate(steps):
            if step.kind == kind or any(roles.get(p.material_key) == kind for p in step.doses):
                return index
    return next(i for i, step in enumerate(steps) if step.water_l > 0)


def title(text: Words, names: list[Words]) -> Words:
    """Put the names of what goes in where the catalogue's title leaves room for them. Common practice, no source."""
    return Said(text, names=Names(tuple(names))) if isinstance(text, str) and "{names}" in text else text
