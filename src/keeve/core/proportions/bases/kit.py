"""Kits: fixed parts of packs that only work together, and the water for one of them."""

from typing import ClassVar, Final, Literal

from pydantic import Field, model_validator

from keeve.core.materials.material import Material
from keeve.core.measure import quantities
from keeve.core.measure.units import WATER_KG_M3
from keeve.core.message.errors import Frozen
from keeve.core.message.said import WHOLE, Said, mark
from keeve.core.message.working import Given, Working
from keeve.core.proportions.asked import Asked, AskedList
from keeve.core.proportions.base import (
    WATER_LABELS,
    Basis,
    Constituent,
    Divide,
    Proportions,
    WaterWindow,
    part_given,
    refuse_unordered,
)

_HALVES: Final = (("true", mark("may be mixed")), ("false", mark("never")))


class KitPart(Frozen):
    """One pack of a kit."""

    material: Material
    mass_kg: quantities.Mass = Field(le=1000)
    """As it is sold, with the water it holds."""

    @property
    def dry_kg(self) -> float:
        """Dry mass of the pack [kg]."""
        return self.mass_kg / (1 + self.material.held_water_percent / 100)


class Kit(Basis):
    """A kit with its water; the volume follows from solids, water and air."""

    basis: Literal["kit"] = "kit"
    water_fields: ClassVar[tuple[str, str, str] | None] = ("water_target_l", "water_low_l", "water_high_l")
    parts: tuple[KitPart, ...] = Field(min_length=2)
    """The pack that is counted comes first."""
    water_low_l: quantities.Volume
    water_target_l: quantities.Volume
    water_high_l: quantities.Volume
    """To add to one kit; what its pails hold comes on top."""
    air_percent: quantities.Air
    halves: bool = True
    """Whether its maker allows a part of it to be mixed."""

    @property
    def divide(self) -> Divide:
        """Whether half a kit may be mixed."""
        return "half" if self.halves else "never"

    @model_validator(mode="after")
    def _water_in_order(self) -> "Kit":
        refuse_unordered(self.water_low_l, self.water_target_l, self.water_high_l)
        return self

    def own_bag_kg(self) -> float:
        """Dry mass of the pack that is counted [kg]."""
        return self.parts[0].dry_kg

    def held_l(self) -> float:
        """Water the packs of one kit hold [L]. Plain arithmetic."""
        return sum(p.mass_kg - p.dry_kg for p in self.parts)

    def materials(self) -> tuple[Material, ...]:
        """Return the dry materials."""
        return tuple(p.material for p in self.parts)

    def asked(self) -> tuple[Asked | AskedList, ...]:
        """List what a person may set, in the order a form shows it."""
        low, target, high = WATER_LABELS
        for_one = mark("for one kit")
        return (
            AskedList("parts", "mass_kg", "Packs of one kit, the one that is counted first.", "Pack holds", "mass"),
            Asked("water_low_l", low, "water", for_one),
            Asked("water_target_l", target, "water", for_one),
            Asked("water_high_l", high, "water", for_one),
            Asked("air_percent", "Air", "%", job=False),
            Asked(
                "halves", "Half a kit", options=(("true", mark("may be mixed")), ("false", mark("never"))), job=False
            ),
        )

    def pack_l(self) -> float:
        """Fresh volume of one kit [L]. Absolute volumes, plain arithmetic."""
        solid_l = sum(p.dry_kg / p.material.particle_density_kg_m3 for p in self.parts) * 1000
        water_l = (self.water_target_l + self.held_l()) * 1000 / WATER_KG_M3
        return (solid_l + water_l) / (1 - self.air_percent / 100)

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
        kits_m3, held_l = 1000 / self.pack_l(), self.held_l()
        working = Working(
            figure=Said("Kits in {where}", where=WHOLE),
            formula="1000 / ((Σ m/ρ + water) / (1 − air))",
            given=(
                *(
                    g
                    for p in self.parts
                    for g in (
                        Given(Said("{material}, dry", material=p.material.name), p.dry_kg, "kg"),
                        part_given("{material}", p.material, 0.0)[1],
                    )
                ),
                Given("water to add", self.water_target_l, "L"),
                *((Given("water in the pails", held_l, "L"),) if held_l else ()),
                Given("air", self.air_percent, "%"),
            ),
            result=kits_m3,
            unit="in 1 m³",
            source="absolute volumes, plain arithmetic",
        )
        return Proportions(
            constituents=tuple(Constituent(p.material, p.dry_kg * kits_m3) for p in self.parts),
            water=WaterWindow.of(
                self.water_low_l + held_l, self.water_target_l + held_l, self.water_high_l + held_l
            ).times(kits_m3),
            air=self.air_percent / 100,
            workings=(working,),
        )
