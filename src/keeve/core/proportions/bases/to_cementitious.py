"""Mixes stated as ratios on the cementitious: w/cm, sand to cementitious, powders in percent."""

from typing import ClassVar, Final, Literal

from pydantic import Field, model_validator

from keeve.core.materials.material import Material
from keeve.core.measure import quantities
from keeve.core.measure.units import WATER_KG_M3
from keeve.core.message.errors import Code, Fault, Frozen, MixError
from keeve.core.message.said import WHOLE, Amount, Said, mark, percent
from keeve.core.message.working import Given, Working
from keeve.core.proportions.asked import Asked, AskedList
from keeve.core.proportions.base import WATER_LABELS, Basis, Constituent, Proportions, WaterWindow, part_given

DRIEST: Final = 0.20
WETTEST: Final = 1.50
"""w/cm outside these is asked about: common practice, no source."""


class ShareOf(Frozen):
    """A material and its share of the cementitious, by mass."""

    material: Material
    ratio: quantities.Ratio


class Ratios(Basis):
    """Everything by mass on the cementitious; the air may be designed voids."""

    states_ratio: ClassVar[bool] = True
    basis: Literal["ratios"] = "ratios"
    water_fields: ClassVar[tuple[str, str, str] | None] = ("water_target", "water_low", "water_high")
    cementitious: tuple[ShareOf, ...] = Field(min_length=1)
    """Shares that add up to one."""
    others: tuple[ShareOf, ...] = ()
    """Aggregates and powders, each as a ratio to the cementitious."""
    water_low: quantities.Ratio
    water_target: quantities.Ratio
    water_high: quantities.Ratio
    """w/cm."""
    air_percent: quantities.Air

    @model_validator(mode="after")
    def _makes_sense(self) -> "Ratios":
        total = sum(share.ratio for share in self.cementitious)
        if abs(total - 1) > 1e-6:
            raise MixError(
                Fault(
                    Code.OUT_OF_RANGE,
                    Said(
                        "The shares of the cementitious add up to {total}, not 100 %.",
                        total=percent(round(total * 100, 1)),
                    ),
                    "Let what is left be Portland cement.",
                    field="cementitious",
                    value=total,
                    limit=1.0,
                )
            )
        if not DRIEST <= self.water_target <= WETTEST:
            raise MixError(
                Fault(
                    Code.OUT_OF_RANGE,
                    Said(
                        "A water to cementitious ratio of {ratio} is outside {low} to {high}.",
                        ratio=Amount(self.water_target, "ratio"),
                        low=Amount(DRIEST, ""),
                        high=Amount(WETTEST, ""),
                    ),
                    "Check whether water and cementitious were exchanged.",
                    field="water_target",
                    value=self.water_target,
                    limit=DRIEST if self.water_target < DRIEST else WETTEST,
                )
            )
        return self

    def materials(self) -> tuple[Material, ...]:
        """Return the dry materials."""
        return tuple(share.material for share in (*self.cementitious, *self.others))

    def asked(self) -> tuple[Asked | AskedList, ...]:
        """List what a person may set, in the order a form shows it."""
        low, _, high = WATER_LABELS
        to = mark("to the cementitious")
        return (
            AskedList("cementitious", "ratio", "Shares of the cementitious; together they make 1.", "Share"),
            AskedList("others", "ratio", "The rest, as a ratio to the cementitious.", "Ratio"),
            Asked("water_low", low, hint=to, job=False),
            Asked("water_target", "Water to cementitious"),
            Asked("water_high", high, hint=to, job=False),
            Asked("air_percent", "Air or voids", "%"),
        )

    def proportions(self) -> Proportions:
        """Reduce the ratios to masses per cubic metre.

        Returns
        -------
        proportions that fill one cubic metre

        Notes
        -----
        c = (1 − v) / (Σ sᵢ/ρᵢ + Σ rⱼ/ρⱼ + (w/cm)/1000), v the air or the designed voids.

        References
        ----------
        Absolute volumes; for pervious concrete by designed voids: common practice, no source.
        """
        air = self.air_percent / 100
        shares = (*self.cementitious, *self.others)
        room = sum(s.ratio / s.material.particle_density_kg_m3 for s in shares) + self.water_target / WATER_KG_M3
        cementitious = (1 - air) / room
        window = WaterWindow(self.water_low, self.water_target, self.water_high)
        working = Working(
            figure=Said("Cementitious in {where}", where=WHOLE),
            formula="(1 − air) / (Σ ratio/ρ + (w/cm)/1000)",
            given=(
                *(g for s in shares for g in part_given(mark("{material}, to cementitious"), s.material, s.ratio)),
                Given("w/cm", self.water_target, ""),
                Given("air or voids", self.air_percent, "%"),
            ),
            result=cementitious,
            unit="kg in 1 m³",
            source="absolute volumes, plain arithmetic",
        )
        return Proportions(
            constituents=tuple(Constituent(s.material, s.ratio * cementitious) for s in shares),
            water=window.times(cementitious),
            air=air,
            workings=(working,),
        )
