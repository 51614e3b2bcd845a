"""Divides an order into loads in every way that bags, tins, moulds and pace permit, and recommends one."""

import math
from typing import Final, Literal, NamedTuple

from keeve.core.message.errors import Code, Fault, Frozen, LoadError
from keeve.core.message.said import Amount, Said
from keeve.core.proportions.base import Divide
from keeve.core.vessels.tolerance import close_enough

Strategy = Literal[
    "whole_bags", "half_bags", "n_bags", "part_bags", "whole_gauges", "equal", "fewest", "by_pace", "each_pour"
]
MOST_LOADS: Final = 500
"""Past this it is not a job for a mixer any more."""
NOTHING_M3: Final = 1e-7
"""Less than this is nothing to mix."""
LEAST_LOAD_SHARE: Final = 1 / 3
"""A drum with less than this of its rated load throws it about instead of mixing: common practice, no source."""
MOST_PARTS: Final = 12
"""A bag is parted into no more."""
MOST_WHOLE: Final = 24
"""Measures of binder in one load that anyone still counts."""
ROUNDING: Final = 1e-6
MISSED_SHARE: Final = 0.02
"""So little of a unit is no unit more: house ruling."""
WASTE_SHARE: Final = 0.5
"""So much of the order's waste may be missing for whole units, and never more of a unit: house ruling."""
LEAST_REST: Final = 0.1
"""A remainder under such a share of the usual load is no load of its own: house ruling."""


class Split(Frozen):
    """One way of dividing the order into loads."""

    strategy: Strategy
    volumes_m3: tuple[float, ...]
    """Fresh volume of each load, in order."""
    bags_each: tuple[float, ...]
    """Bags in each load; empty where nothing comes in bags."""
    made_m3: float
    left_m3: float
    """Mixed beyond the order because bags were not divided; under 0 what the order misses so that they are not."""
    bags_opened: int
    least_share: float
    """Smallest load as a share of the largest that is allowed."""


class Whole(NamedTuple):
    """Loads made up of whole measures, none of them filled to a mark."""

    container: str
    """Key of the measure."""
    unit_m3: float
    """Fresh mix to one measure of the first binder."""
    each: int
    """Measures of it in a load."""
    worst_percent: float


class Bounds(NamedTuple):
    """What an order is divided by."""

    order_m3: float
    """What must be mixed, > 0."""
    largest_m3: float
    """Largest load, > 0."""
    bags_per_m3: float | None
    """Bags in a cubic metre of fresh mix; None where nothing comes in bags."""
    divide: Divide
    """How far packs may be divided."""
    bags_a_load: float | None = None
    """Bags in each load, where somebody said so."""
    whole: Whole | None = None
    pace_m3: float | None = None
    """What is placed while the next load is mixed."""
    pours_m3: tuple[float, ...] = ()
    """What is poured by itself."""
    waste_m3: float = 0.0
    """Of the whole order, what is mixed for waste."""
    at_hand: bool = False
    """Whether the order is what is at hand, so that more cannot be mixed."""
    waits: bool = False
    """Whether a pour must have set before the next is cast, as the halves of a mould."""

    def units(self, unit_m3: float) -> int:
        """Count the units [-] that make the order, each so much [m³]; as many as are whole of what is at hand.

        House ruling: an order that misses whole units by a fiftieth of one, or by half its waste, is those units.
        """
        exact = self.order_m3 / unit_m3
        if self.at_hand:
            return math.floor(exact + ROUNDING)
        return max(math.ceil(exact - missed_m3(unit_m3, self.waste_m3) / unit_m3 - ROUNDING), 1)


class Gauged(NamedTuple):
    """A constituent that is measured by volume."""

    role: str
    litres_per_m3: float
    """As it lies in the heap, to a cubic metre of fresh mix."""


def whole_measures(gauged: tuple[Gauged, ...], brims_l: dict[str, float], largest_m3: float) -> Whole | None:
    """Find the measure, and how many of it to a load, with which every constituent comes out nearest to whole ones.

    Parameters
    ----------
    gauged : constituents by volume, the first binder first
    brims_l : what each measure holds to the rim [L], by key
    largest_m3 : largest load [m³]

    Returns
    -------
    the largest load whose counts all keep to their tolerance; where none does, the one with the smallest error; None
    where not even one measure of binder fits

    References
    ----------
    Tolerances by volume: ASTM C685, from memory. Common practice, no source.

    >>> mortar = (Gauged("cement", 250.0), Gauged("sand", 1000.0))
    >>> found = whole_measures(mortar, {"tin": 5.0}, 0.045)
    >>> found.container, found.each, round(found.worst_percent, 6)
    ('tin', 2, 0.0)
    """
    best: tuple[tuple[bool, float, float], Whole] | None = None
    if not gauged:
        return None
    base = gauged[0].litres_per_m3
    for key, brim_l in brims_l.items():
        unit_m3 = brim_l / base
        for each in range(1, min(math.floor(largest_m3 / unit_m3 + ROUNDING), MOST_WHOLE) + 1):
            exact = [each * one.litres_per_m3 / base for one in gauged]
            errors = [(max(round(n), 1) / n - 1) * 100 for n in exact]
            good = all(close_enough(one.role, error) for one, error in zip(gauged, errors, strict=True))
            worst = max(errors, key=abs)
            rank = (good, 0.0 if good else -abs(worst), each * unit_m3)
            if best is None or rank > best[0]:
                best = (rank, Whole(key, unit_m3, each, worst))
    return best[1] if best else None


def missed_m3(unit_m3: float, waste_m3: float) -> float:
    """Say how much an order may miss [m³] for whole units, each so much [m³]. House ruling; plain arithmetic.

    >>> missed_m3(0.010, 0.0), missed_m3(0.010, 0.004), missed_m3(0.010, 0.1)
    (0.0002, 0.002, 0.005)
    """
    return max(MISSED_SHARE * unit_m3, min(WASTE_SHARE * waste_m3, WASTE_SHARE * unit_m3))


def splits(given: Bounds) -> tuple[Split, ...]:
    """Divide an order in every way the bags, the measures and the mixer permit.

    Parameters
    ----------
    given : order and largest load [m³], and what they are divided by

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
    if given.order_m3 / given.largest_m3 > MOST_LOADS:
        raise _too_many(given.order_m3 / given.largest_m3)
    found = [*_in_packs(given), *_in_parts(given)]
    if given.divide == "any" or given.bags_per_m3 is None:
        found += _freely(given)
    few = tuple(split for split in found if len(split.volumes_m3) <= MOST_LOADS)
    if found and not few:
        raise _too_many(min(len(split.volumes_m3) for split in found))
    return few


def _in_packs(given: Bounds) -> list[Split]:
    found: list[Split] = []
    if given.bags_per_m3 is None:
        return found
    found += _by_units("whole_bags", given, 1 / given.bags_per_m3)
    if given.bags_a_load is not None and given.bags_a_load <= given.largest_m3 * given.bags_per_m3 * (1 + ROUNDING):
        unit = _unit(given.bags_a_load)
        found += _by_units("n_bags", given, unit / given.bags_per_m3, most=round(given.bags_a_load / unit))
    if given.divide in ("half", "any"):
        halves = _by_units("half_bags", given, 0.5 / given.bags_per_m3)
        found += [h for h in halves if not any(h.bags_each == s.bags_each for s in found)]
    return found


def _unit(bags: float) -> float:
    """What a number of bags is counted in: whole ones, or halves."""
    return 1.0 if abs(bags - round(bags)) < ROUNDING else 0.5


def _in_parts(given: Bounds) -> list[Split]:
    """Part a bag that is too big for the vessel, or one that is no whole one, into as few alike parts as go in."""
    if given.bags_per_m3 is None or given.divide in ("never", "any"):
        return []
    bag_m3 = 1 / given.bags_per_m3
    smallest = 1.0 if given.divide == "whole" else 0.5
    fits = math.floor(given.largest_m3 / bag_m3 + ROUNDING)
    if given.at_hand and fits == 0:
        parts = math.ceil(given.order_m3 / given.largest_m3 - ROUNDING)
        return [_split("part_bags", (given.order_m3 / parts,) * parts, given)]
    if given.at_hand and abs(rest := given.order_m3 - given.units(bag_m3 * smallest) * bag_m3 * smallest) > NOTHING_M3:
        full = [n * bag_m3 for n in _in_loads(given.units(bag_m3), fits)]
        rest = given.order_m3 - math.fsum(full)
        return [_split("part_bags", (*full, rest), given)]
    if given.at_hand or bag_m3 * smallest <= given.largest_m3 * (1 + ROUNDING):
        return []
    parts = math.ceil(bag_m3 / given.largest_m3 - ROUNDING)
    return _by_units("part_bags", given, bag_m3 / parts, most=1) if parts <= MOST_PARTS else []


def _freely(given: Bounds) -> list[Split]:
    """Divide where any amount can be mixed."""
    order_m3, largest_m3 = _even_m3(given), given.largest_m3
    count = math.ceil(order_m3 / largest_m3 - ROUNDING)
    found: list[Split] = []
    if given.whole is not None:
        found += _by_units("whole_gauges", given, given.whole.unit_m3, most=given.whole.each)
    found.append(_split("equal", (order_m3 / count,) * count, given))
    if count > 1:
        full = min(int(order_m3 / largest_m3 + ROUNDING), count)
        rest = order_m3 - full * largest_m3
        last: tuple[float, ...] = (rest,) if count > full else ()
        if last and rest < LEAST_REST * largest_m3:
            full, last = full - 1, ((largest_m3 + rest) / 2,) * 2
        found.append(_split("fewest", (largest_m3,) * full + last, given))
    if given.pace_m3 is not None and given.pace_m3 < largest_m3 * (1 - ROUNDING):
        paced = math.ceil(order_m3 / given.pace_m3 - ROUNDING)
        if count < paced <= MOST_LOADS:
            found.append(_split("by_pace", (order_m3 / paced,) * paced, given))
    if len(given.pours_m3) > 1:
        volumes = [v / n for v in given.pours_m3 if (n := _parts(v, largest_m3)) for _ in range(n)]
        if len(volumes) <= MOST_LOADS:
            found.append(_split("each_pour", tuple(volumes), given))
    return found


def _even_m3(given: Bounds) -> float:
    """Take an order that hardly misses whole packs for those: nobody weighs out a bag less a spoon."""
    if given.bags_per_m3 is None or given.at_hand:
        return given.order_m3
    packs = round(given.order_m3 * given.bags_per_m3)
    near = abs(given.order_m3 * given.bags_per_m3 - packs) < MISSED_SHARE
    return packs / given.bags_per_m3 if packs and near else given.order_m3


def _parts(volume_m3: float, largest_m3: float) -> int:
    return math.ceil(volume_m3 / largest_m3 - ROUNDING)


def _too_many(loads: float) -> LoadError:
    return LoadError(
        Fault(
            Code.TOO_MANY,
            Said("That would be {n} loads of this mixer.", n=Amount(math.ceil(loads), "whole")),
            "Check the measures, choose a bigger mixer, or have it delivered ready-mixed.",
            field="mixer",
            value=loads,
            limit=MOST_LOADS,
        )
    )


def _by_units(strategy: Strategy, given: Bounds, unit_m3: float, most: int | None = None) -> list[Split]:
    """Divide by something that is not divided: so many units to a load, as many loads as it takes."""
    fits = math.floor(given.largest_m3 / unit_m3 + ROUNDING)
    in_a_load = min(fits, most) if most is not None else fits
    if in_a_load < 1:
        return []
    wanted = given.units(unit_m3)
    least = LEAST_REST if strategy == "n_bags" else LEAST_LOAD_SHARE
    if wanted < 1:
        return []
    if wanted / in_a_load > MOST_LOADS * 2:  # told by the caller; not laid out
        wanted = MOST_LOADS * 2 * in_a_load
    return [_split(strategy, tuple(n * unit_m3 for n in _in_loads(wanted, in_a_load, least)), given)]


def _in_loads(units: int, in_a_load: int, least: float = LEAST_LOAD_SHARE) -> list[int]:
    """Deal units into full loads and a rest; one too small to mix shares with the load before it."""
    full, rest = divmod(units, in_a_load)
    loads = [in_a_load] * full + ([rest] if rest else [])
    if full and 0 < rest < least * in_a_load:
        loads[-2:] = [math.ceil((in_a_load + rest) / 2), (in_a_load + rest) // 2]
    return loads


def _split(strategy: Strategy, volumes: tuple[float, ...], given: Bounds) -> Split:
    made, bags_m3 = math.fsum(volumes), given.bags_per_m3
    bags = tuple(round(v * bags_m3, 9) for v in volumes) if bags_m3 is not None else ()
    return Split(
        strategy=strategy,
        volumes_m3=volumes,
        bags_each=bags,
        made_m3=made,
        left_m3=_left_m3(made, given.order_m3),
        bags_opened=math.ceil(sum(bags) - ROUNDING),
        least_share=min(volumes) / given.largest_m3,
    )


def _left_m3(made_m3: float, order_m3: float) -> float:
    return 0.0 if abs(made_m3 - order_m3) <= NOTHING_M3 else made_m3 - order_m3


def unit_m3(split: Split, given: Bounds) -> float:
    """Say what a way counts in [m³ of fresh mix]; 0 for one that counts in nothing. Plain arithmetic."""
    if split.strategy == "whole_gauges":
        return given.whole.unit_m3 if given.whole else 0.0
    bags = {
        "whole_bags": 1.0,
        "half_bags": 0.5,
        "n_bags": _unit(given.bags_a_load or 1.0),
        "part_bags": split.bags_each[0] if split.bags_each else 0.0,
    }.get(split.strategy, 0.0)
    return bags / given.bags_per_m3 if given.bags_per_m3 else 0.0
