"""Rules of thumb beside the sum: what people say on site, what it comes to here, and what it hides."""

import math
from typing import Final

from keeve.core.dosing.card import loose_m3_per_m3
from keeve.core.materials.moisture import Heaps
from keeve.core.measure.units import GAL_L, IN_MM
from keeve.core.message.errors import Frozen
from keeve.core.message.said import Words, mark
from keeve.core.mixes.mix import Mix
from keeve.core.proportions.base import Proportions

# What is said on site: common practice, no source.
SHOP_L_PER_L: Final = 80 * (IN_MM / 100) ** 3 / (GAL_L / 4)
"""Eighty cubic inches of plaster mix to the quart of water."""
DRY_TO_WET_CONCRETE: Final = 1.54
DRY_TO_WET_MORTAR: Final = 1.33
BAG_L_PER_KG: Final = 0.60 * 28.316846592 / (80 * 0.45359237)
"""A bag of concrete of 80 lb makes about 0.60 cubic feet."""


class Thumb(Frozen):
    """One rule of thumb, and what the sum says to it."""

    rule: Words
    unit: str
    by_rule: float
    by_sum: float
    hides: Words

    @property
    def off_percent(self) -> float:
        """How much more the rule says than the sum [%]. Plain arithmetic."""
        return (self.by_rule / self.by_sum - 1) * 100 if self.by_sum > 0 else 0.0


def thumbs(mix: Mix, proportions: Proportions, heaps: Heaps, volume_m3: float) -> tuple[Thumb, ...]:
    """Say what rules of thumb make of a volume.

    Parameters
    ----------
    mix, proportions : what is mixed
    heaps : moisture and bulking by material key [%]
    volume_m3 : fresh volume to be mixed [m³]

    Returns
    -------
    those that are said of such a mix; none where nobody says one

    References
    ----------
    The rules: common practice, no source. The sums: absolute volume, ACI 211.1-91, from memory.
    """
    found: list[Thumb] = []
    roles = {c.material.role for c in proportions.constituents}
    if roles == {"plaster"} and proportions.water.target > 0:
        water_l = proportions.water.target * volume_m3
        found.append(
            Thumb(
                rule=mark("80 cubic inches to the quart of water"),
                unit="L",
                by_rule=water_l * SHOP_L_PER_L,
                by_sum=volume_m3 * 1000,
                hides=mark(
                    "The rule keeps an allowance for what sticks to the bucket: do not add waste to it as well."
                ),
            )
        )
    if roles == {"premix"} and mix.kin.thumb == "concrete":
        dry_kg = math.fsum(c.dry_kg_m3 for c in proportions.constituents) * volume_m3
        found.append(
            Thumb(
                rule=mark("a bag of 80 lb makes about 0.60 cubic feet"),
                unit="L",
                by_rule=dry_kg * BAG_L_PER_KG,
                by_sum=volume_m3 * 1000,
                hides=mark("Every maker's bag is another: the yield on its label counts."),
            )
        )
    factor = {"concrete": DRY_TO_WET_CONCRETE, "mortar": DRY_TO_WET_MORTAR}.get(mix.kin.thumb)
    if factor is not None and mix.basis.by_volume:
        found.append(
            Thumb(
                rule=mark("dry materials are 1.54 times the concrete")
                if factor == DRY_TO_WET_CONCRETE
                else mark("dry materials are 1.33 times the mortar"),
                unit="m³",
                by_rule=volume_m3 * factor,
                by_sum=volume_m3 * loose_m3_per_m3(proportions, heaps),
                hides=mark("The rule hides loss and how damp the sand lies; bulked sand takes more room."),
            )
        )
    return tuple(found)
