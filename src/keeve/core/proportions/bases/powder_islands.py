"""Plaster by islands: powder scattered on water until it stands dry over part of the surface; no scale."""

from typing import ClassVar, Final, Literal

from pydantic import Field

from keeve.core.materials.material import Material
from keeve.core.measure import quantities
from keeve.core.measure.units import WATER_KG_M3
from keeve.core.message.said import WHOLE, Amount, Said
from keeve.core.message.working import Given, Working
from keeve.core.proportions.asked import Asked, AskedList
from keeve.core.proportions.base import Basis, Constituent, Proportions, WaterWindow

LEAST_COVER: Final = 100 / 3
MOST_COVER: Final = 200 / 3
"""The school's range: islands over one third to two thirds of the surface [%]."""


def islands_water_to_powder(
    cover_percent: float, particle_density_kg_m3: float, sifted_kg_m3: float, settled_kg_m3: float
) -> float:
    """Water ÷ powder of plaster scattered on water until islands cover part of the surface.

    Parameters
    ----------
    cover_percent : share of the surface the dry islands cover [%], 0..100
    particle_density_kg_m3 : of the powder [kg/m³]
    sifted_kg_m3, settled_kg_m3 : bulk density of the powder sifted and settled [kg/m³]

    Returns
    -------
    w/p by mass [kg/kg]

    Notes
    -----
    The powder sinks to a bed whose pores the water fills: w/p = (1/ρ_bed − 1/ρ) ρ_w. The bed is taken as packed
    between sifted (no islands) and settled (islands everywhere), in a straight line: an estimate, told as a range.

    References
    ----------
    Common practice, no source; the packing rule is our own estimate. Weigh one bucket to know your own.

    >>> [round(islands_water_to_powder(c, 2650, 850, 1100), 2) for c in (0, 100 / 3, 50, 200 / 3, 100)]
    [0.8, 0.69, 0.65, 0.61, 0.53]
    """
    bed = sifted_kg_m3 + (settled_kg_m3 - sifted_kg_m3) * cover_percent / 100
    return (1 / bed - 1 / particle_density_kg_m3) * WATER_KG_M3


class PowderIslands(Basis):
    """A powder scattered on its water by eye."""

    basis: Literal["powder by islands"] = "powder by islands"
    weighed: ClassVar[bool] = True
    material: Material
    settled_kg_m3: quantities.Density = Field(1100, ge=500, le=2000)
    """Bulk density of the powder once it has settled in the bag; the material's own is sifted."""
    cover_percent: quantities.Share = Field(50, ge=33, le=67)
    """Share of the surface the dry islands cover when no more powder goes in."""
    air_percent: quantities.Air = Field(1.0, le=10)

    most_water_share: float = Field(1 / 3, gt=0, le=1)
    """How full of water the bucket may be, so that the powder has room."""

    def materials(self) -> tuple[Material, ...]:
        """Return the dry materials."""
        return (self.material,)

    def asked(self) -> tuple[Asked | AskedList, ...]:
        """List what a person may set, in the order a form shows it."""
        return (
            Asked("cover_percent", "Islands cover", "%", "of the surface: a third to two thirds"),
            Asked("settled_kg_m3", "Powder, settled", "density", job=False),
            Asked("air_percent", "Air", "%", job=False),
        )

    def water_share(self) -> float:
        """How full of water the bucket may be before the powder goes in [-]."""
        return self.most_water_share

    def water_to_powder(self, cover_percent: float) -> float:
        """Return w/p [kg/kg] at a cover [%], as `islands_water_to_powder`."""
        sifted = self.material.loose_bulk_kg_m3
        return islands_water_to_powder(
            cover_percent, self.material.particle_density_kg_m3, sifted, max(self.settled_kg_m3, sifted)
        )

    def proportions(self) -> Proportions:
        """Reduce the islands to masses per cubic metre.

        Returns
        -------
        proportions that fill one cubic metre; the window is what the school's range implies

        Notes
        -----
        m_p = (1 − air) / (1/ρ_p + (w/p)/1000), w/p from the islands.

        References
        ----------
        Absolute volumes, plain arithmetic; the islands as in `islands_water_to_powder`.
        """
        air, density = self.air_percent / 100, self.material.particle_density_kg_m3
        ratio = self.water_to_powder(self.cover_percent)
        strong, weak = self.water_to_powder(MOST_COVER), self.water_to_powder(LEAST_COVER)
        powder = (1 - air) / (1 / density + ratio / WATER_KG_M3)
        by_volume = tuple(1 / ratio / (bulk / 1000) for bulk in (self.settled_kg_m3, self.material.loose_bulk_kg_m3))
        working = Working(
            figure=Said("{material} in {where}", material=self.material.name, where=WHOLE),
            formula="(1 − air) / (1/ρ + (w/p)/1000); w/p = 1000/bed − 1000/ρ, bed between sifted and settled",
            given=(
                Given("particle density", density, "kg/m³"),
                Given("islands over", self.cover_percent, "%"),
                Given("w/p from them", ratio, ""),
                Given("w/p at a third, weakest", weak, ""),
                Given("w/p at two thirds, strongest", strong, ""),
                Given("volumes of settled plaster to one of water", by_volume[0], ""),
                Given("volumes of sifted plaster to one of water", by_volume[1], ""),
                Given("air", self.air_percent, "%"),
            ),
            result=powder,
            unit="kg in 1 m³",
            source="common practice, no source; the packing of the sunk powder is an estimate",
        )
        low, high = min(strong, ratio), max(weak, ratio)
        return Proportions(
            constituents=(Constituent(self.material, powder),),
            water=WaterWindow(low, ratio, high).times(powder),
            air=air,
            workings=(working,),
            warnings=(
                Said(
                    "By islands the strength strays: over a third of the water w/p is about {weak}, over two thirds "
                    "about {strong}. One to one by volume would be 0.9 to 1.2. The scale repeats, the eye does not.",
                    weak=Amount(weak, "ratio"),
                    strong=Amount(strong, "ratio"),
                ),
            ),
        )
