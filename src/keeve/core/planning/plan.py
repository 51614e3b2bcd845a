"""The one door: what must be filled, with which mix and which mixer, becomes a plan to mix from."""

import math
from typing import Any

from keeve import __version__
from keeve.core.conditions.temperature import of_card
from keeve.core.conditions.weather import life_in_air_min
from keeve.core.dividing.dividing import (
    NOTHING_M3,
    Bounds,
    Split,
    Strategy,
    Whole,
    missed_m3,
    splits,
    unit_m3,
)
from keeve.core.dividing.explained import bags_working, loads_working
from keeve.core.dividing.loads import Limit, limits
from keeve.core.dividing.start import Reckoned, started
from keeve.core.dosing.card import Card, Recipe, dose_card, gauge_kg_m3, loose_m3_per_m3, wet_share
from keeve.core.dosing.dose import Dose
from keeve.core.hardening.strength import WaterCost, dry_cast_kg, water_cost
from keeve.core.message.errors import Code, Fault, Frozen, LoadError, MixError, TradeError
from keeve.core.message.said import Said, Words, mark
from keeve.core.message.working import Working
from keeve.core.mixes.acting import act
from keeve.core.mixes.admixture_doses import refuse_chloride
from keeve.core.mixes.heap_checks import strange_measures, unknown_heaps
from keeve.core.mixes.mix import Mix
from keeve.core.planning.dealing import Dealer, Load, choose, count_of, divided_by
from keeve.core.planning.doubtful import asked_about
from keeve.core.planning.hurried import hurried
from keeve.core.planning.request import PlanRequest
from keeve.core.planning.warned import before_it, warned
from keeve.core.proportions.base import Proportions, WaterWindow, cap_water
from keeve.core.proportions.plausible import outside
from keeve.core.proportions.ratios import JudgedRatio, judged
from keeve.core.takeoff.need import Need, NeedItem, order_working, take_off
from keeve.core.vessels.instruments import JUG_STEPS_L, US_JUG_STEPS_L, too_much_l
from keeve.core.vessels.tools import Tools


class Total(Frozen):
    """One constituent over the whole job."""

    material_key: str
    name: Words
    role: str
    dry_kg: float
    batch_kg: float
    packs: float | None
    """Bags used, where it comes in bags."""


class Plan(Frozen):
    """What to put in, in what order, for how long, and what it must look like."""

    core_version: str
    need: Need
    proportions: Proportions
    ratios: tuple[JudgedRatio, ...]
    limits: tuple[Limit, ...]
    splits: tuple[Split, ...]
    whole: Whole | None
    """The measure of which whole ones make up a load, where there is one."""
    strategy: Strategy
    recommended: Strategy
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
    begins_c: float | None
    """How warm a load begins: as it comes out, else as the air is."""
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
    need = _asked(request)
    mix = request.mix
    try:
        proportions = mix.basis.proportions()
    except MixError as error:
        # A figure of the mix stands among the changes that a job makes to it.
        raise MixError(*(fault.under("changes") for fault in error.faults)) from error
    acted = act(mix, proportions, request.admixtures)
    proportions = acted.proportions
    if request.ratio_cap is not None:
        proportions = cap_water(proportions, request.ratio_cap)
    # A label's yield is the maker's word: its rounding may leave the envelope, which is for mixes set up here.
    if not request.unusual_ok:
        strange = outside(mix.kin, proportions, acted.moved(mix)) if mix.basis.judged else ()
        if asked := (*strange, *asked_about(mix.basis, request.temperatures)):
            raise MixError(*asked)
    refuse_chloride(request.admixtures, mix.kin, steel=request.steel)
    return _assemble(request, need, proportions)


def _asked(request: PlanRequest) -> Need | None:
    """Take off what is measured, and refuse what cannot be; None where the job begins with what is at hand."""
    faults: list[Fault] = []
    need = None
    try:
        if request.start is None:
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
                field="mixer",
            )
        )
    if faults:
        raise TradeError(*faults)
    return need


def _need(request: PlanRequest, proportions: Proportions, bags_m3: float | None, largest_m3: float) -> Need:
    """Turn what is at hand into what it fills."""
    mix, start = request.mix, request.start
    if start is None:
        raise LoadError(
            Fault(Code.MISSING, "There is nothing to fill yet.", "Add a shape, or say what is at hand.", field="shapes")
        )
    heaps = request.heaps
    recipe = Recipe(proportions, mix, mix.procedures[request.mixer.kind], heaps, Tools((), request.jug))
    water = dose_card(recipe, 1.0).water
    reckoned = Reckoned(
        proportions,
        bags_m3,
        {c.material.key: wet_share(c, heaps) for c in proportions.constituents},
        {c.material.key: gauge_kg_m3(c, heaps) for c in proportions.constituents},
        water.pour.target,
        largest_m3,
    )
    volume, working = started(start, reckoned, mix)
    waste = request.waste_percent if request.waste_percent is not None else mix.waste_percent
    net = volume / (1 + waste / 100)
    item = NeedItem(
        kind="start", note=request.start_said, count=1, each_m3=net, net_m3=net, waste_percent=waste, order_m3=volume,
        working=working, shape=-1,
    )  # fmt: skip
    return Need(items=(item,), net_m3=net, order_m3=volume)


def _assemble(request: PlanRequest, need: Need | None, proportions: Proportions) -> Plan:
    mix = request.mix
    bags_m3 = _bags_per_m3(mix, proportions)
    bound = _bounds(request, proportions, bags_m3)
    largest = min(bound, key=lambda limit: limit.volume_m3)
    if need is None:
        need = _need(request, proportions, bags_m3, largest.volume_m3)
    left_m3 = _left_m3(request, need)
    given = divided_by(request, proportions, need, left_m3, largest.volume_m3, bags_m3)
    dealer = Dealer(request, proportions, given.whole)
    found, recommended, chosen, reason = _divided(request, given, largest, dealer)
    cards, loads = dealer.deal(chosen)
    warmth = _warmth(request, cards[0])
    cards, ratios = tuple(hurried(card, mix, warmth["begins_c"]) for card in cards), judged(proportions)
    return Plan(
        core_version=__version__,
        need=need,
        proportions=proportions,
        ratios=ratios,
        limits=bound,
        splits=found,
        whole=given.whole,
        strategy=chosen.strategy,
        recommended=recommended,
        reason=reason,
        left_m3=left_m3,
        made_m3=chosen.made_m3,
        cards=cards,
        loads=loads,
        loads_working=loads_working(chosen, given),
        bags_working=bags_working(chosen, left_m3, bags_m3),
        **_over_all(cards, count_of(loads, len(cards))),
        **_too_much(mix, proportions, cards[0]),
        **warmth,
        dry_cast_kg=_dry_cast_kg(proportions, cards[0]),
        warnings=(*before_it(request), *warned(request, proportions, ratios, chosen, cards, given)),
        order_working=need.items[0].working if request.start else order_working(need),
    )


_Divided = tuple[tuple[Split, ...], Strategy, Split, Words]


def _divided(request: PlanRequest, given: Bounds, largest: Limit, dealer: Dealer) -> _Divided:
    """Find the ways to divide what is left, the recommended one, the one taken, and why."""
    found = splits(given)
    recommended, chosen, reason = choose(request, found, given, largest, dealer)
    if request.already_m3 > 0 and given.order_m3 <= missed_m3(unit_m3(chosen, given), given.waste_m3):
        raise _filled()
    return found, recommended, chosen, reason


def _warmth(request: PlanRequest, card: Card) -> dict[str, Any]:
    batch = of_card(card, request.temperatures) if request.temperatures is not None else None
    air_c = request.air.felt_c() if request.air else None
    return {"batch_temperature": batch, "begins_c": batch.result if batch is not None else air_c}


def _left_m3(request: PlanRequest, need: Need) -> float:
    left_m3 = need.order_m3 - request.already_m3
    if left_m3 <= NOTHING_M3:
        raise _filled()
    return left_m3


def _filled() -> LoadError:
    return LoadError(Fault(Code.TOO_SMALL, "Everything on the list is filled already.", "Add to the list."))


def _bounds(request: PlanRequest, proportions: Proportions, bags_m3: float | None) -> tuple[Limit, ...]:
    mix, mixer = request.mix, request.mixer
    loose = loose_m3_per_m3(proportions, request.heaps)
    packs = (mix.most_packs[mixer.key], 1 / bags_m3) if bags_m3 and mixer.key in mix.most_packs else None
    life_min = life_in_air_min(mix, request.air) if request.air else mix.working_life_min
    water_share = mix.basis.water_share()
    return limits(proportions, mixer, loose, life_min, request.place_l_min, water_share, packs)


def _too_much(mix: Mix, proportions: Proportions, card: Card) -> dict[str, WaterCost | None]:
    """Say what a jug step too much does, in litres and in fluid ounces."""

    def cost(steps_l: tuple[float, ...]) -> WaterCost | None:
        step_l = too_much_l(card.water.free.target, steps_l)
        return water_cost(proportions, card.volume_m3, step_l, air_entrained=mix.basis.entrains_air())

    return {"more_water": cost(JUG_STEPS_L), "more_water_us": cost(US_JUG_STEPS_L)}


def _water(cards: tuple[Card, ...], count_of: list[int]) -> WaterWindow:
    """Water to pour into all loads together [L]."""
    return WaterWindow(
        *(math.fsum(c.water.pour[i] * n for c, n in zip(cards, count_of, strict=True)) for i in range(3))
    )


def _over_all(cards: tuple[Card, ...], counts: list[int]) -> dict[str, Any]:
    """Add up what all loads take."""
    return {
        "totals": _totals(cards, counts),
        "water_l": _water(cards, counts),
        "minutes_mixing": sum(c.seconds * n for c, n in zip(cards, counts, strict=True)) / 60,
    }


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
