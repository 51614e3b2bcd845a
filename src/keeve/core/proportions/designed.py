"""Designed concrete: strength, slump, stone and exposure become masses by the method of ACI 211.1."""

import math
from typing import Any, Final, Literal

from pydantic import Field, model_validator

from keeve.core import quantities
from keeve.core.errors import Code, Fault, MixError
from keeve.core.material import Material
from keeve.core.proportions import aci_tables as tables
from keeve.core.proportions.asked import Asked, AskedList
from keeve.core.proportions.base import Basis, Constituent, Proportions, WaterWindow
from keeve.core.said import Amount, Said, Words, mark
from keeve.core.units import WATER_KG_M3
from keeve.core.working import Given, Working

StoneShape = Literal["crushed", "sub-angular", "part crushed", "rounded"]
Attack = Literal["none", "sulfate or seawater"]

# Less water for rounder stone, kg/m³: PCA, from memory.
SHAPE_WATER_KG: Final[dict[StoneShape, float]] = {"crushed": 0, "sub-angular": -12, "part crushed": -21, "rounded": -27}
# Highest water-cement ratio under severe exposure, thin section and other: ACI 211.1-91 table 6.3.4(b), from memory.
CAP_SEVERE: Final = (0.45, 0.50)
CAP_ATTACK: Final = (0.40, 0.45)


def required_mean_mpa(specified_mpa: float) -> float:
    """Mean strength to aim at for a specified strength without a test record.

    Parameters
    ----------
    specified_mpa : f'c, cylinder [MPa], > 0

    Returns
    -------
    required mean strength [MPa]

    Notes
    -----
    f'c + 7 below 21, f'c + 8.3 from 21 to 35, 1.10 f'c + 5 above.

    References
    ----------
    ACI 318-11, table 5.3.2.2, from memory.

    >>> required_mean_mpa(20), required_mean_mpa(25), round(required_mean_mpa(40), 2)
    (27, 33.3, 49.0)
    """
    if specified_mpa < 21:
        return specified_mpa + 7
    return specified_mpa + 8.3 if specified_mpa <= 35 else 1.10 * specified_mpa + 5


def trial_water_kg_m3(water_kg_m3: float, slump_gain_mm: float, air_gain_percent: float) -> float:
    """Mixing water after a trial batch; the water-cement ratio is held.

    Parameters
    ----------
    water_kg_m3 : water of the trial [kg/m³]
    slump_gain_mm : slump wanted less slump found [mm]
    air_gain_percent : air wanted less air found [%]

    Returns
    -------
    water [kg/m³]

    Notes
    -----
    ± 6 kg per ± 25 mm of slump, − 3 kg per + 1 % of air.

    References
    ----------
    ACI 211.1-91, section 6.3.9, from memory.

    >>> trial_water_kg_m3(181, 25, -1)
    190.0
    """
    return water_kg_m3 + 6 * slump_gain_mm / 25 - 3 * air_gain_percent


_YES_NO: Final = (("false", mark("no")), ("true", mark("yes")))
_SECTION: Final = (("false", mark("ordinary")), ("true", mark("thin")))
_EXPOSURE: Final = (
    ("none", mark("none")),
    ("mild", mark("mild")),
    ("moderate", mark("wet and frost")),
    ("severe", mark("severe: wet, frost, salt")),
)
_ATTACK: Final = (("none", mark("nothing")), ("sulfate or seawater", mark("sulfate or seawater")))
_SHAPE: Final = tuple(
    (shape, shape) for shape in (mark("crushed"), mark("sub-angular"), mark("part crushed"), mark("rounded"))
)
_SAND_BY: Final = tuple((way, way) for way in (mark("absolute volume"), mark("fresh density")))
ASKED: Final = (
    Asked("specified_mpa", "Specified strength", "strength", "Without a test record the mean follows."),
    Asked("mean_mpa", "Mean strength, cylinder", "strength", "At 28 days; goes before."),
    Asked("slump_mm", "Slump", "near"),
    Asked("stone_mm", "Largest stone", "near"),
    Asked("fineness_modulus", "Fineness of the sand", hint="Fineness modulus, 2.4 to 3.0"),
    Asked("rodded_kg_m3", "Stone, dry-rodded", "density", job=False),
    Asked("exposure", "Weather on it", options=_EXPOSURE),
    Asked("air_entrained", "Air entrained", options=_YES_NO),
    Asked("attack", "Attacked by", options=_ATTACK),
    Asked("thin_section", "Section", options=_SECTION),
    Asked("stone_shape", "Stone", options=_SHAPE),
    Asked("sand_by", "Sand by", options=_SAND_BY),
    Asked("trial_slump_mm", "Trial load slumped", "near", "Corrects the water, w/c held."),
    Asked("trial_air_percent", "Trial load had air", "%"),
)


class Designed(Basis):
    """What the concrete must do, and what it is made of."""

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
    sand_by: Literal["absolute volume", "fresh density"] = "absolute volume"
    spread_kg_m3: float = Field(12, ge=0, le=30)
    """How far the water may stray to either side: about 50 mm of slump."""

    def materials(self) -> tuple[Material, ...]:
        """Return the dry materials."""
        return (self.cement, self.sand, self.stone)

    @model_validator(mode="after")
    def _has_an_aim(self) -> "Designed":
        if self.mean_mpa is None and self.specified_mpa is None:
            raise MixError(Fault(Code.MISSING, "How strong must it be?", "Write its mean strength.", "mean_mpa"))
        return self

    def aim_mpa(self) -> float:
        """Mean strength to aim at [MPa], as `required_mean_mpa` where only the specified one is known."""
        return self.mean_mpa if self.mean_mpa is not None else required_mean_mpa(self.specified_mpa or 0.0)

    def understood(self, typed: dict[str, Any]) -> dict[str, Any]:
        """Let the mean follow from a specified strength that comes without one."""
        follows = "specified_mpa" in typed and "mean_mpa" not in typed
        return typed | {"mean_mpa": None} if follows else typed

    def asked(self) -> tuple[Asked | AskedList, ...]:
        """List what a person may set, in the order a form shows it."""
        return ASKED

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
        ratio = self._ratio(steps)
        cement = water / ratio
        steps.append(
            _step(
                "Cement",
                "water / (w/c)",
                (Given("water", water, "kg in 1 m³"), Given("w/c", ratio, "")),
                cement,
                "kg in 1 m³",
                "section 6.3.5",
            )
        )
        stone = self._stone(steps)
        sand, air = self._sand(steps, water, cement, stone, air)
        return Proportions(
            constituents=(
                Constituent(self.cement, cement),
                Constituent(self.sand, sand),
                Constituent(self.stone, stone),
            ),
            water=WaterWindow(
                water - self.spread_kg_m3, water, min(water + self.spread_kg_m3, cement * self._top(ratio))
            ),
            air=air,
            workings=tuple(steps),
            warnings=(mark("The first estimate of density leaves no room for air: make a trial batch."),)
            if air < 0
            else (),
        )

    def _top(self, ratio: float) -> float:
        """Highest w/c the window may reach: the cap where there is one, else 0.05 over the design."""
        cap = self.cap()
        return cap if cap is not None else ratio + 0.05

    def _water(self, steps: list[Working]) -> float:
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

    def _after_trial(self, steps: list[Working], water: float) -> float:
        if self.trial_slump_mm is None and self.trial_air_percent is None:
            return water
        slump = self.slump_mm - (self.slump_mm if self.trial_slump_mm is None else self.trial_slump_mm)
        wanted = tables.air_percent(self.stone_mm, self.exposure if self.air_entrained else "none")
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

    def _air(self, steps: list[Working]) -> float:
        exposure = self.exposure if self.air_entrained else "none"
        percent = tables.air_percent(self.stone_mm, exposure)
        steps.append(
            _step(
                "Air",
                Said("by stone, exposure: {exposure}", exposure=exposure),
                (Given("largest stone", self.stone_mm, "mm"),),
                percent,
                "%",
                "table 6.3.3",
            )
        )
        return percent / 100

    def _ratio(self, steps: list[Working]) -> float:
        exact = tables.water_cement(self.aim_mpa(), air_entrained=self.air_entrained)
        ratio = math.floor(exact * 100 + 1e-9) / 100
        given: tuple[Given, ...] = (Given("mean strength", self.aim_mpa(), "MPa"), Given("table", exact, ""))
        cap = self.cap()
        if cap is not None:
            given = (*given, Given("highest for the exposure", cap, ""))
            ratio = min(ratio, cap)
        steps.append(
            _step("w/c", "by strength, rounded down to 0.01, not over the cap", given, ratio, "", "table 6.3.4")
        )
        return ratio

    def _stone(self, steps: list[Working]) -> float:
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

    def _sand(self, steps: list[Working], water: float, cement: float, stone: float, air: float) -> tuple[float, float]:
        rest = 1 - water / WATER_KG_M3 - cement / self.cement.particle_density_kg_m3
        rest -= stone / self.stone.particle_density_kg_m3
        if self.sand_by == "absolute volume":
            sand = (rest - air) * self.sand.particle_density_kg_m3
            given = (
                Given("room left, of the whole", rest - air, ""),
                Given("particle density", self.sand.particle_density_kg_m3, "kg/m³"),
            )
            formula, table = mark("(1 − water − cement − stone − air) × density"), mark("section 6.3.7.2")
        else:
            fresh = tables.fresh_kg_m3(self.stone_mm, air_entrained=self.air_entrained)
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


def _step(figure: Words, formula: Words, given: tuple[Given, ...], result: float, unit: str, where: str) -> Working:
    return Working(
        figure=figure,
        formula=formula,
        given=given,
        result=result,
        unit=unit,
        source=Said("ACI 211.1-91, {where}, from memory", where=where),
    )
