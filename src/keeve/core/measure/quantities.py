"""The doors of the core's models: each lets in a number in the unit of its name, or text a person typed."""

import math
from collections.abc import Callable
from typing import Annotated, Any

from pydantic import BeforeValidator, WithJsonSchema

from keeve.core.measure.reading import (
    read_density_kg_m3,
    read_length_mm,
    read_mass_kg,
    read_measure,
    read_number,
    read_percent,
    read_ratio,
    read_speed_km_h,
    read_strength_mpa,
    read_temperature_c,
    read_volume_l,
    within,
)
from keeve.core.measure.units import AREA_M2
from keeve.core.message.errors import Code, Fault, UnitError
from keeve.core.message.said import mark


def door(
    read: Callable[[str], float], low: float, high: float, *, too_low: str, too_high: str, open_low: bool = True
) -> BeforeValidator:
    """Build the door of a model's field: lets in a number in the unit of its name, or typed text.

    Common practice, no source.

    Parameters
    ----------
    read : of typed text, to the unit of the field
    low, high : bounds, in the units of the field
    too_low, too_high : what is said past them
    open_low : whether the lower bound itself is too low
    """

    def validate(given: Any) -> float:
        # A TradeError is a ValueError: Pydantic carries it out, and errors.faults_of finds it again.
        if isinstance(given, bool):  # Python counts with it; nobody measures with it
            raise UnitError(Fault(Code.UNREADABLE, "Write a number here."))
        try:
            value = read(within(given)) if isinstance(given, str) else float(given)
        except (TypeError, OverflowError):
            raise UnitError(Fault(Code.UNREADABLE, "Write a number here.")) from None
        if not math.isfinite(value):  # hundreds of digits; no document can carry such a number back
            raise UnitError(Fault(Code.OUT_OF_RANGE, too_high, limit=high))
        if value > high:
            raise UnitError(Fault(Code.OUT_OF_RANGE, too_high, value=value, limit=high))
        if value < low or (open_low and value <= low):
            raise UnitError(Fault(Code.OUT_OF_RANGE, too_low, value=value, limit=low))
        return value

    return BeforeValidator(validate)


def schema(unit: str) -> WithJsonSchema:
    """Say in a document's schema what a door of a unit lets in. Common practice, no source."""
    words = f"number in {unit}, or text with a unit"
    return WithJsonSchema({"anyOf": [{"type": "number"}, {"type": "string"}], "description": words}, mode="validation")


Length = Annotated[
    float,
    door(
        read_length_mm,
        0.0,
        1e6,
        too_low="A size must be more than nothing: measure it again.",
        too_high="That is longer than a kilometre: check the unit.",
    ),
    schema("mm"),
]
LengthOrNone = Annotated[
    float,
    door(
        read_length_mm,
        0.0,
        1e6,
        too_low="A size cannot be less than nothing.",
        too_high="That is longer than a kilometre: check the unit.",
        open_low=False,
    ),
    schema("mm"),
]
Area = Annotated[
    float,
    door(
        lambda text: read_measure(text, AREA_M2, "m2", mark("12 m², 4*2.4 or 130 ft²")),
        0.0,
        1e6,
        too_low="An area cannot be less than nothing.",
        too_high="That is more than a square kilometre: check the unit.",
        open_low=False,
    ),
    schema("m²"),
]
Volume = Annotated[
    float,
    door(
        read_volume_l,
        0.0,
        1e9,
        too_low="A volume must be more than nothing: measure it again.",
        too_high="That is more than a million cubic metres: check the unit.",
    ),
    schema("L"),
]
Mass = Annotated[
    float,
    door(
        read_mass_kg,
        0.0,
        1e6,
        too_low="A mass must be more than nothing: weigh it again.",
        too_high="That is more than a thousand tonnes: check the unit.",
    ),
    schema("kg"),
]
# Bounds that catch a slip of the unit, in MPa and °C: our own, wider than anything the trade mixes or builds in.
Strength = Annotated[
    float,
    door(
        read_strength_mpa,
        0.0,
        200.0,
        too_low="A strength must be more than nothing.",
        too_high="No concrete of the trade is that strong: check the unit.",
    ),
    schema("MPa"),
]
Density = Annotated[
    float,
    door(
        read_density_kg_m3,
        0.0,
        1e6,
        too_low="This must be more than 0.",
        too_high="That is far too much: check the figure.",
    ),
    schema("kg/m³"),
]
PerVolume = Annotated[
    float,
    door(
        read_density_kg_m3,
        0.0,
        3000.0,
        too_low="This must be more than 0.",
        too_high="No cubic metre of mix holds so much: check the unit.",
    ),
    schema("kg/m³"),
]
Temperature = Annotated[
    float,
    door(
        read_temperature_c,
        -60.0,
        100.0,
        too_low="No building is done in such cold: check the scale.",
        too_high="Water boils there: check the scale.",
        open_low=False,
    ),
    schema("°C"),
]
AirTemperature = Annotated[
    float,
    door(
        read_temperature_c,
        -40.0,
        55.0,
        too_low="No building is done in such cold: check the scale.",
        too_high="No air is so hot: check the scale, °C or °F.",
        open_low=False,
    ),
    schema("°C"),
]
Wind = Annotated[
    float,
    door(
        read_speed_km_h,
        0.0,
        120.0,
        too_low="Wind cannot be less than nothing.",
        too_high="In such a storm nobody builds: check the unit, km/h, mph or m/s.",
        open_low=False,
    ),
    schema("km/h"),
]
Humidity = Annotated[
    float,
    door(
        read_percent,
        0.0,
        100.0,
        too_low="Air cannot hold less than 0 %.",
        too_high="Air holds 100 % at most: then it is fog.",
        open_low=False,
    ),
    schema("%"),
]
Plain = Annotated[
    float,
    door(
        read_number,
        0.0,
        1e6,
        too_low="This must be more than 0.",
        too_high="That is far too much: check the figure.",
    ),
    schema("one"),
]
Share = Annotated[
    float,
    door(
        read_percent,
        0.0,
        100.0,
        too_low="A share must be more than 0 %.",
        too_high="A share cannot be more than 100 %.",
    ),
    schema("%"),
]
ShareOrNone = Annotated[
    float,
    door(
        read_percent,
        0.0,
        100.0,
        too_low="A share cannot be less than 0 %.",
        too_high="A share cannot be more than 100 %.",
        open_low=False,
    ),
    schema("%"),
]
Waste = Annotated[
    float,
    door(
        read_percent,
        0.0,
        100.0,
        too_low="A waste allowance cannot be less than 0 %.",
        too_high="A waste allowance over 100 % would double the job: measure it as a shape instead.",
        open_low=False,
    ),
    schema("%"),
]
Air = Annotated[
    float,
    door(
        read_percent,
        0.0,
        40.0,
        too_low="Air cannot be less than 0 %.",
        too_high="More than 40 % of air or voids is no mix: check the figure.",
        open_low=False,
    ),
    schema("%"),
]
Part = Annotated[
    float,
    door(
        read_number,
        0.0,
        1000.0,
        too_low="A part must be more than 0: take it out instead.",
        too_high="More than a thousand parts: check the figure.",
    ),
    schema("one"),
]
NoneOrSome = Annotated[
    float,
    door(
        read_ratio,
        0.0,
        20.0,
        too_low="This cannot be less than 0.",
        too_high="That is far too much: check the figure.",
        open_low=False,
    ),
    schema("one"),
]
NoneOrMany = Annotated[
    float,
    door(
        read_number,
        0.0,
        1e5,
        too_low="This cannot be less than 0.",
        too_high="That is far too much: check the figure.",
        open_low=False,
    ),
    schema("one"),
]
Minutes = Annotated[
    float,
    door(
        read_number,
        0.0,
        3000.0,
        too_low="A time must be more than nothing.",
        too_high="That is more than two days: check the figure.",
    ),
    schema("min"),
]


Ratio = Annotated[
    float,
    door(
        read_ratio,
        0.0,
        20.0,
        too_low="A ratio must be more than 0: take it out instead.",
        too_high="A ratio over 20 cannot be meant: check the figure.",
    ),
    schema("one"),
]
