"""However the trade states a mix, here it becomes proportions; after this line nothing asks how."""

from typing import Annotated

from pydantic import Discriminator

from keeve.core.proportions.base import Constituent, Proportions, WaterRule, WaterWindow, cap_water
from keeve.core.proportions.bio_aggregate import BioAggregate
from keeve.core.proportions.designed import Designed
from keeve.core.proportions.kit import Kit
from keeve.core.proportions.mass_parts import MassParts
from keeve.core.proportions.powder_islands import PowderIslands
from keeve.core.proportions.powder_shop import PowderShop
from keeve.core.proportions.powder_water import PowderWater
from keeve.core.proportions.premix_bag import PremixBag
from keeve.core.proportions.ratios import Ratios
from keeve.core.proportions.volume_parts import VolumeParts

Basis = Annotated[
    VolumeParts
    | MassParts
    | Ratios
    | Designed
    | PremixBag
    | PowderWater
    | PowderShop
    | PowderIslands
    | Kit
    | BioAggregate,
    Discriminator("basis"),
]

__all__ = [
    "Basis",
    "BioAggregate",
    "Constituent",
    "Designed",
    "Kit",
    "MassParts",
    "PowderIslands",
    "PowderShop",
    "PowderWater",
    "PremixBag",
    "Proportions",
    "Ratios",
    "VolumeParts",
    "WaterRule",
    "WaterWindow",
    "cap_water",
]
