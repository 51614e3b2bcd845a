"""Divides what must be mixed into loads that the mixer takes, the bags suit and the hands can place."""

import math
from typing import Final, Literal

from keeve.core.errors import Code, Fault, Frozen, LoadError
from keeve.core.proportions import Divide, Proportions
from keeve.core.said import WHOLE, Amount, Said, Words, mark
from keeve.core.vessels import Mixer, brim_l
from keeve.core.working import ARITHMETIC, PRACTICE, Given, Working

Strategy = Literal["whole_bags", "half_bags", "equal", "fewest"]
MOST_LOADS: Final = 500
"""Past this it is not a job for a mixer any more."""
PLACED_SHARE: Final = 0.8
"""Share of the working life there is to place a load: common practice, no source."""
LEAST_LOAD_SHARE: Final = 1 / 3
"""A drum with less than this of its rated load throws it about instead of mixing: common practice, no source."""
_ROUNDING = 1e-6


class Limit(Frozen):
    """One thing that keeps a load from being bigger."""

    name: Words
    volume_m3: float
    working: Working
    bounds_fresh: bool = False
    """Whether it bounds the fresh mix, and not the dry heap or the hands: so full and no fuller."""


class Split(Frozen):
    """One way of dividing the order into loads."""

    strategy: Strategy
    volumes_m3: tuple[float, ...]
    """Fresh volume of each load, in order."""
    bags_each: tuple[float, ...]
    """Bags in each load; empty where nothing comes in bags."""
    made_m3: float
    left_m3: float
    """Mixed beyond the order because bags were not divided."""
    bags_opened: int
    least_share: float
    """Smallest load as a share of the largest that is allowed."""


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
    gross_l = brim_l(mixer.section)
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


def splits(order_m3: float, largest_m3: float, bags_per_m3: float | None, *, divide: Divide) -> tuple[Split, ...]:
    """Divide an order in every way the bags and the mixer permit.

    Parameters
    ----------
    order_m3 : what must be mixed [m³], > 0
    largest_m3 : largest load [m³], > 0
    bags_per_m3 : bags in a cubic metre of fresh mix [1/m³]; None where nothing comes in bags
    divide : how far packs may be divided

    Returns
    -------
    the possible splits; empty only for an undivided bag that is bigger than the mixer

    Raises
    ------
    LoadError : more than 500 loads

    References
    ----------
    Plain arithmetic.
    """
    if order_m3 / largest_m3 > MOST_LOADS:
        raise _too_many(order_m3 / largest_m3)
    found: list[Split] = []
    if bags_per_m3 is not None:
        found += _by_bags("whole_bags", order_m3, largest_m3, bags_per_m3, 1.0)
        if divide != "whole":
            halves = _by_bags("half_bags", order_m3, largest_m3, bags_per_m3, 0.5)
            found += [h for h in halves if not any(h.bags_each == s.bags_each for s in found)]
    if divide == "any" or bags_per_m3 is None:
        count = math.ceil(order_m3 / largest_m3 - _ROUNDING)
        found.append(_split("equal", (order_m3 / count,) * count, order_m3, largest_m3, bags_per_m3))
        full = min(int(order_m3 / largest_m3 + _ROUNDING), count)
        rest = order_m3 - full * largest_m3
        volumes = (largest_m3,) * full + ((rest,) if count > full else ())
        if count > 1:
            found.append(_split("fewest", volumes, order_m3, largest_m3, bags_per_m3))
    few = tuple(split for split in found if len(split.volumes_m3) <= MOST_LOADS)
    if found and not few:
        raise _too_many(min(len(split.volumes_m3) for split in found))
    return few


def _too_many(loads: float) -> LoadError:
    return LoadError(
        Fault(
            Code.TOO_MANY,
            Said("That would be {n} loads of this mixer.", n=Amount(math.ceil(loads), "whole")),
            "Check the measures, choose a bigger mixer, or have it delivered ready-mixed.",
            "mixer",
            loads,
            MOST_LOADS,
        )
    )


def _by_bags(strategy: Strategy, order_m3: float, largest_m3: float, bags_m3: float, unit: float) -> list[Split]:
    in_a_load = math.floor(largest_m3 * bags_m3 / unit + _ROUNDING)
    if in_a_load < 1:
        return []
    wanted = math.ceil(order_m3 * bags_m3 / unit - _ROUNDING)
    full, rest = divmod(wanted, in_a_load)
    bags = (in_a_load * unit,) * full + ((rest * unit,) if rest else ())
    return [_split(strategy, tuple(b / bags_m3 for b in bags), order_m3, largest_m3, bags_m3, bags)]


def _split(
    strategy: Strategy,
    volumes: tuple[float, ...],
    order_m3: float,
    largest_m3: float,
    bags_m3: float | None,
    bags: tuple[float, ...] | None = None,
) -> Split:
    made = math.fsum(volumes)
    if bags is None:
        bags = tuple(v * bags_m3 for v in volumes) if bags_m3 is not None else ()
    return Split(
        strategy=strategy,
        volumes_m3=volumes,
        bags_each=bags,
        made_m3=made,
        left_m3=max(made - order_m3, 0.0),
        bags_opened=math.ceil(sum(bags) - _ROUNDING),
        least_share=min(volumes) / largest_m3,
    )


def recommend(found: tuple[Split, ...], *, weighed: bool) -> tuple[Strategy, str]:
    """Choose one split and say why.

    Parameters
    ----------
    found : at least one split
    weighed : the binder goes by the scale, so that bags need not be kept whole

    Returns
    -------
    the strategy and its reason

    References
    ----------
    Common practice, no source: a whole bag is the surest measure; a short last load mixes badly.
    """
    by = {split.strategy: split for split in found}
    whole, equal = by.get("whole_bags"), by.get("equal")
    if weighed and equal is not None:
        return "equal", mark("Every load alike: that repeats.")
    if whole is not None and (equal is None or whole.left_m3 <= 0.1 * whole.made_m3):
        return "whole_bags", mark("Whole packs are the surest measure.")
    half = by.get("half_bags")
    few = len(equal.volumes_m3) if equal else 1
    if (
        half is not None
        and half.left_m3 <= 0.1 * half.made_m3
        and half.least_share >= LEAST_LOAD_SHARE
        and len(half.volumes_m3) <= 1.25 * few
    ):
        return "half_bags", mark("Half bags leave little over and are still easy to measure.")
    if equal is not None:
        return "equal", mark("Loads all alike repeat best: whole packs do not come out even here.")
    return found[0].strategy, mark("The only way that fits.")


def loads_working(split: Split, order_m3: float, largest_m3: float, bags_m3: float | None) -> Working:
    """Explain the number of loads [-] of a split; volumes [m³], bags [1/m³]. Plain arithmetic."""
    if split.strategy in ("whole_bags", "half_bags") and bags_m3 is not None:
        unit = 1.0 if split.strategy == "whole_bags" else 0.5
        each = math.floor(largest_m3 * bags_m3 / unit + _ROUNDING) * unit
        bags = math.ceil(order_m3 * bags_m3 / unit - _ROUNDING) * unit
        formula = mark("bags / bags in a full load, rounded up")
        given = (Given("bags", bags, ""), Given("bags in a full load", each, ""))
    else:
        formula = mark("to mix / largest load, rounded up")
        given = (Given("to mix", order_m3, "m³"), Given("largest load", largest_m3, "m³"))
    return Working(
        figure="Loads",
        formula=formula,
        given=given,
        result=len(split.volumes_m3),
        unit="",
        source=ARITHMETIC,
    )


def bags_working(split: Split, order_m3: float, bags_m3: float | None) -> Working | None:
    """Explain the number of bags opened [-]; volume [m³], bags [1/m³]. Plain arithmetic."""
    if bags_m3 is None or not split.bags_opened:
        return None
    return Working(
        figure="Bags opened",
        formula="to mix × bags in the whole, rounded up",
        given=(Given("to mix", order_m3, "m³"), Given(Said("bags in {where}", where=WHOLE), bags_m3, "in 1 m³")),
        result=split.bags_opened,
        unit="",
        source=ARITHMETIC,
    )
