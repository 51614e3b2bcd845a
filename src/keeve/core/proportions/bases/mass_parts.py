"""Mixes stated as parts by mass: a bag of cement to a hundred kilos of sand."""

from typing import ClassVar, Literal

from pydantic import Field

from keeve.core.materials.material import Material
from keeve.core.measure import quantities
from keeve.core.message.errors import Frozen
from keeve.core.message.said import WHOLE, Said, mark
from keeve.core.message.working import Given, Working
from keeve.core.proportions.asked import Asked, AskedList
from keeve.core.proportions.base import Basis, Constituent, Part, Proportions, WaterRule, close, part_given


class FibreDose(Frozen):
    """Fibre counted by the cubic metre."""

    material: Material
    kg_m3: quantities.Plain = Field(le=50)


class MassParts(Basis):
    """Parts by dry mass."""

    basis: Literal["mass parts"] = "mass parts"
    water_fields: ClassVar[tuple[str, str, str] | None] = ("water.target", "water.low", "water.high")
    parts: tuple[Part, ...] = Field(min_length=1)
    fibre: FibreDose | None = None
    water: WaterRule
    air_percent: quantities.Air

    def materials(self) -> tuple[Material, ...]:
        """Return the dry materials."""
        found = tuple(p.material for p in self.parts)
        return (*found, self.fibre.material) if self.fibre else found

    def asked(self) -> tuple[Asked | AskedList, ...]:
        """List what a person may set, in the order a form shows it."""
        per_m3 = mark("kg in a cubic metre")
        fibre = (Asked("fibre.kg_m3", self.fibre.material.name, hint=per_m3, job=False),) if self.fibre else ()
        return (
            AskedList("parts", "parts", "Parts by dry mass.", "Parts"),
            *fibre,
            *self.water.asked(),
            Asked("air_percent", "Air", "%", job=False),
        )

    def proportions(self) -> Proportions:
        """Reduce the parts to masses per cubic metre.

        Returns
        -------
        proportions that fill one cubic metre

        Raises
        ------
        MixError : water and air leave no room for solids

        Notes
        -----
        m_i = k part_i, k from Σ m/ρ + m_w/1000 + air = 1. Fibre takes its place out of the air.

        References
        ----------
        Absolute volume method of ACI 211.1-91, from memory.
        """
        air = self.air_percent / 100
        scale, water = close([(p.material, p.parts) for p in self.parts], self.water, air)
        constituents = [Constituent(p.material, p.parts * scale) for p in self.parts]
        if self.fibre:
            fibre = Constituent(self.fibre.material, self.fibre.kg_m3)
            constituents.append(fibre)
            air -= fibre.solid_m3
        working = Working(
            figure=Said("{material} in {where}", material=constituents[0].material.name, where=WHOLE),
            formula="k × part; k from Σ m/ρ + water/1000 + air = 1",
            given=(
                *(g for p in self.parts for g in part_given(mark("{material}, parts by mass"), p.material, p.parts)),
                self.water.given(),
                Given("air", self.air_percent, "%"),
            ),
            result=constituents[0].dry_kg_m3,
            unit="kg in 1 m³",
            source=Said(
                "absolute volume method of ACI 211.1-91, from memory; water: {source}", source=self.water.source
            ),
        )
        return Proportions(constituents=tuple(constituents), water=water, air=air, workings=(working,))
