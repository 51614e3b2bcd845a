"""Ways of dividing an order side by side: minutes, what is left, how true the doses are, what is carried."""

import math
from collections.abc import Sequence

from keeve.core.dividing.dividing import Split, Strategy
from keeve.core.dosing.card import Brief
from keeve.core.dosing.dose import Dose
from keeve.core.message.errors import Frozen
from keeve.core.takeoff.need import NeedItem

_PART = 1e-6


class Compared(Frozen):
    """What one way of dividing means for the people who do it."""

    strategy: Strategy
    minutes: float
    """Of mixing, by the timers of the steps."""
    worst_percent: float
    """Error of the dose furthest off, signed."""
    worst: str
    """Key of that dose; `water` for water."""
    good: bool
    """Whether every dose keeps to its tolerance."""
    carries: int
    """Bags, pails and buckets lifted into the mixer, over all loads."""
    heaviest_kg: float
    """The heaviest of them."""
    left_bag: float
    """What stays in the last bag opened [bags]."""


def _lifts(dose: Dose) -> tuple[int, float]:
    """How often one lifts for a dose, and the heaviest of it [kg]."""
    if dose.means == "packs" and dose.packs is not None:
        return math.ceil(dose.packs - _PART), min(dose.packs, 1.0) * (dose.pack_kg or dose.batch_kg / dose.packs)
    if dose.means == "counts" and dose.count is not None:
        return math.ceil(dose.count.count - _PART), dose.batch_kg / max(dose.count.exact, 1.0)
    if dose.means == "scale" and dose.weighing is not None:
        return dose.weighing.vessels, dose.weighing.reading_kg
    if dose.gauge is not None:
        return dose.gauge.fills, dose.batch_kg / dose.gauge.fills + dose.gauge_tare_kg
    return 1, dose.batch_kg


def compare(split: Split, cards: Sequence[tuple[Brief, int]]) -> Compared:
    """Judge one way of dividing.

    Parameters
    ----------
    split : the way
    cards : each card with how many loads are mixed from it

    Returns
    -------
    its figures; of the errors the one that is furthest off against what is allowed

    References
    ----------
    Plain arithmetic; tolerances of ASTM C94, from memory.
    """
    lifts = [(_lifts(dose), n) for card, n in cards for dose in card.doses]
    worst = max((card.rounded for card, _ in cards), key=lambda r: r.strain)
    return Compared(
        strategy=split.strategy,
        minutes=sum(card.seconds * n for card, n in cards) / 60,
        worst_percent=worst.worst_percent,
        worst=worst.worst,
        good=all(card.rounded.good for card, _ in cards),
        carries=sum(times * n for (times, _), n in lifts),
        heaviest_kg=max(kg for (_, kg), _ in lifts),
        left_bag=max(split.bags_opened - math.fsum(split.bags_each), 0.0) if split.bags_each else 0.0,
    )


def left_fills(left_m3: float, items: tuple[NeedItem, ...]) -> tuple[NeedItem, float] | None:
    """Say of what on the list the rest would fill a share.

    Parameters
    ----------
    left_m3 : mixed beyond the order [m³]
    items : of the take-off

    Returns
    -------
    the thing of which most is filled by it and the share [-]; None where it is less than a twentieth of any

    References
    ----------
    Plain arithmetic.
    """
    fits = [(item, left_m3 / item.each_m3) for item in items if item.each_m3 > 0]
    small = [pair for pair in fits if pair[1] >= 0.05]
    return min(small, key=lambda pair: abs(math.log(pair[1])), default=None)
