"""One load as a card: each dose the way it will be measured, its water, and its steps in order."""

from typing import Final, NamedTuple

from keeve.core.dosing.dose import Dose
from keeve.core.dosing.rounded import Rounded, as_measured
from keeve.core.dosing.steps import by_hand, meets, seconds_of, sized_steps, with_admixtures
from keeve.core.dosing.water import WaterAccount, account
from keeve.core.materials.heap_dose import KNOTS_PERCENT, HeapDose
from keeve.core.materials.material import BINDERS, WET_HEAPS, Material
from keeve.core.materials.moisture import Heaps, dry_kg_in_gauge_m3, heap_water, sand_moisture_percent
from keeve.core.message.errors import Frozen
from keeve.core.mixes.admixture_doses import AdmixtureDose, dose_all
from keeve.core.mixes.admixtures import Wanted
from keeve.core.mixes.mix import Mix
from keeve.core.procedures.procedure import Procedure, Step
from keeve.core.proportions.base import Constituent, Proportions
from keeve.core.vessels.scales import Weighed
from keeve.core.vessels.tools import WEIGHED, Means, Tools, measure, usual_measures
from keeve.core.vessels.vessels import Fill

_TELLS: Final = 0.005
"""A gauge that may differ by less than this share is told as one."""


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
    rounded: Rounded
    """The load as it is really measured."""


def _moisture(constituent: Constituent, heaps: Heaps) -> float:
    material = constituent.material
    if material.role not in WET_HEAPS:
        return material.held_water_percent
    return heap_water(material, heaps.moisture_percent.get(material.key)).likely


def wet_share(constituent: Constituent, heaps: Heaps) -> float:
    """Mass of a constituent as it lies over its dry mass [-]. Plain arithmetic."""
    return 1 + _moisture(constituent, heaps) / 100


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


class Recipe(NamedTuple):
    """All that a load is dosed by, but how big it is."""

    proportions: Proportions
    """The mix per m³."""
    mix: Mix
    procedure: Procedure
    """What is made, and in which order."""
    heaps: Heaps
    """Moisture and bulking by material key [%]."""
    tools: Tools
    """Measures, scales and jug at hand."""
    wanted: tuple[Wanted, ...] = ()
    """Admixtures with their doses."""
    ice_share: float = 0.0
    """Share of the water to pour that goes in as ice [-], 0..1."""


def dose_card(recipe: Recipe, volume_m3: float) -> Card:
    """Dose one load.

    Parameters
    ----------
    recipe : what it is dosed by
    volume_m3 : fresh volume of the load [m³], > 0

    Returns
    -------
    the card of the load

    Raises
    ------
    MixError : the aggregates hold more water than the mix allows
    LoadError : what is at hand cannot measure a dose

    Notes
    -----
    m_batch = m_dry (1 + w).

    References
    ----------
    ACI 211.1-91, section 6.3.8, from memory.
    """
    admixtures, water, doses, brought_l = _measured(recipe, volume_m3, told=True)
    procedure = recipe.procedure
    sized = (step for t in procedure.steps for step in sized_steps(t, procedure, doses, water))
    by_hand_steps = by_hand(procedure, tuple(sized), volume_m3 * 1000)
    steps = with_admixtures(by_hand_steps, doses, admixtures)
    return Card(
        volume_m3=volume_m3,
        fresh_kg=recipe.proportions.fresh_kg_m3 * volume_m3,
        doses=doses,
        admixtures=admixtures,
        water=water,
        steps=steps,
        meets=meets(steps, {d.material_key for d in doses if d.role in BINDERS}),
        seconds=sum(s.seconds for s in steps),
        rounded=_rounded(recipe, doses, volume_m3, water, brought_l),
    )


class Brief(NamedTuple):
    """What of a load's card a comparison of ways of dividing needs."""

    doses: tuple[Dose, ...]
    seconds: float
    rounded: Rounded


def brief_card(recipe: Recipe, volume_m3: float) -> Brief:
    """Dose one load [m³] for a comparison: as `dose_card`, no step written and no heap told were it wetter or drier.

    Raises what `dose_card` does. As `dose_card`, from memory.
    """
    if recipe.wanted:  # an admixture may add a step of its own
        card = dose_card(recipe, volume_m3)
        return Brief(card.doses, card.seconds, card.rounded)
    _, water, doses, brought_l = _measured(recipe, volume_m3, told=False)
    rounded = _rounded(recipe, doses, volume_m3, water, brought_l)
    return Brief(doses, seconds_of(recipe.procedure, doses, volume_m3 * 1000), rounded)


def _measured(
    recipe: Recipe, volume_m3: float, *, told: bool
) -> tuple[tuple[AdmixtureDose, ...], WaterAccount, tuple[Dose, ...], dict[str, float]]:
    """Measure the admixtures, water and doses of a load, and what water each heap brings [L]."""
    proportions, mix, procedure, heaps, tools, wanted, ice_share = recipe
    bagged, bag_kg = mix.bagged().key, mix.bag_kg()
    admixtures = tuple(a.measured_in(tools.gauges) for a in dose_all(wanted, proportions, volume_m3, bag_kg))
    water = account(
        proportions,
        volume_m3,
        heaps.moisture_percent,
        procedure.hold_back_share,
        tools,
        admixtures,
        ice_share,
        first_to_low=procedure.first_to == "low end",
        never_past_wettest=mix.basis.designs_water,
        by_drops=procedure.by_drops,
    )
    brought_l = {line.key: line.litres for line in water.lines}
    doses = tuple(
        _dose(
            c,
            volume_m3,
            bag_kg if c.material.key == bagged else None,
            heaps,
            tools,
            _by_measure(c.material, mix, heaps),
            brought_l.get(c.material.key, 0.0),
            told=told,
        )
        for c in proportions.constituents
    )
    return admixtures, water, doses, brought_l


def _by_measure(material: Material, mix: Mix, heaps: Heaps) -> bool:
    """Whether a constituent may go by the pail: a premix only once a pail of it was weighed. House ruling."""
    if material.role == "premix":
        return material.key in heaps.bulk_kg_m3
    usual = usual_measures(material.role, by_scale=mix.by_scale, by_volume=mix.basis.by_volume)
    return usual and material.role not in WEIGHED


def _rounded(
    recipe: Recipe, doses: tuple[Dose, ...], volume_m3: float, water: WaterAccount, brought_l: dict[str, float]
) -> Rounded:
    """Work the load out again from what its measures hold."""
    measures = {d.material_key: d.as_measure(brought_l.get(d.material_key, 0.0)) for d in doses}
    return as_measured(
        measures,
        volume_m3,
        water.free.target,
        water.pour.target,
        water.by.read_l(water.pour.target),
        by_dry_mass=recipe.mix.basis.by_dry_mass,
    )


def _dose(
    constituent: Constituent,
    volume_m3: float,
    bag_kg: float | None,
    heaps: Heaps,
    tools: Tools,
    by_measure: bool,  # noqa: FBT001 - one of this module
    brought_l: float,
    *,
    told: bool,
) -> Dose:
    material = constituent.material
    dry_kg = constituent.dry_kg_m3 * volume_m3
    batch_kg = dry_kg * (1 + _moisture(constituent, heaps) / 100)
    gauged_l = dry_kg / gauge_kg_m3(constituent, heaps) * 1000
    packs = dry_kg / bag_kg if bag_kg and material.role in BINDERS else None
    found = measure(Weighed(material.role, batch_kg, gauged_l), material.key, tools, packs, gauged=by_measure)
    return Dose(
        material_key=material.key,
        name=material.name,
        role=material.role,
        dry_kg=dry_kg,
        batch_kg=batch_kg,
        solid_l=constituent.solid_m3 * volume_m3 * 1000 + brought_l,
        gauged_l=gauged_l,
        packs=packs,
        pack_kg=bag_kg * (1 + material.held_water_percent / 100) if bag_kg else None,
        pack_word=material.pack_word,
        gauge=found.fill,
        gauge_tare_kg=_tare_kg(found.fill, tools),
        gauged_to_l=_spread_l(constituent, dry_kg, heaps) if told and material.role not in WEIGHED else None,
        means=found.means,
        count=found.counted,
        weighing=found.weighing,
        measured_kg=dry_kg * found.measured_l / gauged_l,
        half_step_percent=found.half_step_l / gauged_l * 100,
        heap=_heap(constituent, found.means, batch_kg, gauged_l, heaps) if told else None,
    )


def _tare_kg(fill: Fill | None, tools: Tools) -> float:
    found = (c.tare_kg for c in tools.gauges if fill is not None and c.key == fill.container_key)
    return next(found, None) or 0.0


def _heap(constituent: Constituent, means: Means, batch_kg: float, gauged_l: float, heaps: Heaps) -> HeapDose | None:
    """Say what a dose of a heap holds were it wetter or drier: a weighed one by its mass, another by its gauge."""
    material = constituent.material
    if material.role not in WET_HEAPS or material.bagged_dry:
        return None
    water = heap_water(material, heaps.moisture_percent.get(material.key))
    if means == "scale":
        dry = tuple(batch_kg / (1 + percent / 100) for percent in KNOTS_PERCENT)
    else:
        dry = tuple(gauge_kg_m3(constituent, heaps, percent) * gauged_l / 1000 for percent in KNOTS_PERCENT)
    return HeapDose(water=water, absorption_percent=material.absorption_percent, dry_kg=dry)


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
