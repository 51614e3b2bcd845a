"""Kits: fixed parts of packs that only work together, and the water for one of them."""

from typing import Literal

from pydantic import Field, model_validator

from keeve.core.errors import Frozen
from keeve.core.material import Material
from keeve.core.proportions.base import Constituent, Proportions, WaterWindow, refuse_unordered
from keeve.core.units import WATER_KG_M3
from keeve.core.working import Given, Working


class KitPart(Frozen):
    """One pack of a kit."""

    material: Material
    mass_kg: float = Field(gt=0, le=1000)


class Kit(Frozen):
    """A kit with its water; the volume follows from solids, water and air."""

    basis: Literal["kit"] = "kit"
    parts: tuple[KitPart, ...] = Field(min_length=2)
    """The pack that is counted comes first."""
    water_low_l: float = Field(gt=0)
    water_target_l: float = Field(gt=0)
    water_high_l: float = Field(gt=0)
    air_percent: float = Field(ge=0, le=30)

    @model_validator(mode="after")
    def _water_in_order(self) -> "Kit":
        refuse_unordered(self.water_low_l, self.water_target_l, self.water_high_l, "kit")
        return self

    @property
    def bag_kg(self) -> float:
        """Mass of the pack that is counted [kg]."""
        return self.parts[0].mass_kg

    def materials(self) -> tuple[Material, ...]:
        """Return the dry materials."""
        return tuple(p.material for p in self.parts)

    def kit_l(self) -> float:
        """Fresh volume of one kit [L]. Absolute volumes, plain arithmetic."""
        solid_m3 = sum(p.mass_kg / p.material.particle_density_kg_m3 for p in self.parts)
        return (solid_m3 * 1000 + self.water_target_l * 1000 / WATER_KG_M3) / (1 - self.air_percent / 100)

    def proportions(self) -> Proportions:
        """Reduce the kit to masses per cubic metre.

        Returns
        -------
        proportions that fill one cubic metre

        Notes
        -----
        Masses ÷ kit yield; the yield from Σ m/ρ + water and the air.

        References
        ----------
        Absolute volumes, plain arithmetic.
        """
        kits_m3 = 1000 / self.kit_l()
        working = Working(
            figure="Kits in 1 m³",
            formula="1000 / ((Σ m/ρ + water) / (1 − air))",
            given=(
                *(Given(p.material.name, p.mass_kg, "kg") for p in self.parts),
                Given("water", self.water_target_l, "L"),
                Given("air", self.air_percent, "%"),
            ),
            result=kits_m3,
            unit="kits",
            source="absolute volumes, plain arithmetic",
        )
        return Proportions(
            constituents=tuple(Constituent(p.material, p.mass_kg * kits_m3) for p in self.parts),
            water=WaterWindow(self.water_low_l, self.water_target_l, self.water_high_l).times(kits_m3),
            air=self.air_percent / 100,
            workings=(working,),
        )
