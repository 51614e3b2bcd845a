"""Mixes that come complete in a bag: only water is added."""

from collections.abc import Mapping
from typing import Any, ClassVar, Final, Literal

from pydantic import TypeAdapter, ValidationError, model_validator

from keeve.core.materials.material import Material
from keeve.core.measure.quantities import Mass, Volume
from keeve.core.measure.units import WATER_KG_M3
from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import WHOLE, Said, mark, measured
from keeve.core.message.working import Given, Working
from keeve.core.proportions.asked import Asked, AskedList
from keeve.core.proportions.base import (
    WATER_LABELS,
    Basis,
    Constituent,
    Divide,
    Proportions,
    WaterWindow,
    refuse_unordered,
)

LEAST_AIR: Final = -0.05
"""Below this no rounding on a label explains the yield."""


_LITRES: Final[TypeAdapter[float]] = TypeAdapter(Volume)


class PremixBag(Basis):
    """A bag as its label states it."""

    basis: Literal["premix bag"] = "premix bag"
    judged: ClassVar[bool] = False
    claims_yield: ClassVar[bool] = True
    water_fields: ClassVar[tuple[str, str, str] | None] = ("water_target_l", "water_low_l", "water_high_l")
    material: Material
    bag_kg: Mass
    yield_l: Volume
    """Fresh volume of one bag at the target water."""
    water_low_l: Volume
    water_target_l: Volume
    water_high_l: Volume

    @property
    def divide(self) -> Divide:
        """A premix settles in its bag: it stays whole where it fits."""
        return "whole"

    @model_validator(mode="after")
    def _label_makes_sense(self) -> "PremixBag":
        refuse_unordered(self.water_low_l, self.water_target_l, self.water_high_l)
        air = self._air()
        if air < LEAST_AIR:
            raise MixError(
                Fault(
                    Code.OUT_OF_RANGE,
                    measured(
                        "Powder and water alone fill {value}, the label's yield is {limit}.",
                        self.yield_l * (1 - air),
                        self.yield_l,
                        "L",
                    ),
                    "Check the bag's mass, its yield and its water.",
                    field="yield_l",
                    value=self.yield_l * (1 - air),
                    limit=self.yield_l,
                    unit="L",
                )
            )
        return self

    def _air(self) -> float:
        """Air that the label's yield leaves at the target water [m³/m³]."""
        solid_l = self.bag_kg / self.material.particle_density_kg_m3 * 1000
        return 1 - (solid_l + self.water_target_l * 1000 / WATER_KG_M3) / self.yield_l

    def materials(self) -> tuple[Material, ...]:
        """Return the dry materials."""
        return (self.material,)

    def asked(self) -> tuple[Asked | AskedList, ...]:
        """List what a person may set, in the order a form shows it."""
        low, target, high = WATER_LABELS
        return (
            Asked("bag_kg", "Bag holds", "mass"),
            Asked("yield_l", "One bag makes", "yield"),
            Asked("water_low_l", low, "water"),
            Asked("water_target_l", target, "water"),
            Asked("water_high_l", high, "water"),
        )

    def understood(self, typed: dict[str, Any]) -> dict[str, Any]:
        """Let the yield follow: with other water than the label's the bag makes so much more, or less."""
        if "water_target_l" not in typed or "yield_l" in typed:
            return typed
        try:
            return typed | {
                "yield_l": self.yield_l + _LITRES.validate_python(typed["water_target_l"]) - self.water_target_l
            }
        except ValidationError:
            return typed  # it is refused where it stands

    def yielding(self, share: float, typed: Mapping[str, Any]) -> Basis:
        """Return the bag as one that makes so many times its label's volume [-]."""
        return self if "yield_l" in typed else self.model_copy(update={"yield_l": self.yield_l * share})

    def own_bag_kg(self) -> float:
        """Mass of the bag [kg]."""
        return self.bag_kg

    def pack_l(self) -> float:
        """Fresh volume of one bag [L]."""
        return self.yield_l

    def proportions(self) -> Proportions:
        """Reduce the label to masses per cubic metre.

        Returns
        -------
        proportions that fill one cubic metre; the air is what the label's yield leaves

        Notes
        -----
        m = bag / yield; air = 1 − m/ρ − m_w/1000.

        References
        ----------
        Plain arithmetic.
        """
        bags_m3 = 1000 / self.yield_l
        dry = self.bag_kg * bags_m3
        water = WaterWindow.of(self.water_low_l, self.water_target_l, self.water_high_l).times(bags_m3)
        air = self._air()
        warnings = (mark("The label's yield leaves no room for air: expect a little more mix."),) if air < 0 else ()
        working = Working(
            figure=Said("Bags in {where}", where=WHOLE),
            formula="1000 / yield",
            given=(Given("yield of a bag", self.yield_l, "L"), Given("bag", self.bag_kg, "kg")),
            result=bags_m3,
            unit="in 1 m³",
            source="plain arithmetic; yield by the bag's label",
        )
        return Proportions(
            constituents=(Constituent(self.material, dry),),
            water=water,
            air=air,
            workings=(working,),
            warnings=warnings,
        )
