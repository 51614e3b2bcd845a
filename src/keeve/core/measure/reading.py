"""Reads what people type: the one grammar of numbers, fractions, feet and inches, sums and units."""

import re
from functools import lru_cache
from typing import Final

from keeve.core.measure.arithmetic import SumError, is_sum, work_out
from keeve.core.measure.units import (
    DENSITY_KG_M3,
    LENGTH_MM,
    MASS_KG,
    PERCENT,
    PLAIN,
    SPEED_KM_H,
    STRENGTH_MPA,
    VOLUME_L,
)
from keeve.core.message.errors import Code, Fault, UnitError
from keeve.core.message.said import Amount, Said, mark

AS_SHOWN: Final = 0.005
"""Three figures of a page, typed back, are off by no more [-]: half of a third figure."""
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
_PER_UNIT = re.compile(r"(?<![a-z])(kg|lb|g|t|n|km|m) ?/ ?(mm2|cm3|m3|ft3|yd3|l|h|s)\b")
# Thousands beyond doubt: two separators of different kinds, or the same one twice. 1.500,5 1,500.5 1,234,567
_GROUPED = re.compile(
    r"(?<![\d.,])\d{1,3}(?:(?:\.\d{3})+,\d+|(?:,\d{3})+\.\d+|(?:\.\d{3}){2,}|(?:,\d{3}){2,})(?![\d.,])"
)
_RAISED = re.compile(r"(?<=[a-z])[²³]")
"""Square and cube of a unit; behind a figure they are no figure."""
_THOUSANDS = re.compile(r"\d,\d{3}(?!\d)")


_BARE = re.compile(rf"[-+\d\s.,/*×·()±x{''.join(_GLYPHS)}]+")


MOST_LETTERS: Final = 200
"""A measure somebody writes is never longer; no expression is tried on more."""
MOST_LIST_LETTERS: Final = 40_000
"""Corners and depths as text: some 2500 of them."""


def within(text: str, most: int = MOST_LETTERS) -> str:
    """Return a text that may be read, before any expression looks at it.

    Parameters
    ----------
    text : as somebody typed or sent it
    most : letters it may have

    Raises
    ------
    UnitError : it is longer

    References
    ----------
    Common practice, no source.

    >>> within("450 mm")
    '450 mm'
    """
    if len(text) <= most:
        return text
    raise UnitError(
        Fault(
            Code.UNREADABLE,
            Said("“{typed}…” is too long to be read.", typed=text[:20]),
            Said("Write it in {n} letters at most.", n=Amount(most, "whole")),
            value=float(len(text)),
            limit=float(most),
        )
    )


def is_bare(text: str, *, fraction: bool = False) -> bool:
    """Return whether a number or a sum is written without a unit; or whether it is one with a fraction in it.

    Common practice, no source.

    >>> is_bare("3*2.4 + 0.6"), is_bare("2 ft"), is_bare("1/2", fraction=True), is_bare("50", fraction=True)
    (True, False, True, False)
    """
    if len(text) > MOST_LETTERS:
        return False
    return _BARE.fullmatch(text) is not None and (not fraction or any(c in text for c in ("/", *_GLYPHS)))


def _like(example: str) -> Said:
    return Said("Write it like {example}.", example=example)


def _refuse(text: str, example: str) -> UnitError:
    return UnitError(
        Fault(Code.UNREADABLE, Said("“{typed}” cannot be read.", typed=text[:40]), _like(example), value=text[:40])
    )


def _number(text: str) -> float:
    whole, _, fraction = text.rpartition(" ")
    if "/" in fraction:
        top, bottom = fraction.split("/")
        if float(bottom) == 0:
            raise UnitError(Fault(Code.UNREADABLE, "A fraction cannot have 0 below the line."))
        return (float(whole) if whole.strip() else 0.0) + float(top) / float(bottom)
    return float(text.replace(",", "."))


def _ungrouped(found: re.Match[str]) -> str:
    """Take the separators of thousands out of a number; the last separator is the point, if it is of another kind."""
    number = found[0]
    last = max(number.rfind("."), number.rfind(","))
    other = "," if number[last] == "." else "."
    if other not in number:
        return number.replace(number[last], "")
    return number[:last].replace(other, "") + "." + number[last + 1 :]


def _known(unit: str, units: dict[str, float], example: str) -> None:
    if units and unit not in units:
        raise UnitError(
            Fault(
                Code.UNREADABLE, Said("“{unit}” is not a unit that fits here.", unit=unit), _like(example), value=unit
            )
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
        raise UnitError(
            Fault(Code.UNREADABLE, error.said, Said("Write it like 3*2.4 + 0.6 or {example}.", example=example))
        ) from None


@lru_cache(maxsize=4096)  # one entry of a sheet is edited, all are read again
def _written_out(text: str) -> str:
    """Bring what was typed into one way of writing it: small letters, plain fractions, units in one word."""
    plain = within(text).strip().lower().replace("−", "-")
    plain = _RAISED.sub(lambda found: "2" if found[0] == "²" else "3", plain)
    plain = _GROUPED.sub(_ungrouped, plain.replace("\u202f", ""))  # the narrow space is how thousands are shown
    for glyph, ascii_text in _GLYPHS.items():
        plain = plain.replace(glyph, f" {ascii_text}")
    plain = re.sub(r"\b(fl)\s*(oz)\b", r"\1\2", re.sub(r"\s+", " ", plain)).strip()
    plain = re.sub(r"(?<=\d) ?/ ?(?=\d)", "/", plain)
    plain = re.sub(r"\b(cu|cubic)\s+(in|ft|yd|m|cm)\b", r"\g<2>3", plain)
    plain = _PER_UNIT.sub(r"\1\2", plain)  # the line of a unit, lb/ft³, divides nothing
    plain = re.sub(r"(?<=\d)-(?=\d+/\d)", " ", plain)  # 2-1/2 is two and a half
    plain = re.sub(r"(?<=['′’]) ?- ?(?=\d)", " ", plain)  # and 6'-4" is 6 ft 4 in
    return re.sub(r"(?<=\d) ?x ?(?=\d)", "*", plain)


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

    >>> round(read_measure("6'4\"", LENGTH_MM, "mm", "450 mm"), 1)
    1930.4
    """
    plain = _written_out(text)
    summed = is_sum(plain)
    sign = 1.0 if summed or not plain.startswith("-") else -1.0
    plain = plain if summed else plain.lstrip("-+ ")
    if _THOUSANDS.search(plain) and not plain.startswith("0,"):
        bare = plain.replace(",", "")
        raise UnitError(
            Fault(
                Code.UNREADABLE,
                Said("“{typed}” could mean thousands or tenths.", typed=text),
                Said("Write {bare}, or use a point.", bare=bare),
            )
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
        # Two numbers in a row are no sum: 1 234 may be a thousand, 1.5,5 a slip of the finger.
        if (not units and term["unit"]) or (not term["unit"] and term.end() < len(plain)):
            raise _refuse(text, example)
        total += _number(term["number"]) * (units[unit] if units else 1.0)
        at, last = term.end(), unit
    if not plain:
        raise UnitError(Fault(Code.MISSING, "This is still to be filled in.", _like(example)))
    return sign * total


def read_length_mm(text: str) -> float:
    """Read a length [mm]; millimetres are meant when no unit is written. Common practice, no source.

    >>> read_length_mm("2 1/2 in"), read_length_mm("1.2m"), read_length_mm("450")
    (63.5, 1200.0, 450.0)
    """
    return read_measure(text, LENGTH_MM, "mm", mark("450 mm, 1.2 m or 2 1/2 in"))


def read_volume_l(text: str) -> float:
    """Read a volume [L]; litres are meant when no unit is written. NIST SP 811 for US units.

    >>> round(read_volume_l("5 gal"), 3), round(read_volume_l("73.5 in3"), 4)
    (18.927, 1.2044)
    """
    return read_measure(text, VOLUME_L, "l", mark("18 L, 750 mL or 5 gal"))


def read_mass_kg(text: str) -> float:
    """Read a mass [kg]; kilograms are meant when no unit is written. NIST SP 811 for US units.

    >>> round(read_mass_kg("94 lb"), 3)
    42.638
    """
    return read_measure(text, MASS_KG, "kg", mark("25 kg or 94 lb"))


def _joined(units: dict[str, float]) -> dict[str, float]:
    """Return units by the names they have once their dividing line is taken out."""
    return {name.replace("/", ""): size for name, size in units.items()}


_STRENGTHS = _joined(STRENGTH_MPA)
_DENSITIES = _joined(DENSITY_KG_M3)
_SPEEDS = _joined(SPEED_KM_H)


def read_strength_mpa(text: str) -> float:
    """Read a strength [MPa]; megapascal are meant when no unit is written. NIST SP 811 for US units.

    >>> read_strength_mpa("28 MPa"), read_strength_mpa("30 N/mm²"), round(read_strength_mpa("4000 psi"), 2)
    (28.0, 30.0, 27.58)
    """
    return read_measure(text, _STRENGTHS, "mpa", mark("28 MPa or 4000 psi"))


def read_density_kg_m3(text: str) -> float:
    """Read a density [kg/m³], meant when no unit is written. NIST SP 811 for US units.

    >>> read_density_kg_m3("1506"), read_density_kg_m3("1.5 kg/L"), round(read_density_kg_m3("94 lb/ft³"), 1)
    (1506.0, 1500.0, 1505.7)
    """
    return read_measure(text, _DENSITIES, "kgm3", mark("1506 kg/m³ or 94 lb/ft³"))


_DEGREES = re.compile(r"\s*(?P<number>[-+−]?\s*[\d.,]+)\s*°?\s*(?P<scale>[cf]?)\s*$", re.IGNORECASE)


def read_temperature_c(text: str) -> float:
    """Read a temperature [°C]; degrees Celsius are meant when no scale is written. NIST SP 811.

    >>> read_temperature_c("21 °C"), round(read_temperature_c("70 F"), 1), read_temperature_c("−5")
    (21.0, 21.1, -5.0)
    """
    found = _DEGREES.match(text)
    if found is None:
        raise _refuse(text, mark("21 °C or 70 °F"))
    number = read_number(found["number"].replace("−", "-"))
    return (number - 32) / 1.8 if found["scale"].lower() == "f" else number


def read_speed_km_h(text: str) -> float:
    """Read a wind [km/h]; km/h are meant when no unit is written. NIST SP 811.

    >>> read_speed_km_h("12 km/h"), round(read_speed_km_h("10 mph"), 2), read_speed_km_h("5 m/s")
    (12.0, 16.09, 18.0)
    """
    return read_measure(text, _SPEEDS, "kmh", mark("12 km/h, 8 mph or 3 m/s"))


def read_percent(text: str) -> float:
    """Read a share in percent [%]; a bare fraction such as 1/2 means 50, but 5 1/2 is 5.5. Common practice, no source.

    >>> read_percent("10"), read_percent("1/2"), read_percent("7.5 %"), read_percent("5 1/2")
    (10.0, 50.0, 7.5, 5.5)
    """
    share = read_measure(text, PERCENT, "%", mark("10 %"))
    is_fraction = any(mark in text for mark in ("/", *_GLYPHS)) and "%" not in text and abs(share) <= 1
    return share * 100 if is_fraction else share


def read_number(text: str) -> float:
    """Read a plain number [-]. Common practice, no source.

    >>> read_number("2 1/2")
    2.5
    """
    return read_measure(text, PLAIN, "", mark("2.5 or 2 1/2"))


def read_ratio(text: str) -> float:
    """Read a ratio [-]: 0.24, 1/10 or 3.5 %. Common practice, no source.

    >>> read_ratio("3.5 %"), read_ratio("0.24"), read_ratio("1/10")
    (0.035, 0.24, 0.1)
    """
    return read_percent(text) / 100 if "%" in text else read_number(text)
