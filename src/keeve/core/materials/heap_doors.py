"""How wet a heap is, as people say it: a share, a pan test, a jar's two heights, a meter's reading, or its look."""

import re
from typing import Annotated, Any, Final

from pydantic import BeforeValidator, TypeAdapter, WithJsonSchema

from keeve.core.materials.field_tests import from_wet_basis_percent, jar_bulking_percent, pan_moisture_percent
from keeve.core.materials.looks import SAND_LOOKS, HeapLook
from keeve.core.measure.arithmetic import is_sum
from keeve.core.measure.quantities import door, schema
from keeve.core.measure.reading import read_number, read_percent

_WET_BASIS = re.compile(r"\s*%?\s*(of\s+)?(the\s+)?wet(\s+(basis|mass))?\s*$", re.IGNORECASE)


_PAIR = re.compile(r"\s*(?P<over>[\d.,]+)\s*(?P<unit>[a-z]*)\s*/\s*(?P<under>[\d.,]+)\s*(?P=unit)\s*$", re.IGNORECASE)


def _pair(text: str) -> tuple[float, float] | None:
    """Read two readings written over one another, such as 1060/1000 or 150 mm/120 mm; None for anything else."""
    found = _PAIR.match(text)
    if found is None:
        return None
    over, under = read_number(found["over"]), read_number(found["under"])
    return (over, under) if 0 < under <= over else None


def read_moisture(text: str) -> float:
    """Read a moisture content [%], a pan test as wet / dry mass, or a meter's reading on the wet mass.

    Notes
    -----
    w = (wet − dry) / dry; w = x / (1 − x) where "wet" follows the reading. More than one over the line can
    only be a pan test.

    References
    ----------
    ASTM C566, from memory.

    >>> round(read_moisture("(1474-412)/(1412-412)"), 6)
    6.2
    >>> round(read_moisture("1060 / 1000"), 6), read_moisture("5 %"), round(read_moisture("6 % wet"), 2)
    (6.0, 5.0, 6.38)
    """
    on_wet = _WET_BASIS.search(text)
    if on_wet:
        return from_wet_basis_percent(read_percent(text[: on_wet.start()]))
    pan = _pair(text)
    if pan:
        return pan_moisture_percent(*pan)
    if "/" in text and "(" in text and is_sum(text):
        # (1474 - 412) / (1412 - 412): a quotient over one is wet to dry, the pan's tare taken off.
        over = read_number(text)
        return pan_moisture_percent(over, 1.0) if over >= 1 else over * 100
    return read_percent(text)


def read_bulking(text: str) -> float:
    """Read a bulking [%], or a jar test as damp / flooded height. IS 2386 part 3, from memory.

    >>> read_bulking("150/120"), read_bulking("25 %")
    (25.0, 25.0)
    """
    jar = _pair(text)
    return jar_bulking_percent(*jar) if jar else read_percent(text)


Moisture = Annotated[
    float,
    door(
        read_moisture,
        0.0,
        30.0,
        too_low="Sand cannot hold less than 0 % water.",
        too_high="No sand holds more than 30 % water on its dry mass: weigh it again.",
        open_low=False,
    ),
    schema("%"),
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
    door(
        read_bulking,
        0.0,
        60.0,
        too_low="Sand cannot shrink when it is damp: exchange the two heights.",
        too_high="No sand bulks by more than 60 %: fill the jar and flood it again.",
        open_low=False,
    ),
    schema("%"),
]
