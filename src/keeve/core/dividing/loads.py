"""What bounds one load: what the mixer takes, what it carries, and what the hands can place."""

from typing import Final

from keeve.core.message.errors import Frozen
from keeve.core.message.said import Said, Words, mark
from keeve.core.message.working import PRACTICE, Given, Working
from keeve.core.proportions.base import Proportions
from keeve.core.vessels.tilted import tilted_brim_l
from keeve.core.vessels.vessels import Mixer, brim_l

PLACED_SHARE: Final = 0.8
"""Share of the working life there is to place a load: common practice, no source."""


class Limit(Frozen):
    """One thing that keeps a load from being bigger."""

    name: Words
    volume_m3: float
    working: Working
    bounds_fresh: bool = False
    """Whether it bounds the fresh mix, and not the dry heap or the hands: so full and no fuller."""


def limits(
    proportions: Proportions,
    mixer: Mixer,
    loose_m3_per_m3: float,
    working_life_min: float,
    place_l_min: float | None,
    most_water_share: float | None = None,
    most_packs: tuple[float, float] | None = None,
) -> tuple[Limit, ...]:
    """List what bounds one load.

    Parameters
    ----------
    proportions : the mix
    mixer : what it is mixed in
    loose_m3_per_m3 : loose volume of the dry materials per m³ of fresh mix [-]
    working_life_min : working life of the mix [min]
    place_l_min : how fast the mix is placed [L/min], if known
    most_packs : packs that label and practice put into this mixer at most, and the volume of one [m³], if they say
    most_water_share : how full of water the vessel may be before the powder goes in [-], if that is bound

    Returns
    -------
    limits, each with its working; the smallest decides

    References
    ----------
    Common practice, no source.
    """
    gross_l = tilted_brim_l(mixer.section, mixer.tilt_deg) if mixer.tilt_deg else brim_l(mixer.section)
    in_dry_heap = loose_m3_per_m3 > 0 and mixer.kind != "bucket"  # in a bucket the powder goes into water and vanishes
    found = (
        _rated(mixer),
        _dry_heap(mixer, gross_l, loose_m3_per_m3) if in_dry_heap else None,
        _carried(mixer, mixer.max_kg, proportions.fresh_kg_m3) if mixer.max_kg is not None else None,
        _watered(mixer, gross_l, most_water_share, proportions.water.target) if most_water_share is not None else None,
        _placed(place_l_min, working_life_min) if place_l_min is not None else None,
        _by_practice(*most_packs) if most_packs is not None else None,
    )
    return tuple(limit for limit in found if limit is not None)


def _limit(
    name: Words, figure: Words, formula: Words, given: tuple[Given, ...], volume_m3: float, source: Words = PRACTICE
) -> Limit:
    working = Working(figure=figure, formula=formula, given=given, result=volume_m3, unit="m³", source=source)
    return Limit(name=name, volume_m3=volume_m3, working=working)


def _rated(mixer: Mixer) -> Limit:
    found = _limit(
        Said("{mixer}: rated for mixed volume", mixer=mixer.name),
        mark("Largest load by rated volume"),
        mark("rated mixed volume"),
        (Given("rated", mixer.mixed_l, "L"),),
        mixer.mixed_l / 1000,
        mixer.source or PRACTICE,
    )
    return found.model_copy(update={"bounds_fresh": True})


def _dry_heap(mixer: Mixer, gross_l: float, loose_m3_per_m3: float) -> Limit:
    return _limit(
        Said("{mixer}: room for the dry heap", mixer=mixer.name),
        mark("Largest load by dry volume"),
        mark("gross × share usable / loose volume of one fresh"),
        (
            Given("gross", gross_l, "L"),
            Given("share usable", mixer.dry_share * 100, "%"),
            Given("loose volume of one fresh", loose_m3_per_m3, ""),
        ),
        gross_l * mixer.dry_share / 1000 / loose_m3_per_m3,
    )


def _carried(mixer: Mixer, max_kg: float, fresh_kg_m3: float) -> Limit:
    found = _limit(
        Said("{mixer}: mass it carries", mixer=mixer.name),
        mark("Largest load by mass"),
        mark("mass limit / fresh density"),
        (Given("mass limit", max_kg, "kg"), Given("fresh density", fresh_kg_m3, "kg/m³")),
        max_kg / fresh_kg_m3,
        mixer.source or PRACTICE,
    )
    return found.model_copy(update={"bounds_fresh": True})


def _watered(mixer: Mixer, gross_l: float, most_water_share: float, water_l_m3: float) -> Limit:
    return _limit(
        Said("{mixer}: room above the water for the powder", mixer=mixer.name),
        mark("Largest load by water in the bucket"),
        mark("gross × share of water / share of water in the mix"),
        (
            Given("gross", gross_l, "L"),
            Given("share of water, at most", most_water_share * 100, "%"),
            Given("share of water in the mix", water_l_m3 / 10, "%"),
        ),
        gross_l * most_water_share / water_l_m3,
    )


def _placed(place_l_min: float, working_life_min: float) -> Limit:
    return _limit(
        mark("what can be placed before it stiffens"),
        mark("Largest load by pace"),
        mark("pace × working life × 0.8"),
        (Given("pace", place_l_min, "L/min"), Given("working life", working_life_min, "min")),
        place_l_min * working_life_min * PLACED_SHARE / 1000,
    )


def _by_practice(packs: float, pack_m3: float) -> Limit:
    return _limit(
        mark("packs that mix through in it"),
        mark("Largest load by packs"),
        mark("most packs × volume of one"),
        (Given("most packs", packs, ""), Given("volume of one", pack_m3, "m³")),
        packs * pack_m3,
    )
