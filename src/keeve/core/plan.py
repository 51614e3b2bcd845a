"""The one door: what must be filled, with which mix and which mixer, becomes a plan to mix from."""

import math
from typing import Final

from pydantic import Field

from keeve import __version__
from keeve.core import quantities
from keeve.core.acting import act
from keeve.core.admixtures import Wanted, refuse_chloride
from keeve.core.card import Card, Dose, dose_card, loose_m3_per_m3
from keeve.core.errors import Code, Fault, Frozen, LoadError, MixError, TradeError
from keeve.core.heap_checks import heap_warnings, strange_measures, unknown_heaps
from keeve.core.instruments import JUG_STEPS_L, US_JUG_STEPS_L, too_much_l
from keeve.core.loads import (
    LEAST_LOAD_SHARE,
    Limit,
    Split,
    Strategy,
    bags_working,
    limits,
    loads_working,
    recommend,
    splits,
)
from keeve.core.mix import Mix
from keeve.core.moisture import Heaps
from keeve.core.plausible import outside
from keeve.core.proportions import Proportions, WaterWindow, cap_water
from keeve.core.quantities import Bulking, HeapMoisture, Mass, NoneOrMany, Share, Volume, Waste
from keeve.core.ratios import JudgedRatio, judged
from keeve.core.said import Amount, Said, Words, mark
from keeve.core.strength import WaterCost, dry_cast_kg, water_cost
from keeve.core.takeoff.need import Need, order_working, take_off
from keeve.core.takeoff.shapes import Shape
from keeve.core.temperature import MaterialTemperatures, ice_warning, of_card
from keeve.core.vessels import Container, Mixer, brim_l
from keeve.core.working import Working

_NOTHING_M3: Final = 1e-7
WATER_CEMENT_WARNING: Final = 0.60
"""Above this nothing that must be strong or outlast frost: common practice, no source."""


class PlanRequest(Frozen):
    """Everything a plan depends on, whole: no key in it needs looking up."""

    shapes: tuple[Shape, ...] = Field(min_length=1, max_length=200)
    waste_percent: Waste | None = None
    """The job's waste allowance; empty takes the usual one."""
    residue_l: Volume | None = None
    """What stays in mixer and pump at the end."""
    mix: Mix
    moisture_percent: dict[str, HeapMoisture] = {}
    """Total moisture of each aggregate by material key."""
    bulking_percent: dict[str, Bulking] = {}
    """Bulking of a sand by a jar test, by material key; goes before the table."""
    struck_kg: dict[str, Mass] = {}
    """What the first of the gauges weighs of a material, struck; goes before every other word on its density."""
    ice_percent: Share | None = None
    """How much of the water to add goes in as ice, by mass."""
    temperatures: MaterialTemperatures | None = None
    """How warm the materials are."""
    ratio_cap: quantities.Ratio | None = None
    """Water to cementitious that may never be passed; empty sets no cap of its own."""
    mixer: Mixer
    gauges: tuple[Container, ...] = ()
    jug: Container
    strategy: Strategy | None = None
    """How the order is divided; empty takes the recommended way."""
    place_l_min: Volume | None = None
    """How much mix is placed in a minute."""
    admixtures: tuple[Wanted, ...] = Field((), max_length=6)
    steel: bool = False
    """Whether steel lies in the work."""
    unusual_ok: bool = False
    """Whether a mix outside the plausible envelope is meant."""
    already_m3: float = Field(0.0, ge=0, le=1e6)
    """Made already for the same order; loads are planned for the rest."""
    at_hand_bags: NoneOrMany | None = None
    """Bags at hand, for how far they go."""
    at_hand_l: Volume | None = None
    """Fresh mix at hand, for the same."""

    @property
    def heaps(self) -> Heaps:
        """What is known of the heaps."""
        brim = brim_l(self.gauges[0].section) / 1000 if self.gauges else 1.0
        return Heaps(
            self.moisture_percent, self.bulking_percent, {key: kg / brim for key, kg in self.struck_kg.items()}
        )


class Total(Frozen):
    """One constituent over the whole job."""

    material_key: str
    name: Words
    role: str
    dry_kg: float
    batch_kg: float
    packs: float | None
    """Bags used, where it comes in bags."""


class Load(Frozen):
    """One filling and emptying of the mixer."""

    number: int
    card: int
    """Which card it is mixed from."""
    volume_m3: float


class Plan(Frozen):
    """What to put in, in what order, for how long, and what it must look like."""

    core_version: str
    need: Need
    proportions: Proportions
    ratios: tuple[JudgedRatio, ...]
    limits: tuple[Limit, ...]
    splits: tuple[Split, ...]
    strategy: Strategy
    reason: Words
    """Why this way of dividing the order."""
    left_m3: float
    """Of the order, what these loads are planned for."""
    made_m3: float
    cards: tuple[Card, ...]
    loads: tuple[Load, ...]
    loads_working: Working
    bags_working: Working | None
    totals: tuple[Total, ...]
    water_l: WaterWindow
    """Water to pour over the whole job."""
    minutes_mixing: float
    more_water: WaterCost | None
    """What a jug step too much does to the first load."""
    more_water_us: WaterCost | None
    """The same with a step of a jug in fluid ounces."""
    batch_temperature: Working | None
    """How warm the first load comes out [°C], where it is known how warm its materials are."""
    dry_cast_kg: float | None
    """Plaster: what the cast of one load weighs on the day it is dry."""
    warnings: tuple[Words, ...]
    order_working: Working

    @property
    def split(self) -> Split:
        """The split that was chosen."""
        return next(s for s in self.splits if s.strategy == self.strategy)


def plan(request: PlanRequest) -> Plan:
    """Work out a job.

    Parameters
    ----------
    request : shapes, mix, mixer and measures at hand

    Returns
    -------
    the whole plan; every figure in it carries its working

    Raises
    ------
    TakeoffError, MixError, LoadError : a sentence, the field it belongs to, and the way out

    References
    ----------
    The methods named in the workings of the plan.
    """
    faults: list[Fault] = []
    try:
        need = take_off(request.shapes, request.waste_percent, request.mix.waste_percent, request.residue_l or 0.0)
    except TradeError as error:
        faults += error.faults
    mix, mixer = request.mix, request.mixer
    faults += unknown_heaps(
        mix,
        moisture_percent=request.moisture_percent,
        bulking_percent=request.bulking_percent,
        struck_kg=request.struck_kg,
    )
    faults += strange_measures(request.struck_kg, request.gauges)
    if mixer.kind not in mix.procedures:
        reason = mix.refused.get(mixer.kind, mark("Nobody has set down how to mix it that way."))
        faults.append(
            Fault(
                Code.REFUSED,
                Said("{mix} is not mixed in this. {reason}", mix=mix.name, reason=reason),
                "Choose another mixer.",
                "mixer",
            )
        )
    if faults:
        raise TradeError(*faults)
    try:
        proportions = mix.basis.proportions()
    except MixError as error:
        # A figure of the mix stands among the changes that a job makes to it.
        raise MixError(*(fault.under("changes") for fault in error.faults)) from error
    proportions = act(mix, proportions, request.admixtures)
    if request.ratio_cap is not None:
        proportions = cap_water(proportions, request.ratio_cap)
    # A label's yield is the maker's word: its rounding may leave the envelope, which is for mixes set up here.
    if not request.unusual_ok and mix.basis.judged:
        strange = outside(mix.family, proportions)
        if strange:
            raise MixError(*strange)
    refuse_chloride(request.admixtures, mix.family, steel=request.steel)
    return _assemble(request, need, proportions)


def _assemble(request: PlanRequest, need: Need, proportions: Proportions) -> Plan:
    mix = request.mix
    bags_m3 = _bags_per_m3(mix, proportions)
    bound = _bounds(request, proportions, bags_m3)
    largest = min(bound, key=lambda limit: limit.volume_m3)
    left_m3 = need.order_m3 - request.already_m3
    if left_m3 <= _NOTHING_M3:
        raise LoadError(Fault(Code.TOO_SMALL, "Everything on the list is filled already.", "Add to the list."))
    found = splits(left_m3, largest.volume_m3, bags_m3, divide=mix.basis.divide)
    chosen, reason = _choose(request, found, largest, bags_m3)
    cards, loads = _deal(request, proportions, chosen)
    count_of = _count_of(loads, len(cards))
    ratios = judged(proportions)
    return Plan(
        core_version=__version__,
        need=need,
        proportions=proportions,
        ratios=ratios,
        limits=bound,
        splits=found,
        strategy=chosen.strategy,
        reason=reason,
        left_m3=left_m3,
        made_m3=chosen.made_m3,
        cards=cards,
        loads=loads,
        loads_working=loads_working(chosen, left_m3, largest.volume_m3, bags_m3),
        bags_working=bags_working(chosen, left_m3, bags_m3),
        totals=_totals(cards, count_of),
        water_l=_water(cards, count_of),
        minutes_mixing=sum(c.seconds * n for c, n in zip(cards, count_of, strict=True)) / 60,
        more_water=_too_much(mix, proportions, cards[0], JUG_STEPS_L),
        more_water_us=_too_much(mix, proportions, cards[0], US_JUG_STEPS_L),
        batch_temperature=of_card(cards[0], request.temperatures) if request.temperatures else None,
        dry_cast_kg=_dry_cast_kg(proportions, cards[0]),
        warnings=(*mix.says, *_first_warnings(request), *_warnings(mix, proportions, ratios, chosen, cards)),
        order_working=order_working(need),
    )


def _bounds(request: PlanRequest, proportions: Proportions, bags_m3: float | None) -> tuple[Limit, ...]:
    mix, mixer = request.mix, request.mixer
    loose = loose_m3_per_m3(proportions, request.heaps)
    packs = (mix.most_packs[mixer.key], 1 / bags_m3) if bags_m3 and mixer.key in mix.most_packs else None
    life_min, water_share = mix.working_life_min, mix.basis.water_share()
    return limits(proportions, mixer, loose, life_min, request.place_l_min, water_share, packs)


def _count_of(loads: tuple[Load, ...], cards: int) -> list[int]:
    """Count the loads of each card."""
    return [sum(1 for load in loads if load.card == i) for i in range(cards)]


def _first_warnings(request: PlanRequest) -> list[Words]:
    ice = ice_warning(request.ice_percent or 0.0, request.temperatures)
    return [*heap_warnings(request.mix, request.moisture_percent), *([ice] if ice else [])]


def _too_much(mix: Mix, proportions: Proportions, card: Card, steps_l: tuple[float, ...]) -> WaterCost | None:
    step_l = too_much_l(card.water.free.target, steps_l)
    return water_cost(proportions, card.volume_m3, step_l, air_entrained=mix.basis.entrains_air())


def _water(cards: tuple[Card, ...], count_of: list[int]) -> WaterWindow:
    """Water to pour into all loads together [L]."""
    return WaterWindow(
        *(math.fsum(c.water.pour[i] * n for c, n in zip(cards, count_of, strict=True)) for i in range(3))
    )


def _dry_cast_kg(proportions: Proportions, card: Card) -> float | None:
    """Mass of the dry cast, where the load is plaster alone and is cast."""
    alone = proportions.constituents[0].material if len(proportions.constituents) == 1 else None
    return dry_cast_kg(card.doses[0].dry_kg) if alone and alone.role == "plaster" and not alone.spread else None


def _bags_per_m3(mix: Mix, proportions: Proportions) -> float | None:
    bag_kg = mix.bag_kg()
    if bag_kg is None:
        return None
    key = mix.bagged().key
    return next(c.dry_kg_m3 for c in proportions.constituents if c.material.key == key) / bag_kg


def _choose(request: PlanRequest, found: tuple[Split, ...], largest: Limit, bags_m3: float | None) -> tuple[Split, str]:
    wanted = request.strategy
    too_big = bags_m3 is not None and largest.volume_m3 * bags_m3 < 1
    if not found or (wanted == "whole_bags" and too_big):
        raise LoadError(
            Fault(
                Code.TOO_SMALL,
                Said(
                    "One bag makes {bag}; a load here can be {most} at most.",
                    bag=Amount(1000 / bags_m3 if bags_m3 else 0.0, "L"),
                    most=Amount(largest.volume_m3 * 1000, "L"),
                ),
                "Choose half bags or loads all alike, or a bigger mixer."
                if found
                else "Choose a bigger mixer or a smaller bag.",
                "strategy" if found else "mixer",
                1000 / bags_m3 if bags_m3 else None,
                largest.volume_m3 * 1000,
                "L",
            )
        )
    if wanted is None:
        wanted, reason = recommend(found, weighed=request.mix.basis.weighed)
    else:
        reason = mark("Your choice.")
    chosen = next((s for s in found if s.strategy == wanted), None)
    if chosen is None:
        # Splits coincide on small jobs (one load is equal, fewest and short at once): take what is there.
        chosen, reason = found[0], mark("The job comes out the same any other way.")
    return chosen, reason


def _deal(request: PlanRequest, proportions: Proportions, split: Split) -> tuple[tuple[Card, ...], tuple[Load, ...]]:
    """Give each load its card; loads of one size share one."""
    procedure = request.mix.procedures[request.mixer.kind]
    sizes: dict[float, int] = {}
    cards: list[Card] = []
    loads: list[Load] = []
    for number, volume in enumerate(split.volumes_m3, 1):
        size = round(volume, 9)
        if size not in sizes:
            sizes[size] = len(cards)
            cards.append(
                dose_card(
                    proportions,
                    volume,
                    request.mix,
                    procedure,
                    request.heaps,
                    request.gauges,
                    request.jug.mark_l or 0.1,
                    request.admixtures,
                    (request.ice_percent or 0.0) / 100,
                )
            )
        loads.append(Load(number=number, card=sizes[size], volume_m3=volume))
    return tuple(cards), tuple(loads)


def _totals(cards: tuple[Card, ...], count_of: list[int]) -> tuple[Total, ...]:
    def total(index: int, dose: Dose) -> Total:
        pairs = [(card.doses[index], n) for card, n in zip(cards, count_of, strict=True)]
        return Total(
            material_key=dose.material_key,
            name=dose.name,
            role=dose.role,
            dry_kg=math.fsum(d.dry_kg * n for d, n in pairs),
            batch_kg=math.fsum(d.batch_kg * n for d, n in pairs),
            packs=math.fsum((d.packs or 0.0) * n for d, n in pairs) if dose.packs is not None else None,
        )

    return tuple(total(i, dose) for i, dose in enumerate(cards[0].doses))


def _warnings(
    mix: Mix, proportions: Proportions, ratios: tuple[JudgedRatio, ...], chosen: Split, cards: tuple[Card, ...]
) -> tuple[Words, ...]:
    said: list[Words] = [*proportions.warnings, *(a.warning for a in cards[0].admixtures if a.warning)]
    if len(cards[0].admixtures) > 1:
        said.append(mark("Never two admixtures neat together: one after the other, each with water between."))
    if mix.family == "concrete" and any(r.name == "w/c" and r.value > WATER_CEMENT_WARNING for r in ratios):
        said.append(
            mark(
                "More than 0.60 of water to cement: not for anything that must be strong or outlast frost. "
                "Take a richer mix."
            )
        )
    if len(chosen.volumes_m3) > 1 and chosen.least_share < LEAST_LOAD_SHARE:
        said.append(mark("The last load is so small that it mixes badly: stay with it, or make the loads alike."))
    return tuple(said)
