"""Hemp-lime: hemp, binder and sand by mass, the volume from the hemp that a placed cubic metre holds."""

from collections.abc import Mapping
from typing import Any, ClassVar, Literal

from pydantic import Field

from keeve.core.materials.material import Material
from keeve.core.measure import quantities
from keeve.core.measure.units import WATER_KG_M3
from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import WHOLE, Said, mark
from keeve.core.message.working import PRACTICE, Given, Working
from keeve.core.proportions.asked import Asked, AskedList
from keeve.core.proportions.base import WATER_LABELS, Basis, Constituent, Proportions, WaterWindow


class BioAggregate(Basis):
    """Hemp : binder : sand by mass, placed and tamped."""

    basis: Literal["bio-aggregate"] = "bio-aggregate"
    by_dry_mass: ClassVar[bool] = True
    claims_yield: ClassVar[bool] = True
    water_fields: ClassVar[tuple[str, str, str] | None] = ("water_target", "water_low", "water_high")
    hemp: Material
    binder: Material
    sand: Material | None = None
    binder_to_hemp: quantities.Ratio = Field(le=5)
    sand_to_hemp: quantities.NoneOrSome = Field(0.0, le=5)
    placed_kg_m3: quantities.Density = Field(110, ge=60, le=200)
    """Hemp in a cubic metre of placed wall; learned from the first measured lift."""
    water_low: quantities.Ratio
    water_target: quantities.Ratio
    water_high: quantities.Ratio
    """Total water per kg of hemp and binder together."""

    def materials(self) -> tuple[Material, ...]:
        """Return the dry materials."""
        return (self.binder, self.hemp, *((self.sand,) if self.sand else ()))

    def asked(self) -> tuple[Asked | AskedList, ...]:
        """List what a person may set, in the order a form shows it."""
        low, target, high = WATER_LABELS
        by_mass, to = mark("by mass"), mark("to hemp and binder")
        return (
            Asked("binder_to_hemp", "Binder to 1 of hemp", hint=by_mass, job=False),
            Asked("sand_to_hemp", "Sand to 1 of hemp", hint=by_mass, job=False),
            Asked("placed_kg_m3", "Hemp in the wall as placed", "density", "From a measured lift."),
            Asked("water_low", low, hint=to, job=False),
            Asked("water_target", target, hint=to, job=False),
            Asked("water_high", high, hint=to, job=False),
        )

    def yielding(self, share: float, typed: Mapping[str, Any]) -> Basis:
        """Return the wall as one in which the hemp makes so many times the volume [-]: it is placed so much looser."""
        return self if "placed_kg_m3" in typed else self.model_copy(update={"placed_kg_m3": self.placed_kg_m3 / share})

    def proportions(self) -> Proportions:
        """Reduce the parts to masses per placed cubic metre.

        Returns
        -------
        proportions whose air is the room between and inside the shiv that water leaves empty

        Raises
        ------
        MixError : hemp, binder, sand and water do not fit into a cubic metre

        Notes
        -----
        Placed volume = hemp mass ÷ hemp per m³ placed; it is not found from solids. The particle density of
        the shiv's walls only serves to tell the voids that remain.

        References
        ----------
        Common practice, no source.
        """
        hemp = self.placed_kg_m3
        parts = [Constituent(self.binder, hemp * self.binder_to_hemp), Constituent(self.hemp, hemp)]
        if self.sand and self.sand_to_hemp > 0:
            parts.append(Constituent(self.sand, hemp * self.sand_to_hemp))
        base = hemp * (1 + self.binder_to_hemp)
        water = WaterWindow(self.water_low, self.water_target, self.water_high).times(base)
        air = 1 - sum(p.solid_m3 for p in parts) - water.target / WATER_KG_M3
        if air < 0:
            raise MixError(
                Fault(
                    Code.DOES_NOT_FIT,
                    "So much binder, sand and water does not fit between that much hemp.",
                    "Check the hemp in a placed cubic metre: usual are 90 to 130 kg.",
                    field="placed_kg_m3",
                    value=self.placed_kg_m3,
                )
            )
        working = Working(
            figure=Said("Hemp in {where} as placed", where=WHOLE),
            formula="as placed; binder and sand in proportion to it",
            given=(
                Given(Said("hemp in {where} as placed", where=WHOLE), hemp, "kg in 1 m³"),
                Given("binder to hemp", self.binder_to_hemp, ""),
                Given("sand to hemp", self.sand_to_hemp, ""),
                Given("water to hemp and binder", self.water_target, ""),
            ),
            result=hemp,
            unit="kg in 1 m³",
            source=PRACTICE,
        )
        return Proportions(constituents=tuple(parts), water=water, air=air, workings=(working,))
