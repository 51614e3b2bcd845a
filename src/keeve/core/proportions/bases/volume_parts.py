"""Mixes stated as parts by volume: one shovel of this to three of that."""

from typing import ClassVar, Literal

from pydantic import Field

from keeve.core.materials.material import Material
from keeve.core.measure import quantities
from keeve.core.message.said import WHOLE, Said, mark
from keeve.core.message.working import Given, Working
from keeve.core.proportions.asked import Asked, AskedList
from keeve.core.proportions.base import Basis, Constituent, Part, Proportions, WaterRule, close, part_given


class VolumeParts(Basis):
    """Parts by volume, with the state of the sand and the weight of a gauge of cement said."""

    by_volume: ClassVar[bool] = True
    basis: Literal["volume parts"] = "volume parts"
    water_fields: ClassVar[tuple[str, str, str] | None] = ("water.target", "water.low", "water.high")
    parts: tuple[Part, ...] = Field(min_length=1)
    sand_state: Literal["damp loose", "dry loose"]
    cement_bulk_kg_m3: quantities.Density | None = Field(None, ge=800, le=1700)
    """Mass of a cubic metre of cement as gauged; empty takes the material's own."""
    water: WaterRule
    air_percent: quantities.Air

    def materials(self) -> tuple[Material, ...]:
        """Return the dry materials."""
        return tuple(p.material for p in self.parts)

    def asked(self) -> tuple[Asked | AskedList, ...]:
        """List what a person may set, in the order a form shows it."""
        states = (("damp loose", mark("damp, as it lies")), ("dry loose", mark("dry: damp gets more")))
        settled = ("1506", mark("settled: 94 lb to the ft³"))
        bulks = (settled, ("1440", mark("usual: 50 kg to 34.7 L")), ("1000", mark("fluffy, just poured")))
        gauged = mark("Cement in the gauge")
        gauge = (
            Asked("cement_bulk_kg_m3", gauged, options=bulks, own=False),
            Asked("cement_bulk_kg_m3", gauged, "density", "Empty: as its material says.", job=False),
        )
        return (
            AskedList("parts", "parts", "Parts by volume, level gauges.", "Parts"),
            Asked("sand_state", "The parts of sand are", options=states),
            *(gauge if any(m.role == "cement" for m in self.materials()) else ()),
            *self.water.asked(),
            Asked("air_percent", "Air", "%", job=False),
        )

    def sand_as(self) -> str:
        """Say how parts of sand by volume are meant."""
        return self.sand_state

    def parts_by_volume(self) -> tuple[Part, ...]:
        """Return its parts."""
        return self.parts

    def proportions(self) -> Proportions:
        """Reduce the parts to masses per cubic metre.

        Returns
        -------
        proportions that fill one cubic metre

        Raises
        ------
        MixError : the water and air alone leave no room for solids

        Notes
        -----
        m_i = k part_i ρ_bulk,i with k such that Σ m_i/ρ_i + m_w/1000 + air = 1. Water in proportion to the
        solids scales with k; water per cubic metre does not.

        References
        ----------
        Absolute volume method of ACI 211.1-91, from memory.
        """
        bulk = [self._bulk_kg_m3(p.material) for p in self.parts]
        masses = [p.parts * b for p, b in zip(self.parts, bulk, strict=True)]
        air = self.air_percent / 100
        scale, water = close([(p.material, m) for p, m in zip(self.parts, masses, strict=True)], self.water, air)
        constituents = tuple(
            Constituent(p.material, m * scale, self._damp(p.material), b)
            for p, m, b in zip(self.parts, masses, bulk, strict=True)
        )
        return Proportions(
            constituents=constituents, water=water, air=air, workings=(self._working(bulk, constituents),)
        )

    def _damp(self, material: Material) -> float | None:
        return material.damp_loose_kg_m3 if self.sand_state == "damp loose" else None

    def _bulk_kg_m3(self, material: Material) -> float:
        if material.role == "cement" and self.cement_bulk_kg_m3 is not None:
            return self.cement_bulk_kg_m3
        return self._damp(material) or material.loose_bulk_kg_m3

    def _working(self, bulk: list[float], constituents: tuple[Constituent, ...]) -> Working:
        given: list[Given] = []
        for part, kg_m3 in zip(self.parts, bulk, strict=True):
            given += part_given(mark("{material}, parts"), part.material, part.parts)
            given.append(Given(Said("{material}, mass of a gauge", material=part.material.name), kg_m3, "kg/m³"))
        given.append(self.water.given())
        given.append(Given("air", self.air_percent, "%"))
        return Working(
            figure=Said("{material} in {where}", material=constituents[0].material.name, where=WHOLE),
            formula="k × part × bulk density; k from Σ m/ρ + water/1000 + air = 1",
            given=tuple(given),
            result=constituents[0].dry_kg_m3,
            unit="kg in 1 m³",
            source=Said(
                "absolute volume method of ACI 211.1-91, from memory; water: {source}", source=self.water.source
            ),
        )
