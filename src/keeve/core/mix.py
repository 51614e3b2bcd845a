"""A mix: what it is for, how it is stated, and all a person needs to know to make it well."""

from typing import Literal

from pydantic import Field

from keeve.core.errors import Frozen
from keeve.core.material import BINDERS, Material
from keeve.core.procedure import Procedure
from keeve.core.proportions import Basis
from keeve.core.units import Mass, Minutes, Waste
from keeve.core.vessels import MixerKind


class Consistency(Frozen):
    """What the mix must be like, in words a person can check with hand, trowel or eye."""

    test: str
    dry: str
    right: str
    wet: str


class Caution(Frozen):
    """Something that hurts people, and what keeps it from doing so."""

    key: str
    sentence: str


class LateWater(Frozen):
    """Whether a mix that has stiffened or is too dry may take water, and one too wet may take dry."""

    allowed: Literal["to the ceiling", "never"]
    too_dry: str
    too_wet: str
    dry_may_be_added: bool
    stiffened: str


class Mix(Frozen):
    """One mix with everything good practice says about it."""

    key: str
    name: str
    use: str
    family: str
    basis: Basis
    pack_kg: Mass | None = Field(None, le=2000)
    """Size of the binder's bag in use."""
    waste_percent: Waste
    working_life_min: Minutes
    consistency: Consistency
    late_water: LateWater
    procedures: dict[MixerKind, Procedure]
    refused: dict[MixerKind, str] = {}
    """Mixers that must not be used, with the reason."""
    cautions: tuple[Caution, ...] = ()
    source: str

    def bagged(self) -> Material:
        """Return the material whose bags decide the loads: the first binder."""
        materials = self.materials()
        return next((m for m in materials if m.role in BINDERS), materials[0])

    def bag_kg(self) -> float | None:
        """Return the mass of one bag of it [kg], if it comes in bags."""
        return getattr(self.basis, "bag_kg", None) or self.pack_kg

    def materials(self) -> tuple[Material, ...]:
        """Return every dry material of the mix."""
        return self.basis.materials()
