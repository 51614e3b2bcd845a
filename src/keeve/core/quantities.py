"""The doors of the core's models: each lets in a number in the unit of its name, or text a person typed."""

import math
from collections.abc import Callable
from typing import Annotated, Any, Final

from pydantic import BeforeValidator, TypeAdapter, WithJsonSchema

from keeve.core.errors import Code, Fault, UnitError
from keeve.core.looks import SAND_LOOKS, HeapLook
from keeve.core.reading import (
    read_bulking,
    read_density_kg_m3,
    read_length_mm,
    read_mass_kg,
    read_measure,
    read_moisture,
    read_number,
    read_percent,
    read_ratio,
    read_speed_km_h,
    read_strength_mpa,
    read_temperature_c,
    read_volume_l,
    within,
)
from keeve.core.said import mark
from keeve.core.units import AREA_M2


def _door(
    read: Callable[[str], float], low: float, high: float, *, too_low: str, too_high: str, open_low: bool = True
) -> BeforeValidator:
    """Build the door of a model's field: lets in a number in the unit of its name, or typed text."""

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


def _schema(unit: str) -> WithJsonSchema:
    words = f"number in {unit}, or text with a unit"
    return WithJsonSchema({"anyOf": [{"type": "number"}, {"type": "string"}], "description": words}, mode="validation")


Length = Annotated[
    float,
    _door(
        read_length_mm,
        0.0,
        1e6,
        too_low="A size must be more than nothing: measure it again.",
        too_high="That is longer than a kilometre: check the unit.",
    ),
    _schema("mm"),
]
LengthOrNone = Annotated[
    float,
    _door(
        read_length_mm,
        0.0,
        1e6,
        too_low="A size cannot be less than nothing.",
        too_high="That is longer than a kilometre: check the unit.",
        open_low=False,
    ),
    _schema("mm"),
]
Area = Annotated[
    float,
    _door(
        lambda text: read_measure(text, AREA_M2, "m2", mark("12 m², 4*2.4 or 130 ft²")),
        0.0,
        1e6,
        too_low="An area cannot be less than nothing.",
        too_high="That is more than a square kilometre: check the unit.",
        open_low=False,
    ),
    _schema("m²"),
]
Volume = Annotated[
    float,
    _door(
        read_volume_l,
        0.0,
        1e9,
        too_low="A volume must be more than nothing: measure it again.",
        too_high="That is more than a million cubic metres: check the unit.",
    ),
    _schema("L"),
]
Mass = Annotated[
    float,
    _door(
        read_mass_kg,
        0.0,
        1e6,
        too_low="A mass must be more than nothing: weigh it again.",
        too_high="That is more than a thousand tonnes: check the unit.",
    ),
    _schema("kg"),
]
# Bounds that catch a slip of the unit, in MPa and °C: our own, wider than anything the trade mixes or builds in.
Strength = Annotated[
    float,
    _door(
        read_strength_mpa,
        0.0,
        200.0,
        too_low="A strength must be more than nothing.",
        too_high="No concrete of the trade is that strong: check the unit.",
    ),
    _schema("MPa"),
]
Density = Annotated[
    float,
    _door(
        read_density_kg_m3,
        0.0,
        1e6,
        too_low="This must be more than 0.",
        too_high="That is far too much: check the figure.",
    ),
    _schema("kg/m³"),
]
PerVolume = Annotated[
    float,
    _door(
        read_density_kg_m3,
        0.0,
        3000.0,
        too_low="This must be more than 0.",
        too_high="No cubic metre of mix holds so much: check the unit.",
    ),
    _schema("kg/m³"),
]
Temperature = Annotated[
    float,
    _door(
        read_temperature_c,
        -60.0,
        100.0,
        too_low="No building is done in such cold: check the scale.",
        too_high="Water boils there: check the scale.",
        open_low=False,
    ),
    _schema("°C"),
]
AirTemperature = Annotated[
    float,
    _door(
        read_temperature_c,
        -40.0,
        55.0,
        too_low="No building is done in such cold: check the scale.",
        too_high="No air is so hot: check the scale, °C or °F.",
        open_low=False,
    ),
    _schema("°C"),
]
Wind = Annotated[
    float,
    _door(
        read_speed_km_h,
        0.0,
        120.0,
        too_low="Wind cannot be less than nothing.",
        too_high="In such a storm nobody builds: check the unit, km/h, mph or m/s.",
        open_low=False,
    ),
    _schema("km/h"),
]
Humidity = Annotated[
    float,
    _door(
        read_percent,
        0.0,
        100.0,
        too_low="Air cannot hold less than 0 %.",
        too_high="Air holds 100 % at most: then it is fog.",
        open_low=False,
    ),
    _schema("%"),
]
Plain = Annotated[
    float,
    _door(
        read_number,
        0.0,
        1e6,
        too_low="This must be more than 0.",
        too_high="That is far too much: check the figure.",
    ),
    _schema("one"),
]
Share = Annotated[
    float,
    _door(
        read_percent,
        0.0,
        100.0,
        too_low="A share must be more than 0 %.",
        too_high="A share cannot be more than 100 %.",
    ),
    _schema("%"),
]
ShareOrNone = Annotated[
    float,
    _door(
        read_percent,
        0.0,
        100.0,
        too_low="A share cannot be less than 0 %.",
        too_high="A share cannot be more than 100 %.",
        open_low=False,
    ),
    _schema("%"),
]
Waste = Annotated[
    float,
    _door(
        read_percent,
        0.0,
        100.0,
        too_low="A waste allowance cannot be less than 0 %.",
        too_high="A waste allowance over 100 % would double the job: measure it as a shape instead.",
        open_low=False,
    ),
    _schema("%"),
]
Moisture = Annotated[
    float,
    _door(
        read_moisture,
        0.0,
        30.0,
        too_low="Sand cannot hold less than 0 % water.",
        too_high="No sand holds more than 30 % water on its dry mass: weigh it again.",
        open_low=False,
    ),
    _schema("%"),
]


def _looked_or_measured(given: Any) -> Any:
    """Let in what a heap looks like besides what was measured of it."""
    word = given.strip().lower() if isinstance(given, str) else None
    return word if word in SAND_LOOKS else _MOISTURE.validate_python(given)


_MOISTURE: Final = TypeAdapter(Moisture)
HeapMoisture = Annotated[
    float | HeapLook,
    BeforeValidator(_looked_or_measured),
    WithJsonSchema(
        {
            "anyOf": [{"type": "number"}, {"type": "string"}],
            "description": "number in %, a pan test, or what the heap looks like: " + ", ".join(SAND_LOOKS),
        },
        mode="validation",
    ),
]
"""Total moisture of a heap [%], or its look."""


Bulking = Annotated[
    float,
    _door(
        read_bulking,
        0.0,
        60.0,
        too_low="Sand cannot shrink when it is damp: exchange the two heights.",
        too_high="No sand bulks by more than 60 %: fill the jar and flood it again.",
        open_low=False,
    ),
    _schema("%"),
]
Air = Annotated[
    float,
    _door(
        read_percent,
        0.0,
        40.0,
        too_low="Air cannot be less than 0 %.",
        too_high="More than 40 % of air or voids is no mix: check the figure.",
        open_low=False,
    ),
    _schema("%"),
]
Part = Annotated[
    float,
    _door(
        read_number,
        0.0,
        1000.0,
        too_low="A part must be more than 0: take it out instead.",
        too_high="More than a thousand parts: check the figure.",
    ),
    _schema("one"),
]
NoneOrSome = Annotated[
    float,
    _door(
        read_ratio,
        0.0,
        20.0,
        too_low="This cannot be less than 0.",
        too_high="That is far too much: check the figure.",
        open_low=False,
    ),
    _schema("one"),
]
NoneOrMany = Annotated[
    float,
    _door(
        read_number,
        0.0,
        1e5,
        too_low="This cannot be less than 0.",
        too_high="That is far too much: check the figure.",
        open_low=False,
    ),
    _schema("one"),
]
Minutes = Annotated[
    float,
    _door(
        read_number,
        0.0,
        3000.0,
        too_low="A time must be more than nothing.",
        too_high="That is more than two days: check the figure.",
    ),
    _schema("min"),
]


Ratio = Annotated[
    float,
    _door(
        read_ratio,
        0.0,
        20.0,
        too_low="A ratio must be more than 0: take it out instead.",
        too_high="A ratio over 20 cannot be meant: check the figure.",
    ),
    _schema("one"),
]
