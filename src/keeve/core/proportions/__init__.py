"""However the trade states a mix, here it becomes proportions; after this line nothing asks how.

A way of stating a mix is one module: its figures, what it asks for, and how it becomes proportions.
"""

import pkgutil
from importlib import import_module

from keeve.core.proportions import bases
from keeve.core.proportions.any_basis import AnyBasis, read_basis
from keeve.core.proportions.asked import Asked, AskedList, Beside
from keeve.core.proportions.base import (
    BASES,
    Basis,
    Constituent,
    Divide,
    Proportions,
    WaterRule,
    WaterWindow,
    cap_water,
)
from keeve.core.proportions.bases.bio_aggregate import BioAggregate
from keeve.core.proportions.bases.designed import Designed
from keeve.core.proportions.bases.kit import Kit
from keeve.core.proportions.bases.mass_parts import MassParts
from keeve.core.proportions.bases.powder_islands import PowderIslands
from keeve.core.proportions.bases.powder_shop import PowderShop
from keeve.core.proportions.bases.powder_water import PowderWater
from keeve.core.proportions.bases.premix_bag import PremixBag
from keeve.core.proportions.bases.to_cementitious import Ratios
from keeve.core.proportions.bases.volume_parts import VolumeParts
from keeve.core.proportions.changing import changed_basis

# A module that lies there is a way of stating a mix: it enters itself into BASES, named below or not.
for _found in pkgutil.iter_modules(bases.__path__, f"{bases.__name__}."):
    import_module(_found.name)

__all__ = [
    "BASES",
    "AnyBasis",
    "Asked",
    "AskedList",
    "Basis",
    "Beside",
    "BioAggregate",
    "Constituent",
    "Designed",
    "Divide",
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
    "changed_basis",
    "read_basis",
]
