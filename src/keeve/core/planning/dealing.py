"""Deals an order into loads: what it is divided by, which way is taken, and the card of each load."""

import math
from collections import Counter
from collections.abc import Callable
from typing import Final, TypeVar

from keeve.core.dividing.comparing import Compared, compare
from keeve.core.dividing.dividing import NOTHING_M3, Bounds, Gauged, Split, Strategy, Whole, whole_measures
from keeve.core.dividing.loads import Limit
from keeve.core.dividing.recommending import is_even, recommend
from keeve.core.dosing.card import Brief, Card, Recipe, brief_card, dose_card, gauge_kg_m3, wet_share
from keeve.core.message.errors import Code, Fault, Frozen, LoadError, TradeError
from keeve.core.message.said import Amount, Said, mark
from keeve.core.planning.request import PlanRequest
from keeve.core.proportions.base import Proportions
from keeve.core.takeoff.moulds import Mould
from keeve.core.takeoff.need import Need
from keeve.core.vessels.tools import WEIGHED, usual_measures
from keeve.core.vessels.vessels import CARRY_KG, brim_l

T = TypeVar("T")
MORE_LOADS: Final = 1.5
"""For the sake of true doses so many times as many loads are mixed, and one besides: own assumption."""


class Load(Frozen):
    """One filling and emptying of the mixer."""

    number: int
    card: int
    """Which card it is mixed from."""
    volume_m3: float


def divided_by(
    request: PlanRequest,
    proportions: Proportions,
    need: Need,
    left_m3: float,
    largest_m3: float,
    bags_m3: float | None,
) -> Bounds:
    """Gather what the order is divided by; volumes [m³], bags [1/m³]. Common practice, no source."""
    mix, place = request.mix, request.place_l_min
    cycle_min = sum(step.seconds for step in mix.procedures[request.mixer.kind].steps) / 60
    pours = tuple(item.order_m3 / item.count for item in need.items for _ in range(item.count)) if _few(need) else ()
    return Bounds(
        order_m3=left_m3,
        largest_m3=largest_m3,
        bags_per_m3=bags_m3,
        divide=mix.basis.divide,
        bags_a_load=request.bags_a_load or None,
        whole=_whole(request, proportions, largest_m3),
        pace_m3=place * cycle_min / 1000 if place and cycle_min > 0 else None,
        pours_m3=_still_to_pour(pours, request.already_m3, need.residue_m3),
        waste_m3=need.order_m3 - need.net_m3 if request.start is None else 0.0,
        at_hand=request.start is not None,
        waits=waits_for_the_heat(request),
    )


def waits_for_the_heat(request: PlanRequest) -> bool:
    """Whether parts of one mould are cast, each after the one before it has set. House ruling, common practice."""
    parts = [one for one in request.shapes if isinstance(one, Mould) and not one.off and one.share_percent < 100]
    return request.mix.kin.cast and bool(parts) and sum(one.count for one in parts) > 1


MOST_POURS: Final = 60
"""Past so many nobody mixes each by itself: own assumption."""


def _few(need: Need) -> bool:
    return 1 < sum(item.count for item in need.items) <= MOST_POURS


def _still_to_pour(pours_m3: tuple[float, ...], already_m3: float, residue_m3: float) -> tuple[float, ...]:
    """Take what was made already off the first pours, and put what stays in the mixer onto the last."""
    rest: list[float] = []
    for pour in pours_m3:
        taken = min(pour, already_m3)
        already_m3 -= taken
        if pour - taken > NOTHING_M3:
            rest.append(pour - taken)
    return (*rest[:-1], rest[-1] + residue_m3) if rest else ()


def _whole(request: PlanRequest, proportions: Proportions, largest_m3: float) -> Whole | None:
    """Find the measure of which whole ones make up a load, where the mix may be measured so."""
    mix, heaps = request.mix, request.heaps
    by_volume = [
        c
        for c in proportions.constituents
        if c.material.role not in WEIGHED
        and usual_measures(c.material.role, by_scale=mix.by_scale, by_volume=mix.basis.by_volume)
    ]
    if not mix.basis.by_volume or mix.by_scale or len(by_volume) < len(proportions.constituents):
        return None
    gauged = tuple(Gauged(c.material.role, c.dry_kg_m3 / gauge_kg_m3(c, heaps) * 1000) for c in by_volume)
    heaviest_kg_l = max(gauge_kg_m3(c, heaps) * wet_share(c, heaps) for c in by_volume) / 1000
    brims = {c.key: brim_l(c.section) for c in request.gauges}
    if len(brims) > 1:  # of several nobody lifts one that is too heavy full
        brims = {key: litres for key, litres in brims.items() if litres * heaviest_kg_l <= CARRY_KG}
    return whole_measures(gauged, brims, largest_m3)


def count_of(loads: tuple[Load, ...], cards: int) -> list[int]:
    """Count the loads of each card [-]. Plain arithmetic."""
    return [sum(1 for load in loads if load.card == i) for i in range(cards)]


def _recommended(request: PlanRequest, found: tuple[Split, ...], given: Bounds, largest: Limit) -> tuple[Strategy, str]:
    """Recommend one of the ways; volumes [m³]. Common practice, no source.

    Raises
    ------
    LoadError : there is no way: one bag is too big for the vessel
    """
    if not found:
        raise _too_big(found, given.bags_per_m3, largest)
    by_hand = request.mixer.kind in ("tray", "bucket")
    return recommend(
        found,
        weighed=request.mix.basis.weighed,
        by_hand=by_hand,
        whole=given.whole,
        poured=request.mix.kin.cast and all(i.kind in _CAST for i in request.shapes),
        waits=given.waits,
    )


_CAST: Final = frozenset({"mould", "displaced", "weighed", "scan"})


def _too_big(found: tuple[Split, ...], bags_m3: float | None, largest: Limit) -> LoadError:
    return LoadError(
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
            field="strategy" if found else "mixer",
            value=1000 / bags_m3 if bags_m3 else None,
            limit=largest.volume_m3 * 1000,
            unit="L",
        )
    )


def _no_room(bags: float, most: float) -> LoadError:
    fits = math.floor(most * 2 + 1e-6) / 2
    return LoadError(
        Fault(
            Code.TOO_SMALL,
            Said(
                "{n} bags to a load do not go in: {most} is the most here.", n=Amount(bags, ""), most=Amount(fits, "")
            ),
            "Take fewer, or a bigger mixer.",
            field="bags_a_load",
            value=bags,
            limit=fits,
        )
    )


def choose(
    request: PlanRequest, found: tuple[Split, ...], given: Bounds, largest: Limit, dealer: "Dealer"
) -> tuple[Strategy, Split, str]:
    """Take the way that was asked for, else the recommended one: of those whose doses come out, where some do.

    Parameters
    ----------
    request : with the way that was asked for
    found : the ways there are
    given, largest : what they are divided by
    dealer : who measures their loads

    Returns
    -------
    the recommended way, the one taken, and why

    Raises
    ------
    LoadError : what was asked for does not go in

    References
    ----------
    Common practice, no source.
    """
    recommended, why = _recommended(request, found, given, largest)
    if not request.bags_a_load and not given.waits and (truer := dealer.truer(found, recommended)):
        recommended, why = _recommended(request, truer, given, largest)
    bags_m3 = given.bags_per_m3
    wanted, by = request.strategy, {split.strategy: split for split in found}
    if request.bags_a_load and bags_m3 is not None and "n_bags" not in by:
        raise _no_room(request.bags_a_load, largest.volume_m3 * bags_m3)
    no_bag = bags_m3 is not None and largest.volume_m3 * bags_m3 < 1
    if wanted in ("whole_bags", "n_bags") and wanted not in by and no_bag:
        raise _too_big(found, bags_m3, largest)
    if wanted is None:
        return recommended, by[recommended], why
    if wanted in by:
        return recommended, by[wanted], mark("Your choice.")
    # Splits coincide on small jobs (one load is equal, fewest and short at once): take what is there.
    return recommended, found[0], mark("The job comes out the same any other way.")


def _key(volume_m3: float, strategy: Strategy) -> tuple[float, str]:
    """What makes two cards alike: the size, and a way that measures differently."""
    return round(volume_m3, 9), strategy if strategy in ("whole_gauges", "part_bags") else ""


class Dealer:
    """Gives loads their cards; loads of one size, measured alike, share one."""

    def __init__(
        self,
        request: PlanRequest,
        proportions: Proportions,
        whole: Whole | None,
        dealt: tuple[Strategy, tuple[Card, ...]] | None = None,
    ) -> None:
        self._request = request
        self._proportions = proportions
        self._whole = next((c for c in request.gauges if whole and c.key == whole.container), None)
        self._known: dict[tuple[float, str], Card] = {}
        self._brief: dict[tuple[float, str], Brief] = {}
        """Those that are only compared; with those that were dealt before, by the same request."""
        if dealt is not None:
            self._brief = {_key(c.volume_m3, dealt[0]): Brief(c.doses, c.seconds, c.rounded) for c in dealt[1]}

    def _made(self, make: Callable[[Recipe, float], T], volume_m3: float, how: str) -> T:
        request, mix = self._request, self._request.mix
        whole = self._whole if how == "whole_gauges" else None
        tools = request.tools._replace(whole=whole, parted=how == "part_bags")
        recipe = Recipe(
            self._proportions,
            mix,
            mix.procedures[request.mixer.kind],
            request.heaps,
            tools,
            request.admixtures,
            (request.ice_percent or 0.0) / 100,
        )
        return make(recipe, volume_m3)

    def _card(self, volume_m3: float, strategy: Strategy) -> Card:
        key = _key(volume_m3, strategy)
        if key not in self._known:
            self._known[key] = self._made(dose_card, volume_m3, key[1])
        return self._known[key]

    def deal(self, split: Split) -> tuple[tuple[Card, ...], tuple[Load, ...]]:
        """Give each load of a split its card."""
        sizes: dict[float, int] = {}
        for volume in split.volumes_m3:
            sizes.setdefault(round(volume, 9), len(sizes))
        firsts = {round(v, 9): v for v in reversed(split.volumes_m3)}
        cards = tuple(self._card(firsts[size], split.strategy) for size in sizes)
        loads = tuple(
            Load(number=number, card=sizes[round(volume, 9)], volume_m3=volume)
            for number, volume in enumerate(split.volumes_m3, 1)
        )
        return cards, loads

    def truer(self, found: tuple[Split, ...], recommended: Strategy) -> tuple[Split, ...]:
        """List the ways whose doses all come out, where those of the recommended one do not; else none.

        None that leaves much over, or takes many more loads: house choice.
        """
        by = {split.strategy: split for split in found}
        usual = self.compared(by[recommended])
        if usual is None or usual.good:
            return ()
        most = MORE_LOADS * len(by[recommended].volumes_m3) + 1
        near = [one for one in found if is_even(one) and len(one.volumes_m3) <= most]
        return tuple(one for one in near if (judged := self.compared(one)) is not None and judged.good)

    def compared(self, split: Split) -> Compared | None:
        """Judge a split; none where what is at hand cannot measure its loads."""
        many = Counter(round(volume, 9) for volume in split.volumes_m3)
        firsts = {round(v, 9): v for v in reversed(split.volumes_m3)}
        try:
            cards = [(self._compared_card(firsts[size], split.strategy), n) for size, n in many.items()]
        except TradeError:
            return None
        return compare(split, cards)

    def _compared_card(self, volume_m3: float, strategy: Strategy) -> Brief:
        key = _key(volume_m3, strategy)
        if key not in self._brief:
            self._brief[key] = self._made(brief_card, volume_m3, key[1])
        return self._brief[key]

    def all_compared(self, found: tuple[Split, ...]) -> tuple[Compared, ...]:
        """Judge every split that can be measured."""
        return tuple(one for split in found if (one := self.compared(split)) is not None)
