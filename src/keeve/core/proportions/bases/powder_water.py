"""Plaster: powder and water by mass, by water ÷ powder or by consistency number."""

import re
from typing import Annotated, Any, ClassVar, Final, Literal

from pydantic import BeforeValidator, Field, WithJsonSchema

from keeve.core.materials.material import Material
from keeve.core.measure import quantities
from keeve.core.measure.reading import read_mass_kg, read_number, read_volume_l, within
from keeve.core.measure.units import WATER_KG_M3
from keeve.core.message.errors import Code, Fault, MixError, UnitError
from keeve.core.message.said import WHOLE, Amount, Said
from keeve.core.message.working import Given, Working
from keeve.core.proportions.asked import Asked, AskedList
from keeve.core.proportions.base import Basis, Constituent, Proportions, WaterWindow

WEAKEST: Final = 1.10
"""More water than this ÷ powder leaves no usable cast."""
STRONGEST: Final = 0.20
"""Less than the water that gypsum binds (0.186) cannot be mixed."""

_RATIO = re.compile(r"^(?P<first>[^:/]+?)\s*(?::|\bto\b|\bper\b|/)\s*(?P<second>[^:/]+)$")
_MASS_UNIT = re.compile(r"(lb|lbs|kg|oz|g)$")
_VOLUME_UNIT = re.compile(r"(quart|qts?|pt|gal|ml|l)$")
_NAMED = re.compile(r"(?P<number>[\d.,]+)\s*(?P<name>[a-z]*)|(?P<name2>[a-z]+)\s*(?P<number2>[\d.,]+)")


def read_water_to_powder(text: str) -> float:
    """Read what a person types for the strength of a plaster: 70, 0.70, 70 : 100, 70 water : 100 plaster.

    Parameters
    ----------
    text : consistency number (parts of water to 100 parts of powder), w/p, a ratio water : powder, or the
        shop's rule, a mass of powder to a volume of water

    Returns
    -------
    water ÷ powder by mass [kg/kg]

    Raises
    ------
    MixError : powder and water turned round, with the number most likely meant
    UnitError : unreadable

    References
    ----------
    Common practice, no source.

    >>> read_water_to_powder("70"), read_water_to_powder("0.65"), read_water_to_powder("70 water : 100 plaster")
    (0.7, 0.65, 0.7)
    >>> round(read_water_to_powder("3 lb to the quart"), 2)
    0.7
    """
    plain = text.strip().lower().replace("parts of ", "").replace("parts ", "")
    ratio = _RATIO.match(plain)
    if ratio is not None and (shop := _shop_volume(ratio["first"], ratio["second"])) is not None:
        value = shop
    elif ratio is None:
        number = read_number(plain.removeprefix("w/p").strip(" ="))
        value = number / 100 if number > 2 else number
    else:
        (first, first_is), (second, _) = _amount(ratio["first"]), _amount(ratio["second"])
        if second == 0 or first == 0:
            raise MixError(Fault(Code.UNREADABLE, "Neither side of the ratio can be 0.", "Write it like 70 : 100."))
        # An unnamed ratio is read as water : powder, the order the consistency number has.
        value = second / first if first_is == "powder" else first / second
    return check_water_to_powder(value)


def _shop_volume(first: str, second: str) -> float | None:
    """Read the shop's rule, a volume of water to a mass of powder, in either order; None for any other ratio."""
    for water, powder in ((first, second), (second, first)):
        try:
            mass_kg = read_mass_kg(_with_one(powder)) if _MASS_UNIT.search(powder) else 0.0
            volume_l = read_volume_l(_with_one(water)) if _VOLUME_UNIT.search(water) else 0.0
        except UnitError:
            return None
        if mass_kg > 0 and volume_l > 0:
            return volume_l * WATER_KG_M3 / 1000 / mass_kg
    return None


def _with_one(text: str) -> str:
    # "3 lb to the quart" names one of them
    plain = re.sub(r"^(the|a|one)\s+", "1 ", text.strip()).replace("quart", "qt").replace("qts", "qt")
    return plain if plain[:1].isdigit() else f"1 {plain}"


def _amount(text: str) -> tuple[float, str]:
    found = _NAMED.fullmatch(text.strip())
    if found is None:
        return read_number(text), ""
    name = found["name"] or found["name2"] or ""
    kind = "water" if name in ("water", "w") else "powder" if name in ("plaster", "powder", "gypsum", "p") else ""
    return read_number(found["number"] or found["number2"]), kind


def check_water_to_powder(value: float) -> float:
    """Return w/p [kg/kg] unchanged when it can be mixed (0.20..1.10).

    Raises
    ------
    MixError : out of range; where the inverse is a usual plaster (0.50..0.90) that is offered

    References
    ----------
    Common practice, no source: 70 parts of plaster to 100 of water is the usual slip for 70 of water to 100.

    >>> check_water_to_powder(0.7)
    0.7
    """
    if STRONGEST <= value <= WEAKEST:
        return value
    meant = round(1 / value, 2) if value > 0 else 0.0
    if 0.5 <= meant <= 0.9:
        raise MixError(
            Fault(
                Code.INVERTED,
                Said(
                    "That is {n} of plaster to 100 of water: turned round, a cast that stays soup.",
                    n=Amount(meant * 100, "whole"),
                ),
                Said("Did you mean {n} of water to 100 of plaster? Write {n}.", n=Amount(meant * 100, "whole")),
                field="",
                value=meant,
            )
        )
    raise MixError(
        Fault(
            Code.OUT_OF_RANGE,
            "No plaster is mixed with that much water." if value > WEAKEST else "That is too little water to mix.",
            "Parts of water to 100 of powder run from 20 to 110: the bag's label says which.",
            field="",
            value=value,
        )
    )


def _validate(given: Any) -> float:
    if isinstance(given, str):
        return read_water_to_powder(within(given))
    try:
        return check_water_to_powder(float(given))
    except TypeError:
        raise MixError(Fault(Code.UNREADABLE, "Write a number such as 70.")) from None


WaterToPowder = Annotated[
    float,
    BeforeValidator(_validate),
    WithJsonSchema(
        {"anyOf": [{"type": "number"}, {"type": "string"}], "description": "w/p in kg/kg, or text such as 70"},
        mode="validation",
    ),
]


class PowderWater(Basis):
    """A powder and its water by mass."""

    basis: Literal["powder and water"] = "powder and water"
    weighed: ClassVar[bool] = True
    water_fields: ClassVar[tuple[str, str, str] | None] = ("water_to_powder", "", "")
    material: Material
    water_to_powder: WaterToPowder
    spread: quantities.NoneOrSome = Field(0.02, le=0.1)
    """How far w/p may stray to either side."""
    air_percent: quantities.Air = Field(1.0, le=10)

    def materials(self) -> tuple[Material, ...]:
        """Return the dry materials."""
        return (self.material,)

    def asked(self) -> tuple[Asked | AskedList, ...]:
        """List what a person may set, in the order a form shows it."""
        return (
            Asked(
                "water_to_powder",
                "Water to 100 of powder",
                "per 100",
                "The label’s number, such as 70; or 0.70; or 3 lb to the quart.",
            ),
            Asked("spread", "May stray by", hint="of w/p, to either side", job=False),
            Asked("air_percent", "Air", "%", job=False),
        )

    def proportions(self) -> Proportions:
        """Reduce powder and water to masses per cubic metre.

        Returns
        -------
        proportions that fill one cubic metre

        Notes
        -----
        m_p = (1 − air) / (1/ρ_p + (w/p)/1000). Set expansion (0.2 to 1 %) is not added.

        References
        ----------
        Absolute volumes: plain arithmetic. Air in cast plaster about 1 %: common practice, no source.
        """
        air = self.air_percent / 100
        ratio = self.water_to_powder
        powder = (1 - air) / (1 / self.material.particle_density_kg_m3 + ratio / WATER_KG_M3)
        working = Working(
            figure=Said("{material} in {where}", material=self.material.name, where=WHOLE),
            formula="(1 − air) / (1/ρ + (w/p)/1000)",
            given=(
                Given("w/p", ratio, ""),
                Given("particle density", self.material.particle_density_kg_m3, "kg/m³"),
                Given("air", self.air_percent, "%"),
            ),
            result=powder,
            unit="kg in 1 m³",
            source="absolute volumes, plain arithmetic; air: common practice, no source",
        )
        return Proportions(
            constituents=(Constituent(self.material, powder),),
            water=WaterWindow(ratio - self.spread, ratio, ratio + self.spread).times(powder),
            air=air,
            workings=(working,),
        )
