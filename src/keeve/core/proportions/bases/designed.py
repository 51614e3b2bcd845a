"""Designed concrete: strength, slump, stone and exposure become masses by the method of ACI 211.1."""

import math
from typing import Any, ClassVar, Final, Literal

from pydantic import Field, model_validator

from keeve.core.materials.material import Material
from keeve.core.measure import quantities
from keeve.core.measure.units import WATER_KG_M3
from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import Amount, Said, Words, mark
from keeve.core.message.said import percent as percent_of
from keeve.core.message.working import Given, Working
from keeve.core.proportions import aci_tables as tables
from keeve.core.proportions.aim import EN_CLASSES, EN_MARGIN_MPA, required_mean_mpa, trial_water_kg_m3
from keeve.core.proportions.asked import Asked, AskedList
from keeve.core.proportions.base import Basis, Constituent, Proportions, WaterWindow
from keeve.core.proportions.designed_asked import ASKED

StoneShape = Literal["crushed", "sub-angular", "part crushed", "rounded"]
Attack = Literal["none", "sulfate or seawater"]

# Less water for rounder stone, kg/m³: PCA, from memory.
SHAPE_WATER_KG: Final[dict[StoneShape, float]] = {"crushed": 0, "sub-angular": -12, "part crushed": -21, "rounded": -27}
# Highest water-cement ratio under severe exposure, thin section and other: ACI 211.1-91 table 6.3.4(b), from memory.
CAP_SEVERE: Final = (0.45, 0.50)
CAP_ATTACK: Final = (0.40, 0.45)
MOST_SUPPLEMENT: Final = 0.8
"""Of the cementitious: what is left must still be cement. Common practice, no source."""


class Designed(Basis):
    """What the concrete must do, and what it is made of."""

    designs_water: ClassVar[bool] = True
    states_ratio: ClassVar[bool] = True
    basis: Literal["designed"] = "designed"
    cement: Material
    sand: Material
    stone: Material
    mean_mpa: quantities.Strength | None = None
    """Mean cylinder strength at 28 days; empty follows from the specified one."""
    specified_mpa: quantities.Strength | None = None
    """Specified cylinder strength, for want of a test record."""
    slump_mm: quantities.Length = Field(le=400)
    stone_mm: quantities.Length = Field(le=500)
    fineness_modulus: quantities.Plain = Field(le=10)
    rodded_kg_m3: quantities.Density = Field(1600, ge=1000, le=2200)
    """Dry-rodded bulk density of the stone."""
    air_entrained: bool = False
    exposure: tables.Exposure = "none"
    thin_section: bool = False
    attack: Attack = "none"
    stone_shape: StoneShape = "crushed"
    coarse_change_percent: float = Field(0.0, ge=-10, le=10)
    """− 10 for concrete that is pumped, + 10 for pavement."""
    trial_slump_mm: quantities.Length | None = Field(None, le=400)
    """Slump a trial load really had; the water is corrected by it, w/c held."""
    trial_air_percent: quantities.Air | None = None
    """Air a trial load really had."""
    trial_fresh_kg_m3: quantities.Density | None = Field(None, ge=1800, le=2800)
    """Fresh density a trial load of this design really had; its yield corrects water and stone."""
    sand_by: Literal["absolute volume", "fresh density"] = "absolute volume"
    spread_kg_m3: float = Field(12, ge=0, le=30)
    """How much less water may do: about 50 mm of slump. More than designed is never proposed."""
    en_class: str = ""
    """Strength class of EN 206; the mean follows."""
    en_margin_mpa: quantities.Strength = Field(EN_MARGIN_MPA, ge=6, le=12)
    given_ratio: quantities.Ratio | None = None
    """Water to cementitious from somebody's own sheet, in the place of the tables; so are the other figures given."""
    given_water_kg_m3: quantities.PerVolume | None = None
    given_air_percent: quantities.Air | None = None
    given_cementitious_kg_m3: quantities.PerVolume | None = None
    given_stone_bulk: quantities.Ratio | None = Field(None, ge=0.2, le=0.95)
    """Dry-rodded volume of the stone in a whole of concrete [-]."""
    fume: Material | None = None
    fume_percent: quantities.ShareOrNone = Field(0.0, le=20)
    ash: Material | None = None
    ash_percent: quantities.ShareOrNone = Field(0.0, le=60)
    slag: Material | None = None
    slag_percent: quantities.ShareOrNone = Field(0.0, le=80)

    def materials(self) -> tuple[Material, ...]:
        """Return the dry materials."""
        return (self.cement, *(material for material, _ in self._supplements()), self.sand, self.stone)

    def _supplements(self) -> tuple[tuple[Material, float], ...]:
        """Return what takes the place of some cement, with its share of the cementitious [-]."""
        parts = ((self.fume, self.fume_percent), (self.ash, self.ash_percent), (self.slag, self.slag_percent))
        return tuple((material, percent / 100) for material, percent in parts if material is not None and percent > 0)

    @model_validator(mode="after")
    def _can_be_designed(self) -> "Designed":
        self._refuse_contradictions()
        if self.en_class and self.en_class not in EN_CLASSES:
            known = Said("The classes are: {known}.", known=", ".join(EN_CLASSES))
            raise MixError(Fault(Code.UNKNOWN, "There is no such strength class.", known, field="en_class"))
        aims = (self.mean_mpa, self.specified_mpa, self.given_ratio, self.en_class or None)
        if all(aim is None for aim in aims) and None in (self.given_water_kg_m3, self.given_cementitious_kg_m3):
            raise MixError(Fault(Code.MISSING, "How strong must it be?", "Write its mean strength.", field="mean_mpa"))
        if sum(share for _, share in self._supplements()) > MOST_SUPPLEMENT:
            said = Said(
                "More than {most} of the cement would be something else.", most=percent_of(MOST_SUPPLEMENT * 100)
            )
            raise MixError(Fault(Code.OUT_OF_RANGE, said, "Take less fume, ash or slag.", field="slag_percent"))
        return self

    def _refuse_contradictions(self) -> None:
        """Water, cementitious and their ratio: any two say the third."""
        if None not in (self.given_water_kg_m3, self.given_cementitious_kg_m3, self.given_ratio):
            raise MixError(
                Fault(
                    Code.OUT_OF_RANGE,
                    "Water, cementitious and w/c are all given: any two say the third.",
                    "Leave one of them empty.",
                    field="given_ratio",
                )
            )

    def aim_mpa(self) -> float | None:
        """Mean strength to aim at [MPa]: as stated, by class, or by specified strength; None where w/c is given.

        As `required_mean_mpa`; EN 206 annex A for a class, from memory.
        """
        if self.mean_mpa is not None:
            return self.mean_mpa
        if self.en_class:
            return EN_CLASSES[self.en_class] + self.en_margin_mpa
        return None if self.specified_mpa is None else required_mean_mpa(self.specified_mpa)

    def understood(self, typed: dict[str, Any]) -> dict[str, Any]:
        """Let the mean follow from a specified strength or a class that comes without one."""
        aims = [name for name in ("mean_mpa", "en_class", "specified_mpa") if typed.get(name)]
        if not aims or aims[0] == "mean_mpa":
            return typed
        return typed | {"mean_mpa": None}

    def asked(self) -> tuple[Asked | AskedList, ...]:
        """List what a person may set, in the order a form shows it."""
        return ASKED

    def stated_mpa(self) -> float | None:
        """Strength of its class, or the specified one [MPa]."""
        return EN_CLASSES[self.en_class] if self.en_class else self.specified_mpa

    def entrains_air(self) -> bool:
        """Whether air is entrained on purpose."""
        return self.air_entrained

    def cap(self) -> float | None:
        """Highest water-cement ratio the exposure permits [-]. ACI 211.1-91 table 6.3.4(b), from memory."""
        if self.attack != "none":
            return CAP_ATTACK[0 if self.thin_section else 1]
        return CAP_SEVERE[0 if self.thin_section else 1] if self.exposure == "severe" else None

    def proportions(self) -> Proportions:
        """Design the mix, one working for each step of the method.

        Returns
        -------
        proportions per cubic metre; by fresh density the air is what that estimate leaves

        Raises
        ------
        MixError : outside a table, with the bound named; or no room left for sand

        References
        ----------
        ACI 211.1-91, from memory.
        """
        steps: list[Working] = []
        water = self._water(steps)
        air = self._air(steps)
        cementitious = self._cementitious(steps, water)
        stone = self._stone(steps)
        supplements = tuple(Constituent(m, cementitious * share) for m, share in self._supplements())
        cement = Constituent(self.cement, cementitious - math.fsum(c.dry_kg_m3 for c in supplements))
        binders = (cement, *supplements)
        sand, air = self._sand(steps, water, binders, stone, air)
        return Proportions(
            constituents=(*binders, Constituent(self.sand, sand), Constituent(self.stone, stone)),
            water=WaterWindow(max(water - self.spread_kg_m3, 0.0), water, water),
            air=air,
            workings=tuple(steps),
            warnings=self._warnings(water / cementitious, air),
        )

    def _warnings(self, ratio: float, air: float) -> tuple[Words, ...]:
        said: list[Words] = []
        if air < 0:
            said.append(mark("The first estimate of density leaves no room for air: make a trial batch."))
        if self.exposure in ("moderate", "severe") and not self.air_entrained:
            said.append(mark("Frost on wet concrete without entrained air scales and cracks it: entrain air."))
        if self.air_entrained and self.exposure == "none" and self.given_air_percent is None:
            said.append(mark("Air entrained, and no weather named: the air of the mild row is taken."))
        cap = self.cap()
        if cap is not None and ratio > cap + 1e-9:
            said.append(Said("The w/c given is over {cap}, the highest for its exposure.", cap=Amount(cap, "ratio")))
        return tuple(said)

    def _cementitious(self, steps: list[Working], water: float) -> float:
        """Return the cementitious [kg/m³]: as given, or by its ratio to the water."""
        if self.given_cementitious_kg_m3 is not None:
            steps.append(_given("Cementitious", self.given_cementitious_kg_m3, "kg in 1 m³"))
            return self.given_cementitious_kg_m3
        ratio = self._ratio(steps)
        figure = mark("Cementitious") if self._supplements() else mark("Cement")
        given = (Given("water", water, "kg in 1 m³"), Given("w/c", ratio, ""))
        steps.append(_step(figure, "water / (w/c)", given, water / ratio, "kg in 1 m³", "section 6.3.5"))
        return water / ratio

    def _air_row(self) -> tables.Exposure:
        """Row of the table of air: entrained without a weather is the mild one."""
        if not self.air_entrained:
            return "none"
        return "mild" if self.exposure == "none" else self.exposure

    def _water(self, steps: list[Working]) -> float:
        given_water = self.given_water_kg_m3
        if given_water is None and self.given_cementitious_kg_m3 is not None and self.given_ratio is not None:
            given_water = self.given_cementitious_kg_m3 * self.given_ratio
        if given_water is not None:
            steps.append(_given("Mixing water", given_water, "kg in 1 m³"))
            return self._after_trial(steps, given_water)
        table = tables.water_kg_m3(self.slump_mm, self.stone_mm, air_entrained=self.air_entrained)
        water = table + SHAPE_WATER_KG[self.stone_shape]
        given = (
            Given("slump", self.slump_mm, "mm"),
            Given("largest stone", self.stone_mm, "mm"),
            Given("table", table, "kg in 1 m³"),
        )
        shape = (Given("for its shape", water - table, "kg in 1 m³"),) if water != table else ()
        steps.append(_step("Mixing water", "by slump and stone", given + shape, water, "kg in 1 m³", "table 6.3.3"))
        return self._after_trial(steps, water)

    def _trial(self) -> Proportions | None:
        """Return what the trial load held, as it was designed; None where no fresh density was taken of it."""
        if self.trial_fresh_kg_m3 is None:
            return None
        untried = {"trial_slump_mm": None, "trial_air_percent": None, "trial_fresh_kg_m3": None}
        return self.model_copy(update=untried).proportions()

    def _per_whole(self, steps: list[Working], figure: Words, made: Proportions, designed: float) -> float:
        """Bring what the trial held to a whole of what it really made."""
        fresh = self.trial_fresh_kg_m3 or made.fresh_kg_m3
        given = (
            Given("as designed", designed, "kg in 1 m³"),
            Given("all of it, as designed", made.fresh_kg_m3, "kg in 1 m³"),
            Given("fresh density found", fresh, "kg/m³"),
        )
        found = designed * fresh / made.fresh_kg_m3
        formula = mark("as designed × fresh density found / all of it")
        steps.append(_step(figure, formula, given, found, "kg in 1 m³", "section 6.3.9"))
        return found

    def _after_trial(self, steps: list[Working], water: float) -> float:
        made = self._trial()
        if made is not None:
            water = self._per_whole(steps, mark("Water the trial really had"), made, water)
        if self.trial_slump_mm is None and self.trial_air_percent is None:
            return water
        slump = self.slump_mm - (self.slump_mm if self.trial_slump_mm is None else self.trial_slump_mm)
        wanted = self._air_percent()
        air = wanted - (wanted if self.trial_air_percent is None else self.trial_air_percent)
        corrected = trial_water_kg_m3(water, slump, air)
        given = (
            Given("water before", water, "kg in 1 m³"),
            Given("slump more", slump, "mm"),
            Given("air more", air, "%"),
        )
        formula = Said(
            "water + {more} for {slump} of slump − {less} for 1 % of air",
            more=Amount(6.0, "kg in 1 m³"),
            slump=Amount(25.0, "mm"),
            less=Amount(3.0, "kg in 1 m³"),
        )
        steps.append(_step("Water after the trial load", formula, given, corrected, "kg in 1 m³", "section 6.3.9"))
        return corrected

    def _air_percent(self) -> float:
        if self.given_air_percent is not None:
            return self.given_air_percent
        return tables.air_percent(self.stone_mm, self._air_row())

    def _air(self, steps: list[Working]) -> float:
        percent = self._air_percent()
        if self.given_air_percent is not None:
            steps.append(_given("Air", percent, "%"))
            return percent / 100
        steps.append(
            _step(
                "Air",
                Said("by stone, exposure: {exposure}", exposure=self._air_row()),
                (Given("largest stone", self.stone_mm, "mm"),),
                percent,
                "%",
                "table 6.3.3",
            )
        )
        return percent / 100

    def _ratio(self, steps: list[Working]) -> float:
        if self.given_ratio is not None:
            steps.append(_given("w/c", self.given_ratio, ""))
            return self.given_ratio
        aim = self.aim_mpa() or 0.0
        exact = tables.water_cement(aim, air_entrained=self.air_entrained)
        ratio = math.floor(exact * 100 + 1e-9) / 100
        given: tuple[Given, ...] = (Given("mean strength", aim, "MPa"), Given("table", exact, ""))
        cap = self.cap()
        if cap is not None:
            given = (*given, Given("highest for the exposure", cap, ""))
            ratio = min(ratio, cap)
        steps.append(
            _step("w/c", "by strength, rounded down to 0.01, not over the cap", given, ratio, "", "table 6.3.4")
        )
        return ratio

    def _stone(self, steps: list[Working]) -> float:
        stone, made = self._designed_stone(steps), self._trial()
        return stone if made is None else self._per_whole(steps, mark("Stone of the trial"), made, stone)

    def _designed_stone(self, steps: list[Working]) -> float:
        if self.given_stone_bulk is not None:
            stone = self.given_stone_bulk * self.rodded_kg_m3
            steps.append(_given("Stone, dry", stone, "kg in 1 m³"))
            return stone
        bulk = tables.coarse_bulk_m3(self.stone_mm, self.fineness_modulus)
        stone = bulk * (1 + self.coarse_change_percent / 100) * self.rodded_kg_m3
        change = (Given("change", self.coarse_change_percent, "%"),) if self.coarse_change_percent else ()
        given = (
            Given("fineness modulus", self.fineness_modulus, ""),
            Given("bulk volume", bulk, ""),
            *change,
            Given("dry-rodded", self.rodded_kg_m3, "kg/m³"),
        )
        steps.append(_step("Stone, dry", "bulk volume × dry-rodded density", given, stone, "kg in 1 m³", "table 6.3.6"))
        return stone

    def _sand(
        self, steps: list[Working], water: float, binders: tuple[Constituent, ...], stone: float, air: float
    ) -> tuple[float, float]:
        cement = math.fsum(c.dry_kg_m3 for c in binders)
        rest = 1 - water / WATER_KG_M3 - math.fsum(c.solid_m3 for c in binders)
        rest -= stone / self.stone.particle_density_kg_m3
        if self.sand_by == "absolute volume":
            sand = (rest - air) * self.sand.particle_density_kg_m3
            given = (
                Given("room left, of the whole", rest - air, ""),
                Given("particle density", self.sand.particle_density_kg_m3, "kg/m³"),
            )
            formula, table = mark("(1 − water − cement − stone − air) × density"), mark("section 6.3.7.2")
        else:
            estimate = tables.fresh_kg_m3(self.stone_mm, air_entrained=self.air_entrained)
            fresh = self.trial_fresh_kg_m3 or estimate
            sand = fresh - water - cement - stone
            given = (
                Given("fresh density", fresh, "kg/m³"),
                Given("water, cement, stone", water + cement + stone, "kg in 1 m³"),
            )
            formula, table = mark("fresh density − water − cement − stone"), mark("table 6.3.7.1")
            air = rest - sand / self.sand.particle_density_kg_m3
        if sand <= 0:
            raise MixError(
                Fault(Code.DOES_NOT_FIT, "Cement and stone leave no room for sand.", "Ask for less strength or slump.")
            )
        steps.append(_step("Sand, dry", formula, given, sand, "kg", table))
        return sand, air


def _given(figure: Words, value: float, unit: str) -> Working:
    """Return the working of a figure that somebody's own sheet gave."""
    return Working(figure=figure, formula="given", given=(), result=value, unit=unit, source="given, not worked out")


def _step(figure: Words, formula: Words, given: tuple[Given, ...], result: float, unit: str, where: str) -> Working:
    return Working(
        figure=figure,
        formula=formula,
        given=given,
        result=result,
        unit=unit,
        source=Said("ACI 211.1-91, {where}, from memory", where=where),
    )
