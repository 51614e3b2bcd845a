"""Which way of dividing an order is recommended, and why."""

from typing import Final

from keeve.core.dividing.dividing import LEAST_LOAD_SHARE, Split, Strategy, Whole
from keeve.core.message.said import mark

MOST_LEFT: Final = 0.1
"""More than this share mixed for nothing is too much for the sake of whole packs: common practice, no source."""


def recommend(
    found: tuple[Split, ...],
    *,
    weighed: bool,
    by_hand: bool = False,
    whole: Whole | None = None,
    poured: bool = False,
    waits: bool = False,
) -> tuple[Strategy, str]:
    """Choose one split and say why.

    Parameters
    ----------
    found : at least one split
    weighed : the binder goes by the scale, so that bags need not be kept whole
    by_hand : it is turned by hand in a tray, or in a bucket: tins are the measure
    whole : the whole measures that were found
    poured : it sets so fast that what is poured by itself is mixed by itself
    waits : a pour must have set before the next is cast

    Returns
    -------
    the strategy and its reason

    References
    ----------
    Common practice, no source: a whole bag is the surest measure; a short last load mixes badly.
    """
    by = {split.strategy: split for split in found}
    bags, half, equal = by.get("whole_bags"), by.get("half_bags"), by.get("equal")
    few = len(equal.volumes_m3) if equal else 1
    good_half = (
        half is not None
        and is_even(half)
        and half.least_share >= LEAST_LOAD_SHARE
        and len(half.volumes_m3) <= 1.25 * few
    )
    good_bags = bags is not None and (is_even(bags) or (equal is None and bags.left_m3 >= 0))
    tins, apart = by.get("whole_gauges"), by.get("each_pour")
    good_tins = (
        by_hand and tins is not None and whole is not None and abs(whole.worst_percent) <= _GOOD_TINS and is_even(tins)
    )
    good_apart = poured and apart is not None and apart.least_share >= LEAST_LOAD_SHARE
    # The first that is there and suits.
    order: tuple[tuple[Strategy, bool, str], ...] = (
        ("n_bags", True, mark("As many to a load as you said.")),
        ("each_pour", waits, mark("Each pour is a load of its own: the one before it must have set.")),
        ("each_pour", good_apart, mark("Each pour by itself: it waits for nobody.")),
        ("equal", weighed, mark("Every load alike: that repeats.")),
        ("whole_bags", good_bags, mark("Whole packs are the surest measure.")),
        ("whole_gauges", good_tins, mark("Whole measures and no marks: every load is counted alike.")),
        ("half_bags", good_half, mark("Half bags leave little over and are still easy to measure.")),
        ("equal", True, mark("Loads all alike repeat best: whole packs do not come out even here.")),
        ("part_bags", True, mark("A pack is too big for the vessel, or only part of one is wanted: it goes in parts.")),
    )
    for strategy, suits, reason in order:
        if suits and strategy in by:
            return strategy, reason
    return found[0].strategy, mark("The only way that fits.")


def is_even(split: Split) -> bool:
    """Whether whole units [-] leave little over, and use nearly all of what is at hand. Own assumption."""
    return -MOST_MISSED * split.made_m3 <= split.left_m3 <= MOST_LEFT * split.made_m3


MOST_MISSED: Final = 0.06
"""Whole units are taken unasked only where they miss no more of the order, half a usual waste: own assumption."""
_GOOD_TINS: Final = 2.0
"""Tins are taken unasked only where no constituent is further off [%]: ASTM C685, from memory."""
