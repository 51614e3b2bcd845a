"""However the trade states a mix, here it becomes proportions; after this line nothing asks how."""

from typing import Annotated

from pydantic import Discriminator

from keeve.core.proportions.base import Constituent, Proportions, WaterWindow
from keeve.core.proportions.powder_water import PowderWater
from keeve.core.proportions.premix_bag import PremixBag
from keeve.core.proportions.volume_parts import VolumeParts

Basis = Annotated[VolumeParts | PremixBag | PowderWater, Discriminator("basis")]

__all__ = [
    "Basis",
    "Constituent",
    "PowderWater",
    "PremixBag",
    "Proportions",
    "VolumeParts",
    "WaterWindow",
]
