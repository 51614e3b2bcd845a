"""The only place that knows pounds, gallons and inches: reads what people type, shows what they read."""

import math
import re
from collections.abc import Callable
from fractions import Fraction
from typing import Annotated, Any, Final, Literal

from pydantic import BeforeValidator, WithJsonSchema

from keeve.core.arithmetic import SumError, is_sum, work_out
from keeve.core.errors import Code, Fault, UnitError
from keeve.core.field_tests import from_wet_basis_percent, jar_bulking_percent, pan_moisture_percent

System = Literal["metric", "us"]

# Exact by definition: NIST Special Publication 811 (2008), appendix B.8.
LB_KG: Final = 0.45359237
IN_MM: Final = 25.4
GAL_L: Final = 3.785411784
FT3_M3: Final = 0.3048**3
YD3_M3: Final = 0.9144**3
WATER_KG_M3: Final = 1000.0
"""1 kg = 1 L within 0.3 % from 0 to 25 °C; the error is below what a jug can show."""

_FT_MM = 12 * IN_MM
_LENGTH_MM = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "yd": 3 * _FT_MM}
_LENGTH_MM |= dict.fromkeys(("in", "inch", "inches", '"', "″", "”"), IN_MM)
_LENGTH_MM |= dict.fromkeys(("ft", "foot", "feet", "'", "′", "’"), _FT_MM)
_VOLUME_L = {"ml": 0.001, "cl": 0.01, "cm3": 0.001, "m3": 1000.0}
_VOLUME_L |= dict.fromkeys(("l", "litre", "litres", "liter", "liters"), 1.0)
_VOLUME_L |= {"floz": GAL_L / 128, "pt": GAL_L / 8, "qt": GAL_L / 4, "gal": GAL_L}
_VOLUME_L |= {"in3": (IN_MM / 100) ** 3, "ft3": FT3_M3 * 1000, "yd3": YD3_M3 * 1000}
_AREA_M2 = {"m2": 1.0, "cm2": 1e-4, "mm2": 1e-6, "in2": IN_MM**2 * 1e-6, "ft2": _FT_MM**2 * 1e-6}
_AREA_M2 |= {"yd2": 9 * _FT_MM**2 * 1e-6, "sqft": _FT_MM**2 * 1e-6, "sqm": 1.0}
_MASS_KG = {"g": 0.001, "kg": 1.0, "t": 1000.0, "oz": LB_KG / 16, "lb": LB_KG, "lbs": LB_KG}
_PERCENT = {"%": 1.0}
_PLAIN: dict[str, float] = {}

_GLYPHS = {
    "½": "1/2",
    "⅓": "1/3",
    "⅔": "2/3",
    "¼": "1/4",
    "¾": "3/4",
    "⅛": "1/8",
    "⅜": "3/8",
    "⅝": "5/8",
    "⅞": "7/8",
}
_NUMBER = r"\d+\s+\d+/\d+|\d+/\d+|\d+(?:[.,]\d+)?(?:e[+-]?\d+)?|[.,]\d+"
_TERM = re.compile(rf"\s*(?P<number>{_NUMBER})\s*(?P<unit>[a-z%]+\d?|[\"'″”′’])?\s*", re.IGNORECASE)
_THOUSANDS = re.compile(r"\d,\d{3}(?!\d)")


def _refuse(text: str, example: str) -> UnitError:
    return UnitError(
        Fault(Code.UNREADABLE, f"“{text[:40]}” cannot be read.", f"Write it like {example}.", value=text[:40])
    )


def _number(text: str) -> float:
    whole, _, fraction = text.rpartition(" ")
    if "/" in fraction:
        top, bottom = fraction.split("/")
        if float(bottom) == 0:
            raise UnitError(Fault(Code.UNREADABLE, "A fraction cannot have 0 below the line."))
        return (float(whole) if whole.strip() else 0.0) + float(top) / float(bottom)
    return float(text.replace(",", "."))


def _known(unit: str, units: dict[str, float], example: str) -> None:
    if units and unit not in units:
        raise UnitError(
            Fault(Code.UNREADABLE, f"“{unit}” is not a unit that fits here.", f"Write it like {example}.", value=unit)
        )


def _worked_out(text: str, plain: str, units: dict[str, float], default: str, example: str) -> float:
    def value(number: str, unit: str) -> float:
        if unit and not units:
            raise _refuse(text, example)
        if unit:
            _known(unit, units, example)
        return _number(number) * (units[unit] if unit else 1.0)

    try:
        return work_out(plain, _TERM, value, default)
    except SumError as error:
        raise UnitError(Fault(Code.UNREADABLE, str(error), f"Write it like 3*2.4 + 0.6 or {example}.")) from None


def read_measure(text: str, units: dict[str, float], default: str, example: str) -> float:
    r"""Read what a person typed for a measure.

    Parameters
    ----------
    text : what was typed, such as `2 1/2 in`, `1.2m`, `6'4"`, `1,2 m`
    units : known unit names and their size in the unit wanted [wanted unit / unit]
    default : the unit meant when none is written
    example : a well-written answer, for the sentence that refuses

    Returns
    -------
    the measure in the unit for which `units` holds 1.0

    Raises
    ------
    UnitError : unreadable text, unknown unit, or a comma that could mean thousands or tenths

    Notes
    -----
    Terms add up (6'4" is 6 ft + 4 in). A number after a foot mark without a unit is inches. Sums are worked out
    (`arithmetic.work_out`): 3*2.4 + 0.6 m.

    References
    ----------
    Common practice, no source.

    >>> round(read_measure("6'4\"", _LENGTH_MM, "mm", "450 mm"), 1)
    1930.4
    """
    plain = text.strip().lower().replace("²", "2").replace("³", "3").replace("−", "-")
    for glyph, ascii_text in _GLYPHS.items():
        plain = plain.replace(glyph, f" {ascii_text}")
    plain = re.sub(r"\b(fl)\s*(oz)\b", r"\1\2", re.sub(r"\s+", " ", plain)).strip()
    plain = re.sub(r"(?<=\d) ?/ ?(?=\d)", "/", plain)
    plain = re.sub(r"\b(cu|cubic)\s+(in|ft|yd|m|cm)\b", r"\g<2>3", plain)
    plain = re.sub(r"(?<=\d)-(?=\d+/\d)", " ", plain)  # 2-1/2 is two and a half
    plain = re.sub(r"(?<=['′’]) ?- ?(?=\d)", " ", plain)  # and 6'-4" is 6 ft 4 in
    plain = re.sub(r"(?<=\d) ?x ?(?=\d)", "*", plain)
    summed = is_sum(plain)
    sign = 1.0 if summed or not plain.startswith("-") else -1.0
    plain = plain if summed else plain.lstrip("-+ ")
    if _THOUSANDS.search(plain) and not plain.startswith("0,"):
        bare = plain.replace(",", "")
        raise UnitError(
            Fault(Code.UNREADABLE, f"“{text}” could mean thousands or tenths.", f"Write {bare}, or use a point.")
        )
    if summed:
        return _worked_out(text, plain, units, default, example)
    total, at, last = 0.0, 0, ""
    while at < len(plain):
        term = _TERM.match(plain, at)
        if term is None:
            raise _refuse(text, example)
        unit = term["unit"] or ("in" if last in ("'", "ft", "′", "’") else default)
        _known(unit, units, example)
        if not units and term["unit"]:
            raise _refuse(text, example)
        total += _number(term["number"]) * (units[unit] if units else 1.0)
        at, last = term.end(), unit
    if not plain:
        raise UnitError(Fault(Code.MISSING, "This is still to be filled in.", f"Write it like {example}."))
    return sign * total


def read_length_mm(text: str) -> float:
    """Read a length [mm]; millimetres are meant when no unit is written. Common practice, no source.

    >>> read_length_mm("2 1/2 in"), read_length_mm("1.2m"), read_length_mm("450")
    (63.5, 1200.0, 450.0)
    """
    return read_measure(text, _LENGTH_MM, "mm", "450 mm, 1.2 m or 2 1/2 in")


def read_volume_l(text: str) -> float:
    """Read a volume [L]; litres are meant when no unit is written. NIST SP 811 for US units.

    >>> round(read_volume_l("5 gal"), 3), round(read_volume_l("73.5 in3"), 4)
    (18.927, 1.2044)
    """
    return read_measure(text, _VOLUME_L, "l", "18 L, 750 mL or 5 gal")


def read_mass_kg(text: str) -> float:
    """Read a mass [kg]; kilograms are meant when no unit is written. NIST SP 811 for US units.

    >>> round(read_mass_kg("94 lb"), 3)
    42.638
    """
    return read_measure(text, _MASS_KG, "kg", "25 kg or 94 lb")


def read_percent(text: str) -> float:
    """Read a share in percent [%]; a bare fraction such as 1/2 means 50, but 5 1/2 is 5.5. Common practice, no source.

    >>> read_percent("10"), read_percent("1/2"), read_percent("7.5 %"), read_percent("5 1/2")
    (10.0, 50.0, 7.5, 5.5)
    """
    share = read_measure(text, _PERCENT, "%", "10 %")
    is_fraction = any(mark in text for mark in ("/", *_GLYPHS)) and "%" not in text and abs(share) <= 1
    return share * 100 if is_fraction else share


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

    >>> round(read_moisture("1060 / 1000"), 6), read_moisture("5 %"), round(read_moisture("6 % wet"), 2)
    (6.0, 5.0, 6.38)
    """
    on_wet = _WET_BASIS.search(text)
    if on_wet:
        return from_wet_basis_percent(read_percent(text[: on_wet.start()]))
    pan = _pair(text)
    return pan_moisture_percent(*pan) if pan else read_percent(text)


def read_bulking(text: str) -> float:
    """Read a bulking [%], or a jar test as damp / flooded height. IS 2386 part 3, from memory.

    >>> read_bulking("150/120"), read_bulking("25 %")
    (25.0, 25.0)
    """
    jar = _pair(text)
    return jar_bulking_percent(*jar) if jar else read_percent(text)


def read_number(text: str) -> float:
    """Read a plain number [-]. Common practice, no source.

    >>> read_number("2 1/2")
    2.5
    """
    return read_measure(text, _PLAIN, "", "2.5 or 2 1/2")


def read_ratio(text: str) -> float:
    """Read a ratio [-]: 0.24, 1/10 or 3.5 %. Common practice, no source.

    >>> read_ratio("3.5 %"), read_ratio("0.24"), read_ratio("1/10")
    (0.035, 0.24, 0.1)
    """
    return read_percent(text) / 100 if "%" in text else read_number(text)


def _door(
    read: Callable[[str], float], low: float, high: float, *, too_low: str, too_high: str, open_low: bool = True
) -> BeforeValidator:
    """Build the door of a model's field: lets in a number in the unit of its name, or typed text."""

    def validate(given: Any) -> float:
        # A TradeError is a ValueError: Pydantic carries it out, and errors.faults_of finds it again.
        try:
            value = read(given) if isinstance(given, str) else float(given)
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
        lambda text: read_measure(text, _AREA_M2, "m2", "12 m², 4*2.4 or 130 ft²"),
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


def _digits(value: float, places: int) -> str:
    text = f"{value:,.{places}f}".replace(",", "\u202f")  # a narrow space parts thousands in both systems
    return "0" if float(text.replace("\u202f", "")) == 0 else text


def _step(value: float, *steps: tuple[float, int]) -> str:
    """Show `value` with the decimals of the first step it is below; none above the last."""
    for below, places in steps:
        if abs(value) < below:
            return _digits(value, places)
    return _digits(value, 0)


def counted(value: float) -> str:
    """Say a count [-] the way people do, 2½, where that is what it is; else to two figures. Common practice, no source.

    >>> counted(3.6), counted(2.0), counted(0.5), counted(12.34), counted(0.1)
    ('3.6', '2', '½', '12.3', '0.1')
    """
    whole, rest = divmod(round(value * 4), 4)
    if (whole or rest) and abs(value - whole - rest / 4) < 0.005 * value:
        return f"{whole or ''}{('', '¼', '½', '¾')[rest]}"
    return f"{value:.3g}" if value >= 10 else f"{value:.2f}".rstrip("0").rstrip(".")


def show_mass(mass_kg: float, system: System = "metric") -> tuple[str, str]:
    """Say a mass [kg] as a number and its unit. NIST SP 811 for US units.

    >>> show_mass(137.24), show_mass(0.0571), show_mass(42.638, "us")
    (('137', 'kg'), ('57', 'g'), ('94.0', 'lb'))
    """
    if system == "us":
        pounds = mass_kg / LB_KG
        return (_step(pounds * 16, (10, 1)), "oz") if abs(pounds) < 1 else (_step(pounds, (10, 2), (100, 1)), "lb")
    return (_step(mass_kg * 1000, (10, 1)), "g") if abs(mass_kg) < 1 else (_step(mass_kg, (10, 2), (100, 1)), "kg")


def show_litres(volume_l: float, system: System = "metric") -> tuple[str, str]:
    """Say a volume that is poured or gauged [L] as a number and its unit. NIST SP 811 for US units.

    >>> show_litres(10.72), show_litres(0.25), show_litres(18.927, "us"), show_litres(0.5, "us")
    (('10.7', 'L'), ('250', 'mL'), ('5.00', 'gal'), ('16.9', 'fl oz'))
    """
    if system == "us":
        gallons = volume_l / GAL_L
        if abs(gallons) >= 1:
            return _step(gallons, (10, 2), (100, 1)), "gal"
        return (
            (_step(gallons * 4, (10, 2)), "qt") if abs(gallons) >= 0.25 else (_step(gallons * 128, (100, 1)), "fl oz")
        )
    if 0 < abs(volume_l) < 1:
        return _step(volume_l * 1000, (10, 1)), "mL"
    return _step(volume_l, (10, 2), (100, 1)), "L"


def show_space(volume_m3: float, system: System = "metric") -> tuple[str, str]:
    """Say a volume to be filled [m³] as a number and its unit. NIST SP 811 for US units.

    >>> show_space(0.2034), show_space(0.0012), show_space(1.0, "us")
    (('0.203', 'm³'), ('1.20', 'L'), ('1.31', 'yd³'))
    """
    if system == "us":
        if volume_m3 >= 0.5 * YD3_M3:
            return _step(volume_m3 / YD3_M3, (10, 2), (100, 1)), "yd³"
        feet = volume_m3 / FT3_M3
        return (_step(feet, (10, 2), (100, 1)), "ft³") if feet >= 0.1 else (_step(feet * 1728, (100, 1)), "in³")
    if volume_m3 < 0.1:
        return show_litres(volume_m3 * 1000)
    return _step(volume_m3, (1, 3), (10, 2), (100, 1)), "m³"


def show_length(length_mm: float, system: System = "metric") -> tuple[str, str]:
    """Say a length [mm] as a number and its unit; inches to the nearest eighth, below one to the 32nd. NIST SP 811.

    >>> show_length(62.4), show_length(4200), show_length(63.5, "us"), show_length(1930.4, "us")
    (('62', 'mm'), ('4.20', 'm'), ('2 1/2', 'in'), ('6 ft 4', 'in'))
    >>> show_length(1.5875, "us"), show_length(0.3, "us")
    (('1/16', 'in'), ('0.01', 'in'))
    """
    if system == "us" and 0 < length_mm < IN_MM * 31.5 / 32:
        parts = Fraction(round(length_mm / IN_MM * 32), 32)
        return (str(parts) if parts else _digits(length_mm / IN_MM, 2)), "in"
    if system == "us":
        eighths = round(length_mm / IN_MM * 8)
        feet, eighths = divmod(eighths, 96) if eighths >= 8 * 24 else (0, eighths)
        whole, rest = divmod(eighths, 8)
        divisor = {0: 8, 4: 4, 2: 2, 6: 2}.get(rest, 1)
        fraction = f" {rest // divisor}/{8 // divisor}" if rest else ""
        inches = f"{whole}{fraction}" if whole else fraction.strip() or "0"
        return (f"{feet} ft {inches}" if feet else inches), "in"
    if length_mm >= 1000:
        return _step(length_mm / 1000, (100, 2)), "m"
    return _step(length_mm, (10, 1)), "mm"


def show_area(area_m2: float, system: System = "metric") -> tuple[str, str]:
    """Say an area [m²] as a number and its unit. NIST SP 811 for US units.

    >>> show_area(12.345), show_area(1.0, "us")
    (('12.3', 'm²'), ('10.8', 'ft²'))
    """
    value, unit = (area_m2 / (_FT_MM**2 * 1e-6), "ft²") if system == "us" else (area_m2, "m²")
    return (_step(value, (10, 2), (100, 1)) if value >= 1 else _digits(value, 3)), unit


def say(shown: tuple[str, str]) -> str:
    """Join a number and its unit.

    >>> say(show_mass(25))
    '25.0 kg'
    """
    return f"{shown[0]} {shown[1]}"


def show(value: float, unit: str, system: System = "metric") -> str:
    """Say a value whose unit is one of the core's [mm, L, kg, m³]; any other unit is said as it is.

    >>> show(150, "mm", "us"), show(0.61, ""), show(12, "°C")
    ('5 7/8 in', '0.61', '12 °C')
    """
    shown = {"mm": show_length, "L": show_litres, "kg": show_mass, "m³": show_space}.get(unit)
    return say(shown(value, system)) if shown else f"{value:.4g} {unit}".strip()
