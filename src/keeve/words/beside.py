"""What stands beside a field: the unit a bare number means, for each reader, and numbers written in it."""

from typing import Any, Final, NamedTuple

from keeve.core.measure.reading import is_bare
from keeve.core.measure.units import FT3_M3, FT_MM, GAL_L, IN_MM, LB_KG, STRENGTH_MPA, YD3_M3
from keeve.core.proportions.asked import Beside
from keeve.words.reader import Reader

MEANT: Final = "\u2063"
"""Parts what was typed from the unit beside its field, in what a page sends: 12, then mm. Nobody types it."""


class _Beside(NamedTuple):
    """A unit for each reader, and how much of the core's own unit one of it is."""

    metric: str
    us: str
    metric_size: float = 1.0
    us_size: float = 1.0


_TABLE: Final[dict[Beside, _Beside]] = {
    "": _Beside("", ""),
    "%": _Beside("%", "%"),
    "per 100": _Beside("", "", 0.01, 0.01),
    "far": _Beside("m", "ft", 1000, FT_MM),
    "near": _Beside("mm", "in", 1, IN_MM),
    "area": _Beside("m²", "ft²", 1, FT_MM**2 * 1e-6),
    "litres": _Beside("L", "gal", 1, GAL_L),
    "water": _Beside("L", "pt", 1, GAL_L / 8),
    "yield": _Beside("L", "ft³", 1, FT3_M3 * 1000),
    "mass": _Beside("kg", "lb", 1, LB_KG),
    "density": _Beside("kg/m³", "lb/ft³", 1, LB_KG / FT3_M3),
    "per m³": _Beside("kg/m³", "lb/yd³", 1, LB_KG / YD3_M3),
    "strength": _Beside("MPa", "psi", 1, STRENGTH_MPA["psi"]),
}


def unit_beside(beside: Beside, reader: Reader) -> str:
    """Return the unit that stands beside a field."""
    found = _TABLE[beside]
    return found.us if reader.us else found.metric


def number_beside(value: float, beside: Beside, reader: Reader) -> str:
    """Write a value of the core [its own unit] as a field with that unit beside it shows it: no unit, no rounding felt.

    >>> from keeve.words.reader import METRIC, US
    >>> number_beside(27.579, "strength", US), number_beside(0.7, "per 100", METRIC)
    ('4000', '70')
    """
    found = _TABLE[beside]
    shown = value / (found.us_size if reader.us else found.metric_size)
    figures = 3 if reader.us and beside in ("near", "far") else 4  # no tape shows ten-thousandths of an inch
    return f"{float(f'{shown:.{figures}g}'):g}"


def without_unit(value: Any, unit: str) -> str:
    """Return what was typed, less the unit that stands beside its field anyway."""
    if isinstance(value, int | float) and not isinstance(value, bool):
        return f"{value:g}"
    text = "" if value is None else str(value)
    for written in (unit, unit.replace("²", "2").replace("³", "3")):
        if unit and text.endswith(f" {written}"):
            return text.removesuffix(f" {written}")
    return text


def with_units(typed: Any) -> Any:
    """Put the units beside the fields into a document as a page sends it.

    A bare number means the unit beside it; but half a mould is "1/2", not half a percent.

    >>> with_units({"depth_mm": "12\u2063mm", "width_mm": "2 ft\u2063mm", "share_percent": "1/2\u2063%"})
    {'depth_mm': '12 mm', 'width_mm': '2 ft', 'share_percent': '1/2'}
    """
    if isinstance(typed, dict):
        return {key: with_units(value) for key, value in typed.items()}
    if isinstance(typed, list):
        return [with_units(value) for value in typed]
    if not isinstance(typed, str) or MEANT not in typed:
        return typed
    text, _, unit = typed.rpartition(MEANT)
    text = text.strip()
    if not text or not is_bare(text) or (unit == "%" and is_bare(text, fraction=True)):
        return text
    return f"{text} {unit}"
