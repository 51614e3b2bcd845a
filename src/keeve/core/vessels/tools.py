"""What a crew measures with, and how it wants each constituent measured."""

import math
from typing import Final, Literal, NamedTuple

from keeve.core.materials.material import WET_HEAPS, Role
from keeve.core.message.errors import Code, Fault, Frozen, LoadError
from keeve.core.message.said import Amount, Said, Words, mark
from keeve.core.vessels.instruments import FINE_SCALE, SYRINGES, Instrument, draw, us_mark_l, weigh_on
from keeve.core.vessels.scales import Scale, Weighed, Weighing, best_weighing
from keeve.core.vessels.tolerance import allowed_percent
from keeve.core.vessels.vessels import Container, Fill, best_fill, brim_l, is_struck, people_count, volume_l

Means = Literal["packs", "marks", "counts", "scale"]
"""By packs; by a measure filled to a mark; by whole or half measures; on the scale."""
MOST_COUNT: Final = 60
"""Nobody counts more for one dose without losing the count: common practice, no source."""
# A premix settles into its sizes, plaster, hemp and powders are weighed: a pail measures none of them honestly.
WEIGHED: Final[frozenset[Role]] = frozenset({"premix", "plaster", "supplementary", "hemp", "fibre", "powder"})
MOST_CAPS: Final = 12
"""More of them and the count is lost: common practice, no source."""
USUAL_MARK_L: Final = 0.1
"""Smallest mark of a jug of which nobody knows it: common practice, no source."""
_HALF: Final = 1e-6
MARK_STEP_MM: Final = 1.0
"""As near as a hand fills to a mark that was drawn with a rule."""


class Tools(NamedTuple):
    """What is at hand for one load."""

    gauges: tuple[Container, ...]
    jug: Container
    scales: tuple[Scale, ...] = ()
    vessels: tuple[Container, ...] = ()
    """To weigh in."""
    measured: dict[str, Means] = {}
    """How the crew wants a constituent measured, by material key; `water` for water."""
    whole: Container | None = None
    """The measure that is counted whole, where the loads are made up of whole ones."""
    hose_l_min: float | None = None
    """What the hose gives [L/min], where water is told in seconds of it."""
    parted: bool = False
    """Whether bags are parted: then half a bag is weighed, or taken by the pail, and not guessed."""


class Count(Frozen):
    """A dose as a count of one measure, each struck or heaped as it was measured."""

    container: str
    count: float
    """Whole ones of a shovel or a trowel; of a pail also halves, thirds and quarters."""
    exact: float
    error_percent: float


MOST_CAP_L: Final = 0.12
"""Nothing bigger is a cap, a spoon or a dosing cup: common practice, no source."""


def in_caps(gauges: tuple[Container, ...], volume_l: float) -> Count | None:
    """Count a small dose of a liquid in a cap or a cup of the crew's own.

    Parameters
    ----------
    gauges : measures at hand
    volume_l : the dose [L], > 0

    Returns
    -------
    the fewest of the measures up to 0.12 L, in whole, half, third or quarter ones; None where none comes close enough

    References
    ----------
    Within the tolerance of an admixture, ASTM C94, from memory; parts people fill: common practice, no source.
    """
    caps = [c for c in gauges if brim_l(c.section) <= MOST_CAP_L and volume_l / brim_l(c.section) <= MOST_CAPS]
    counts = [count_of(c, volume_l) for c in caps]
    good = [one for one in counts if abs(one.error_percent) <= allowed_percent("admixture")]
    return min(good, key=lambda one: one.count, default=None)


class MeasuredBy(NamedTuple):
    """How one dose is measured, and what the other ways would be."""

    means: Means
    fill: Fill | None
    counted: Count | None
    weighing: Weighing | None
    measured_l: float
    """What the chosen way holds, as it lies [L]."""
    half_step_l: float = 0.0
    """Half of what its mark can be read to [L]."""


def count_of(container: Container, volume_wanted_l: float, *, whole: bool = False) -> Count:
    """Count a dose in one measure.

    Parameters
    ----------
    container : the measure
    volume_wanted_l : as it lies in the heap [L], > 0
    whole : whether halves, thirds and quarters are no choice

    Returns
    -------
    the count, at least one of a shovel, and what it does to the dose

    Raises
    ------
    LoadError : more than 60 of them

    References
    ----------
    Common practice, no source.

    >>> from keeve.core.vessels.vessels import Ring, Section
    >>> rings = (Ring(height_mm=0, width_mm=200), Ring(height_mm=160, width_mm=200))
    >>> tin = Container(key="t", name="Tin", short="tin", section=Section(rings=rings))
    >>> round(count_of(tin, 12.7).count, 2), round(count_of(tin, 20.1).error_percent, 2)
    (2.5, 0.03)
    """
    exact = volume_wanted_l / brim_l(container.section)
    if exact > MOST_COUNT:
        raise LoadError(
            Fault(
                Code.TOO_MANY,
                Said(
                    "That would be {n} of {measure} for one load.",
                    n=Amount(math.ceil(exact), "whole"),
                    measure=container.name,
                ),
                mark("Take a bigger measure, or smaller loads."),
                field="gauges",
                value=exact,
                limit=MOST_COUNT,
            )
        )
    said = max(round(exact), 1) if whole or container.scoop else people_count(exact).value
    return Count(container=container.key, count=said, exact=exact, error_percent=(said / exact - 1) * 100)


def _marked_l(fill: Fill, gauges: tuple[Container, ...]) -> tuple[float, float]:
    """Volume in a fill whose mark is drawn with a rule, and half a step of that rule [L]."""
    section = next(c for c in gauges if c.key == fill.container_key).section
    if is_struck(fill.mark_down_mm, fill.fills, fill.struck_exact):
        up_mm = section.depth_mm
    else:
        up_mm = section.depth_mm - round(fill.mark_down_mm / MARK_STEP_MM) * MARK_STEP_MM
    held = volume_l(section, up_mm)
    return held * fill.fills, (held - volume_l(section, max(up_mm - MARK_STEP_MM / 2, 0.0))) * fill.fills


def _offered(dose: Weighed, tools: Tools, *, gauged: bool, mean: Means | None) -> tuple[Fill | None, Count | None]:
    """Find a fill with its mark and a count, as far as a dose is measured by volume."""
    whole = tools.whole if dose.role not in WEIGHED else None
    if whole is None and not (gauged or mean in ("marks", "counts")):
        return None, None
    scoops = [c for c in tools.gauges if c.scoop]
    pails = tuple(c for c in tools.gauges if not c.scoop)
    fill = best_fill(pails, dose.volume_l, dose.mass_kg)
    if whole is not None:
        return fill, count_of(whole, dose.volume_l, whole=True)
    if scoops and (mean == "counts" or not pails):
        return fill, _countable(scoops[0], dose.volume_l)
    if mean == "counts" and pails:
        best = next((c for c in pails if fill is not None and c.key == fill.container_key), pails[0])
        return fill, _countable(best, dose.volume_l)
    return fill, None


LEAST_COUNT: Final = 0.2
"""Less of a measure is no quarter of it and no count: it goes to a mark or on the scale. Own assumption."""


def _countable(container: Container, volume_l: float) -> Count | None:
    """Count a dose [L] in a measure it is some of; of a shovel at least half a one."""
    least = 0.5 if container.scoop else LEAST_COUNT
    return count_of(container, volume_l) if volume_l / brim_l(container.section) >= least else None


def measure(dose: Weighed, key: str, tools: Tools, packs: float | None, *, gauged: bool) -> MeasuredBy:
    """Say how a dose is measured: as the crew wants it, else packs, else a measure, else the scale.

    Parameters
    ----------
    dose : role [-], mass as it lies [kg] and room in a measure [L]
    key : of its material
    tools : what is at hand
    packs : how many packs it is [-], where it comes in packs
    gauged : whether it may be measured by volume

    Returns
    -------
    the way, with the fill, the count and the readings of the scale as far as they can be had

    Raises
    ------
    LoadError : a scale, a shovel or a tin cannot measure it

    References
    ----------
    Common practice, no source: a whole bag is the surest measure.
    """
    wish = tools.measured.get(key)
    fill, count = _offered(dose, tools, gauged=gauged, mean=wish)
    on_scale = best_weighing(dose, tools.scales, tools.vessels) if tools.scales else None
    if on_scale is not None and not on_scale.good and weigh_on(dose.role, dose.mass_kg).instrument is FINE_SCALE:
        on_scale = None  # too coarse for it: the fine scale is named
    unit = 1 if tools.parted else 2
    in_packs = packs is not None and abs(packs * unit - round(packs * unit)) <= _HALF and round(packs * unit) > 0
    means = _means(wish, in_packs=in_packs, counts=count is not None, marks=fill is not None)
    measured_l, half_step_l = dose.volume_l, 0.0
    if means == "counts" and count is not None:
        measured_l *= 1 + count.error_percent / 100
    elif means == "marks" and fill is not None:
        measured_l, half_step_l = _marked_l(fill, tools.gauges)
    elif means == "scale" and on_scale is not None:
        measured_l *= 1 + on_scale.error_percent / 100
    return MeasuredBy(means, fill, count, on_scale, measured_l, half_step_l)


def _means(wish: Means | None, *, in_packs: bool, counts: bool, marks: bool) -> Means:
    if wish == "scale" or (wish == "packs" and in_packs):
        return wish
    if wish == "marks" and marks:
        return "marks"
    if counts and (wish == "counts" or not in_packs):
        return "counts"
    if in_packs:
        return "packs"
    return "marks" if marks else "scale"


def usual_measures(role: Role, *, by_scale: bool, by_volume: bool) -> bool:
    """Whether a constituent is measured by volume where nobody chose [-]. Common practice, no source."""
    return not by_scale and (by_volume or role in WET_HEAPS)


class WaterBy(Frozen):
    """What the water of a load is measured with; its marks are those of every pour and sip."""

    means: Literal["jug", "drawn", "scale", "hose"]
    """The jug at hand, something finer, the crew's or a fine scale, or seconds of the hose."""
    name: Words
    """Of what is finer than the jug; empty for the others."""
    step_l: float
    us_step_l: float
    """Smallest mark for a US reader; 0 where everybody is told the same."""

    def read_l(self, pour_l: float) -> float:
        """Round a pour [L] to what it can show; never to nothing. A litre of water weighs a kilogram within 0.3 %."""
        return max(round(pour_l / self.step_l), 1) * self.step_l if pour_l > 0 else pour_l


MARK_PERCENT: Final = 5.0
"""A mark that is more than this of the free water is too coarse for it. House ruling."""


def water_by(free_l: float, pour_l: float, tools: Tools) -> WaterBy:
    """Choose what the water is measured with.

    Parameters
    ----------
    free_l : free water wanted [L], > 0
    pour_l : water to pour [L], may be negative where the heap brings too much
    tools : jug, scales and hose at hand

    Returns
    -------
    scale or hose where the crew measures so; the jug, where its mark is fine enough; else what is

    References
    ----------
    ASTM C94, from memory; 5 % of the free water: house ruling.
    """
    mean = tools.measured.get("water")
    if mean == "scale" and tools.scales:
        scale = scale_for_water(pour_l, tools.scales)
        return WaterBy(means="scale", name="", step_l=scale.step_kg, us_step_l=0.0)
    if mean == "counts" and tools.hose_l_min:
        return WaterBy(means="hose", name="", step_l=tools.hose_l_min / 60, us_step_l=0.0)
    mark_l = tools.jug.mark_l or USUAL_MARK_L
    jug = Instrument("jug", mark("jug"), mark_l, math.inf)
    found = draw("water", max(pour_l, mark_l), jug)
    if found.step_l > free_l * MARK_PERCENT / 100:
        found = draw("water", max(free_l * MARK_PERCENT / 100, SYRINGES[-1].step), jug)
    if found.by == "jug":
        return WaterBy(means="jug", name="", step_l=mark_l, us_step_l=us_mark_l(mark_l))
    if not found.good:
        return WaterBy(means="scale", name=FINE_SCALE.name, step_l=FINE_SCALE.step, us_step_l=0.0)
    return WaterBy(means="drawn", name=found.name, step_l=found.step_l, us_step_l=found.us_step_l)


def scale_for_water(pour_l: float, scales: tuple[Scale, ...]) -> Scale:
    """Choose the scale on which water [L] is weighed: the finest that is read least often. Common practice."""
    return min(scales, key=lambda one: (math.ceil(max(pour_l, 0.0) / one.most_kg), one.step_kg))
