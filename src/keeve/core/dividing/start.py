"""Where a job begins that nobody measured: a bag, four tins of sand, what the drum takes."""

from typing import Annotated, Final, Literal, NamedTuple

from pydantic import Field

from keeve.core.message.errors import Code, Fault, Frozen, LoadError
from keeve.core.message.said import Said, Words, mark
from keeve.core.message.working import ARITHMETIC, Given, Working
from keeve.core.mixes.mix import Mix
from keeve.core.proportions.base import Proportions
from keeve.core.vessels.vessels import Container, Mixer, brim_l, volume_l


class OfBags(Frozen):
    """So many bags of the binder, or of the premix."""

    kind: Literal["bags"] = "bags"
    bags: float = Field(gt=0, le=100_000)


class OfMass(Frozen):
    """So much of one material, as it lies."""

    kind: Literal["mass"] = "mass"
    material: str
    mass_kg: float = Field(gt=0, le=1e7)


class OfMeasures(Frozen):
    """So many measures of one material, struck."""

    kind: Literal["measures"] = "measures"
    material: str
    count: float = Field(gt=0, le=100_000)
    measure: Container


class OfWater(Frozen):
    """So much water, all told: what is poured, and nothing of what the heaps bring."""

    kind: Literal["water"] = "water"
    litres: float = Field(gt=0, le=1e6)


class OfDepth(Frozen):
    """A vessel so full with fresh mix; the share is of its depth."""

    kind: Literal["depth"] = "depth"
    share: float = Field(gt=0, le=1)
    vessel: Container | Mixer


class OfMixer(Frozen):
    """What the mixer takes at once."""

    kind: Literal["mixer"] = "mixer"


Start = Annotated[OfBags | OfMass | OfMeasures | OfWater | OfDepth | OfMixer, Field(discriminator="kind")]


class Reckoned(NamedTuple):
    """What a cubic metre of fresh mix holds, for working a volume out of any one thing in it."""

    proportions: Proportions
    bags_per_m3: float | None
    wet_share: dict[str, float]
    """Mass as it lies over dry mass, by material key."""
    gauge_kg_m3: dict[str, float]
    """Dry mass in a cubic metre of measure, by material key."""
    pour_l_m3: float
    """Water to pour, target."""
    largest_m3: float


_WHOLE: Final = 1e-6
_DOES_NOT_HAVE = mark("{mix} has no {material} in it.")


def _constituent_kg_m3(reckoned: Reckoned, key: str, mix: Mix) -> tuple[float, Words]:
    for one in reckoned.proportions.constituents:
        if one.material.key == key:
            return one.dry_kg_m3, one.material.name
    raise LoadError(
        Fault(
            Code.UNKNOWN,
            Said(_DOES_NOT_HAVE, mix=mix.name, material=key[:40]),
            Said("It has: {known}.", known=", ".join(sorted(m.key for m in mix.materials()))),
            field="start",
        )
    )


def started(start: Start, reckoned: Reckoned, mix: Mix) -> tuple[float, Working]:
    """Work out how much fresh mix a start makes.

    Parameters
    ----------
    start : what is at hand
    reckoned : what a cubic metre of the mix holds
    mix : for its names

    Returns
    -------
    volume [m³] and how it comes about

    Raises
    ------
    LoadError : the mix has none of it, or takes no water to pour

    References
    ----------
    Plain arithmetic.
    """
    volume, formula, given = _volume(start, reckoned, mix)
    return volume, Working(figure="To mix", formula=formula, given=given, result=volume, unit="m³", source=ARITHMETIC)


def _of_bags(bags: float, reckoned: Reckoned, mix: Mix) -> tuple[float, Words, tuple[Given, ...]]:
    if reckoned.bags_per_m3 is None:
        msg = Said("{mix} does not come in bags here.", mix=mix.name)
        raise LoadError(Fault(Code.UNKNOWN, msg, mark("Say a mass, or choose the bag at Mix."), field="start"))
    if mix.basis.divide == "never" and abs(bags - round(bags)) > _WHOLE:
        msg = Said("{mix} is only mixed in whole kits: its maker allows no part of one.", mix=mix.name)
        raise LoadError(Fault(Code.REFUSED, msg, mark("Begin with a whole kit, or take another mix."), field="start"))
    given = (Given("bags", bags, ""), Given("bags in a cubic metre", reckoned.bags_per_m3, ""))
    return bags / reckoned.bags_per_m3, mark("bags / bags in a cubic metre"), given


def _volume(start: Start, reckoned: Reckoned, mix: Mix) -> tuple[float, Words, tuple[Given, ...]]:
    given: tuple[Given, ...]
    if isinstance(start, OfBags):
        return _of_bags(start.bags, reckoned, mix)
    if isinstance(start, OfMass):
        dry, name = _constituent_kg_m3(reckoned, start.material, mix)
        wet = reckoned.wet_share[start.material]
        given = (
            Given(name, start.mass_kg, "kg"),
            Given("in a cubic metre, as it lies", dry * wet, "kg"),
        )
        return start.mass_kg / (dry * wet), mark("mass / mass in a cubic metre"), given
    if isinstance(start, OfMeasures):
        dry, name = _constituent_kg_m3(reckoned, start.material, mix)
        litres = dry / reckoned.gauge_kg_m3[start.material] * 1000
        each = brim_l(start.measure.section)
        given = (
            Given("measures", start.count, ""),
            Given(start.measure.name, each, "L"),
            Given("in a cubic metre, in the measure", litres, "L"),
        )
        return start.count * each / litres, mark("measures × volume of one / volume in a cubic metre"), given
    if isinstance(start, OfWater):
        if reckoned.pour_l_m3 <= 0:
            raise LoadError(
                Fault(Code.OUT_OF_RANGE, mark("The heaps bring all the water: none is poured."), "", field="start")
            )
        given = (Given("water", start.litres, "L"), Given("to pour into a cubic metre", reckoned.pour_l_m3, "L"))
        return start.litres / reckoned.pour_l_m3, mark("water / water to pour into a cubic metre"), given
    if isinstance(start, OfDepth):
        section = start.vessel.section
        litres = volume_l(section, section.depth_mm * start.share)
        given = (Given("depth", start.share * 100, "%"), Given(start.vessel.name, brim_l(section), "L"))
        return litres / 1000, mark("volume of the vessel to that depth"), given
    given = (Given("largest load", reckoned.largest_m3, "m³"),)
    return reckoned.largest_m3, mark("largest load"), given
