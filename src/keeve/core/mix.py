"""A mix: what it is for, how it is stated, and all a person needs to know to make it well."""

from typing import Literal

from pydantic import Field

from keeve.core.errors import Frozen
from keeve.core.material import BINDERS, Material
from keeve.core.procedure import Procedure
from keeve.core.proportions import AnyBasis
from keeve.core.quantities import Mass, Minutes, Temperature, Waste
from keeve.core.said import Words
from keeve.core.standard import Standard
from keeve.core.vessels import MixerKind


class Consistency(Frozen):
    """What the mix must be like, in words a person can check with hand, trowel or eye."""

    test: Words
    dry: Words
    right: Words
    wet: Words


class Caution(Frozen):
    """Something that hurts people, and what keeps it from doing so."""

    key: str
    sentence: Words


class LateWater(Frozen):
    """Whether a mix that has stiffened or is too dry may take water, and one too wet may take dry."""

    allowed: Literal["to the ceiling", "never"]
    too_dry: Words
    too_wet: Words
    dry_may_be_added: bool
    stiffened: Words


class Temperatures(Frozen):
    """Between which temperatures of air and ground the work may be done."""

    low_c: Temperature = Field(ge=-10, le=30)
    high_c: Temperature = Field(ge=10, le=60)
    sentence: Words
    source: Words


class Target(Frozen):
    """What a measured consistency should come to, for one use."""

    use: Words
    measure: Literal["slump", "slump flow", "flow", "density"]
    low: float
    high: float
    unit: Literal["mm", "%", "kg/m³"]
    source: Words


class School(Frozen):
    """A question good practitioners answer differently, with the answer Keeve starts from."""

    question: Words
    ways: tuple[Words, ...] = Field(min_length=2)
    default: Words
    why: Words


class MixingTime(Frozen):
    """How long a mixer may turn, counted after the last constituent."""

    low_min: float = Field(gt=0, le=120)
    high_min: float = Field(gt=0, le=120)
    source: Words


class Mix(Frozen):
    """One mix with everything good practice says about it."""

    key: str
    name: Words
    use: Words
    family: str
    basis: AnyBasis
    pack_kg: Mass | None = Field(None, le=2000)
    """Size of the binder's bag in use."""
    waste_percent: Waste
    working_life_min: Minutes
    consistency: Consistency
    late_water: LateWater
    procedures: dict[MixerKind, Procedure]
    refused: dict[MixerKind, Words] = {}
    """Mixers that must not be used, with the reason."""
    cautions: tuple[Caution, ...] = ()
    temperatures: Temperatures | None = None
    targets: tuple[Target, ...] = ()
    mixing_times: dict[MixerKind, MixingTime] = {}
    schools: tuple[School, ...] = ()
    other_late_water: dict[str, LateWater] = {}
    """The rule of other schools about water after mixing, by what the school says."""
    standard: Standard | None = None
    """The row of a standard's proportion table it keeps to."""
    source: Words

    def bagged(self) -> Material:
        """Return the material whose bags decide the loads: the first binder."""
        materials = self.materials()
        return next((m for m in materials if m.role in BINDERS), materials[0])

    def bag_kg(self) -> float | None:
        """Return the mass of one bag of it [kg], if it comes in bags."""
        return self.basis.own_bag_kg() or self.pack_kg

    def materials(self) -> tuple[Material, ...]:
        """Return every dry material of the mix."""
        return self.basis.materials()
