"""Plaster by the shop's measure: so many pounds to a quart, with the roundings of the rule laid open."""

from typing import ClassVar, Final, Literal

from pydantic import Field, model_validator

from keeve.core.materials.material import Material
from keeve.core.measure import quantities
from keeve.core.measure.units import GAL_L, LB_KG, WATER_KG_M3, YD3_M3
from keeve.core.message.said import WHOLE, Said, percent
from keeve.core.message.working import Given, Working
from keeve.core.proportions.asked import Asked, AskedList
from keeve.core.proportions.base import Basis, Constituent, Proportions, WaterWindow
from keeve.core.proportions.bases.powder_water import check_water_to_powder

_IN3_L: Final = YD3_M3 * 1000 / 46656
RULE_WATER_KG: Final = 2 * LB_KG
"""What the rule takes a US quart of water to weigh; it is 2.08 lb."""


class PowderShop(Basis):
    """A mass of powder to a jug of water, and the volume the rule says they make."""

    basis: Literal["powder by shop volume"] = "powder by shop volume"
    weighed: ClassVar[bool] = True
    water_fields: ClassVar[tuple[str, str, str] | None] = ("water_l", "", "")
    material: Material
    powder_kg: quantities.Mass = Field(le=100)
    water_l: quantities.Volume = Field(le=100)
    rule_yield_l: quantities.Volume = Field(le=200)
    """What the rule says the two make: 80 in³ to the quart of water."""
    spread: quantities.NoneOrSome = Field(0.03, le=0.1)
    """How far w/p may stray to either side."""
    air_percent: quantities.Air = Field(1.0, le=10)

    @model_validator(mode="after")
    def _can_be_mixed(self) -> "PowderShop":
        check_water_to_powder(self.water_to_powder)
        return self

    @property
    def water_to_powder(self) -> float:
        """Water ÷ powder by mass [kg/kg]."""
        return self.water_l * WATER_KG_M3 / 1000 / self.powder_kg

    def materials(self) -> tuple[Material, ...]:
        """Return the dry materials."""
        return (self.material,)

    def asked(self) -> tuple[Asked | AskedList, ...]:
        """List what a person may set, in the order a form shows it."""
        return (
            Asked("powder_kg", "Powder", "mass"),
            Asked("water_l", "to water", "water"),
            Asked("rule_yield_l", "The rule says it makes", "water", job=False),
            Asked("air_percent", "Air", "%", job=False),
        )

    def made_l(self) -> float:
        """Fresh volume of one jug's worth [L]. Absolute volumes, plain arithmetic."""
        solid_l = self.powder_kg / self.material.particle_density_kg_m3 * 1000
        return (solid_l + self.water_l) / (1 - self.air_percent / 100)

    def proportions(self) -> Proportions:
        """Reduce the rule to masses per cubic metre, by what it really makes.

        Returns
        -------
        proportions that fill one cubic metre

        Notes
        -----
        m_p = powder / volume made; the rule's own yield is not used, it hides an allowance.

        References
        ----------
        Absolute volumes, plain arithmetic. 80 in³ to the quart and 2 lb to the quart: common practice, no source.
        """
        made, ratio = self.made_l(), self.water_to_powder
        hidden = (made / self.rule_yield_l - 1) * 100
        powder = self.powder_kg / made * 1000
        workings = (
            Working(
                figure=Said("{material} in {where}", material=self.material.name, where=WHOLE),
                formula="powder / ((powder/ρ + water) / (1 − air))",
                given=(
                    Given("powder", self.powder_kg, "kg"),
                    Given("water", self.water_l, "L"),
                    Given("particle density", self.material.particle_density_kg_m3, "kg/m³"),
                    Given("air", self.air_percent, "%"),
                ),
                result=powder,
                unit="kg in 1 m³",
                source="absolute volumes, plain arithmetic",
            ),
            self._rounded(made, ratio, hidden),
        )
        return Proportions(
            constituents=(Constituent(self.material, powder),),
            water=WaterWindow(ratio - self.spread, ratio, ratio + self.spread).times(powder),
            air=self.air_percent / 100,
            workings=workings,
            warnings=(
                Said(
                    "The shop's rule hides {spare} of spare in its yield. Here the true volume counts: the waste "
                    "allowance is the only spare.",
                    spare=percent(round(hidden)),
                ),
            )
            if hidden >= 1
            else (),
        )

    def _rounded(self, made: float, ratio: float, hidden: float) -> Working:
        """Lay the roundings of the rule open."""
        quarts = self.water_l / (GAL_L / 4)
        return Working(
            figure="What the rule rounds",
            formula="made / rule's yield − 1; w/p as weighed, and with 2 lb to the quart",
            given=(
                Given("made, by solids and air", made, "L"),
                Given("the rule's yield", self.rule_yield_l, "L"),
                Given("made, cubic inches to the quart", made / _IN3_L / quarts, ""),
                Given("w/p as weighed", ratio, ""),
                Given("w/p if a quart weighed 2 lb", RULE_WATER_KG * quarts / self.powder_kg, ""),
            ),
            result=hidden,
            unit="%",
            source="plain arithmetic; 80 in³ and 2 lb to the quart: common practice, no source",
        )
