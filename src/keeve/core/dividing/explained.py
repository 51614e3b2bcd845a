"""How the number of loads and of bags comes about, for whoever opens the figure."""

import math

from keeve.core.dividing.dividing import ROUNDING, Bounds, Split, unit_m3
from keeve.core.message.said import WHOLE, Said, mark
from keeve.core.message.working import ARITHMETIC, Given, Working


def loads_working(split: Split, given: Bounds) -> Working:
    """Explain the number of loads [-] of a split; volumes [m³], bags [1/m³]. Plain arithmetic."""
    bags_m3 = given.bags_per_m3
    if split.strategy == "each_pour":
        more = len(split.volumes_m3) - len(given.pours_m3)
        formula = mark("pours + parts of those that are too big")
        numbers: tuple[Given, ...] = (
            Given("pours", len(given.pours_m3), ""),
            Given("parts of those that are too big", more, ""),
        )
    elif bags_m3 is not None and split.strategy != "whole_gauges" and (unit := unit_m3(split, given) * bags_m3):
        most = given.bags_a_load if split.strategy == "n_bags" and given.bags_a_load else given.largest_m3 * bags_m3
        each = unit if split.strategy == "part_bags" else math.floor(most / unit + ROUNDING) * unit
        bags = given.units(unit / bags_m3) * unit
        formula = mark("bags / bags in a full load, rounded up")
        numbers = (Given("bags", bags, ""), Given("bags in a full load", each, ""))
    elif split.strategy == "whole_gauges" and given.whole is not None:
        measures = given.units(given.whole.unit_m3)
        formula = mark("measures of binder / measures in a full load, rounded up")
        numbers = (Given("measures of binder", measures, ""), Given("measures in a full load", given.whole.each, ""))
    else:
        most = given.pace_m3 if split.strategy == "by_pace" and given.pace_m3 else given.largest_m3
        formula = mark("to mix / largest load, rounded up")
        numbers = (Given("to mix", given.order_m3, "m³"), Given("largest load", most, "m³"))
    return Working(
        figure="Loads",
        formula=formula,
        given=numbers,
        result=len(split.volumes_m3),
        unit="",
        source=ARITHMETIC,
    )


def bags_working(split: Split, order_m3: float, bags_m3: float | None) -> Working | None:
    """Explain the number of bags opened [-]; volume [m³], bags [1/m³]. Plain arithmetic."""
    if bags_m3 is None or not split.bags_opened:
        return None
    missing: tuple[Given, ...] = ()
    formula = mark("to mix × bags in the whole, rounded up")
    if split.left_m3 < 0:
        missing = (Given(mark("less than asked"), -split.left_m3, "m³"),)
        formula = mark("(to mix − less than asked) × bags in the whole, rounded up")
    return Working(
        figure="Bags opened",
        formula=formula,
        given=(
            Given("to mix", order_m3, "m³"),
            *missing,
            Given(Said("bags in {where}", where=WHOLE), bags_m3, "in 1 m³"),
        ),
        result=split.bags_opened,
        unit="",
        source=ARITHMETIC,
    )
