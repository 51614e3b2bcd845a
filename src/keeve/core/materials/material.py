"""What goes into a mix: binders, aggregates, bagged premixes and plaster powders."""

from typing import Literal

from pydantic import Field

from keeve.core.materials import refusals as _refusals  # noqa: F401 - enters what is said of these fields
from keeve.core.measure.quantities import Mass
from keeve.core.message.errors import Frozen
from keeve.core.message.said import Words

Role = Literal[
    "cement", "supplementary", "lime", "sand", "stone", "ballast", "hemp", "fibre", "powder", "premix", "plaster"
]
BINDERS: frozenset[Role] = frozenset({"cement", "supplementary", "lime", "premix", "plaster"})
CEMENTITIOUS: frozenset[Role] = frozenset({"cement", "supplementary"})
"""Base of w/cm and of every admixture dose; where standards also count lime they say sum of binders."""
WET_HEAPS: frozenset[Role] = frozenset({"sand", "stone", "ballast"})
"""Roles whose water counts in the account. Hemp drinks twice its mass and stays out: its water is stated in total."""
BulkingGrade = Literal["none", "fine", "ordinary", "coarse"]


class Pack(Frozen):
    """A bag as the merchant sells it."""

    name: Words
    mass_kg: Mass


class Material(Frozen):
    """One material with the properties the arithmetic needs; all may be overwritten by a label or a test."""

    key: str
    name: Words
    role: Role
    particle_density_kg_m3: float = Field(ge=500, le=5500)
    """Oven-dry mass over the volume of the grains with their pores."""
    loose_bulk_kg_m3: float = Field(ge=50, le=2500)
    """Dry mass over the volume of the heap, loose and struck."""
    damp_loose_kg_m3: float | None = Field(None, ge=50, le=2500)
    """Dry mass in a gauge of damp loose sand, where the mix counts it that way."""
    absorption_percent: float = Field(0.0, ge=0, le=10)
    held_water_percent: float = Field(0.0, ge=0, le=400)
    """Water it comes with, on its dry mass: lime putty, a pail of wet base. Densities and doses count it dry."""
    pack_word: str = "bag"
    bulking: BulkingGrade = "none"
    sand_share: float = Field(1.0, gt=0, le=1)
    """How much of it is sand [-], by mass: ballast bulks by that and holds its water there."""
    bagged_dry: bool = False
    """A sand that comes kiln-dried in bags."""
    spread: bool = False
    """A plaster that is spread on a wall: nobody weighs its cast."""
    heat_kj_kg: float = Field(133.0, ge=50, le=200)
    """Heat of setting of a plaster: 133 of beta, 118 of alpha hemihydrate, from memory."""
    packs: tuple[Pack, ...] = ()
    source: Words
