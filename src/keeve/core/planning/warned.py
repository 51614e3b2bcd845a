"""What a plan warns of, in the order it is read."""

from typing import Final

from keeve.core.conditions.temperature import ice_warning
from keeve.core.conditions.weather import advice
from keeve.core.dividing.dividing import LEAST_LOAD_SHARE, Bounds, Split
from keeve.core.dosing.card import Card
from keeve.core.hardening.clock import stages_of
from keeve.core.message.said import Amount, Said, Words, mark
from keeve.core.mixes.heap_checks import heap_warnings
from keeve.core.mixes.mix import Mix
from keeve.core.planning.request import PlanRequest
from keeve.core.proportions.base import Proportions
from keeve.core.proportions.exposure import Found, exposed
from keeve.core.proportions.ratios import JudgedRatio

WATER_CEMENT_WARNING: Final = 0.60
"""Above this nothing that must be strong or outlast frost: common practice, no source."""
NOBODY_MISSES: Final = 1e-3
"""So small a share of an order is not told as missing: own assumption."""


def before_it(request: PlanRequest) -> list[Words]:
    """List what air, heaps and ice say before anything is reckoned. Common practice, no source."""
    ice = ice_warning(request.ice_percent or 0.0, request.temperatures)
    air = advice(request.mix, request.air) if request.air else ()
    return [
        *(one.words for one in air),
        *request.mix.says,
        *heap_warnings(request.mix, request.heaps.moisture_percent),
        *([ice] if ice else []),
    ]


def _missing(chosen: Split, given: Bounds) -> list[Words]:
    """Say what whole units miss of the order, or leave of what is at hand."""
    if chosen.left_m3 >= -NOBODY_MISSES * chosen.made_m3:
        return []
    missing = Amount(-chosen.left_m3 * 1000, "L")
    if given.at_hand:
        return [Said("Of what is at hand {volume} of mix stays: so it comes out in whole ones.", volume=missing)]
    return [Said("It comes out in whole ones with {volume} less than was asked.", volume=missing)]


def _after_the_heat(mix: Mix) -> Words:
    """Say when the next part of a mould may be cast: at the end of the hot stage, scaled to the mix's own life."""
    hot = next((one for one in stages_of(mix.stages, mix.working_life_min) if one.heat == 1), None)
    if hot is None:
        return mark("Cast the next part only when the one before it has set and cooled.")
    return Said(
        "Cast the next part only after the heat of the one before it, {minutes} after its powder: then it has set.",
        minutes=Amount(round(hot.to_min), "min"),
    )


_STIR_IT: Final = mark("Stir the whole pail up from the bottom before it is parted: it settles into its parts.")
_TIP_IT: Final = mark(
    "Tip the whole bag out and turn it dry before it is parted: in the bag it settles into its sizes."
)


def warned(
    request: PlanRequest,
    proportions: Proportions,
    ratios: tuple[JudgedRatio, ...],
    chosen: Split,
    cards: tuple[Card, ...],
    given: Bounds,
) -> tuple[Words, ...]:
    """List what must be minded of a plan: heaps, admixtures, w/c, scales, parts of packs, short loads.

    Common practice, no source.
    """
    mix = request.mix
    every = (cards[0].water.too_wet_heap, *proportions.warnings, *(a.warning for a in cards[0].admixtures))
    said: list[Words] = [one for one in every if one]
    if len(cards[0].admixtures) > 1:
        said.append(mark("Never two admixtures neat together: one after the other, each with water between."))
    if mix.kin.w_c_warned and any(r.name == "w/c" and r.value > WATER_CEMENT_WARNING for r in ratios):
        said.append(
            mark(
                "More than 0.60 of water to cement: not for anything that must be strong or outlast frost. "
                "Take a richer mix."
            )
        )
    said += [
        Said("The scale is too coarse for {material}: half a step of it is more than it may be off.", material=d.name)
        for d in cards[0].doses
        if d.means == "scale" and d.weighing is not None and not d.weighing.good
    ]
    if chosen.strategy == "part_bags":
        said.append(_STIR_IT if mix.bagged().held_water_percent > 0 else _TIP_IT)
    said += exposed(request.exposure_classes, proportions, Found(mix.basis.stated_mpa(), mix.basis.entrains_air()))
    if given.waits and len(chosen.volumes_m3) > 1:
        said.append(_after_the_heat(mix))
    if len(chosen.volumes_m3) > 1 and not given.waits and chosen.least_share < LEAST_LOAD_SHARE:
        said.append(mark("The last load is so small that it mixes badly: stay with it, or make the loads alike."))
    return (*said, *_missing(chosen, given))
