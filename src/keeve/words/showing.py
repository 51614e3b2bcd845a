"""The one table that says what a reader sees for a quantity: which unit, and how many figures."""

from collections.abc import Callable
from fractions import Fraction
from itertools import groupby
from typing import Final, NamedTuple

from keeve.core.measure.units import FT3_M3, FT_MM, GAL_L, IN_MM, LB_KG, MI_KM, STRENGTH_MPA, YD3_M3
from keeve.core.message.said import ONE_M2, ONE_M3, PLACES, ROUND, figures, mark
from keeve.core.vessels.instruments import us_mark_l
from keeve.words.catalogues import ENGLISH, translations
from keeve.words.reader import METRIC, Reader, decimal_mark

_IN3_FT3: Final = 1728
_FL_OZ_L: Final = GAL_L / 128
_FL_OZ_CWT: Final = _FL_OZ_L * 1000 / (LB_KG * 100) * 100
"""1 fl oz to 100 lb, in mL/100 kg."""
_FT2_M2: Final = FT_MM**2 * 1e-6
_CELSIUS_ZERO_F: Final = 32.0


class Shown(NamedTuple):
    """A number as written, and its unit."""

    number: str
    unit: str


def _digits(value: float, places: int, reader: Reader) -> str:
    text = f"{value:,.{places}f}"
    if float(text.replace(",", "")) == 0:
        return "0"
    # A narrow space parts thousands in every language.
    return text.replace(",", "\u202f").replace(".", decimal_mark(reader.language))


def _figures(value: float, reader: Reader, *steps: tuple[float, int]) -> str:
    """Show `value` with the decimals of the first step it is below; none above the last."""
    for below, places in steps:
        if abs(value) < below:
            return _digits(value, places, reader)
    return _digits(value, 0, reader)


def _small(value: float, reader: Reader) -> str:
    """Show a small dose with three figures, whatever its size."""
    return _figures(value, reader, (0.00095, 6), (0.0095, 5), (0.095, 4), (0.95, 3), (9.95, 2), (99.5, 1))


def _nearest(value: float, step: float, places: int, reader: Reader) -> str:
    return _digits(round(value / step) * step, places, reader)


def counted(value: float, reader: Reader = METRIC) -> str:
    """Say a count [-] the way people do, 2½, where that is what it is; else to two figures. Common practice, no source.

    >>> counted(3.6), counted(2.0), counted(0.5), counted(12.34), counted(0.1)
    ('3.6', '2', '½', '12.3', '0.1')
    """
    whole, rest = divmod(round(value * 4), 4)
    if (whole or rest) and abs(value - whole - rest / 4) < 0.005 * value:
        return f"{whole or ''}{('', '¼', '½', '¾')[rest]}"
    text = f"{value:.3g}" if value >= 10 else f"{value:.2f}".rstrip("0").rstrip(".")
    return text.replace(".", decimal_mark(reader.language))


def show_mass(mass_kg: float, reader: Reader = METRIC) -> Shown:
    """Say a mass [kg]: grams under a kilogram, ounces under a pound; three figures of a small dose.

    NIST SP 811 for US units.

    >>> from keeve.words.reader import US
    >>> show_mass(137.24).number, show_mass(0.0571), show_mass(42.638, US)
    ('137', Shown(number='57.1', unit='g'), Shown(number='94.0', unit='lb'))
    >>> show_mass(0.3, US), show_mass(0.0004, US)
    (Shown(number='10.6', unit='oz'), Shown(number='0.0141', unit='oz'))
    """
    if reader.us:
        pounds = mass_kg / LB_KG
        if abs(pounds) >= 1:
            return Shown(_figures(pounds, reader, (10, 2), (100, 1)), "lb")
        ounces = pounds * 16
        return Shown(_small(ounces, reader), "oz")
    if abs(mass_kg) >= 1:
        return Shown(_figures(mass_kg, reader, (10, 2), (100, 1)), "kg")
    grams = mass_kg * 1000
    return Shown(_small(grams, reader), "g")


def show_litres(volume_l: float, reader: Reader = METRIC) -> Shown:
    """Say a volume that is poured or gauged [L]: fluid ounces to 0.05; three figures of a small dose.

    NIST SP 811 for US units.

    >>> from keeve.words.reader import US
    >>> show_litres(10.72), show_litres(0.25), show_litres(18.927, US)
    (Shown(number='10.7', unit='L'), Shown(number='250', unit='mL'), Shown(number='5.00', unit='gal'))
    >>> show_litres(0.1, US), show_litres(0.005, US)
    (Shown(number='3.4', unit='fl oz'), Shown(number='0.169', unit='fl oz'))
    """
    if reader.us:
        gallons = volume_l / GAL_L
        if abs(gallons) >= 1:
            return Shown(_figures(gallons, reader, (10, 2), (100, 1)), "gal")
        if abs(gallons) >= 0.25:
            return Shown(_figures(gallons * 4, reader, (10, 2)), "qt")
        ounces = volume_l / _FL_OZ_L
        if 0 < abs(ounces) < 1:
            return Shown(_small(ounces, reader), "fl oz")
        number = _nearest(ounces, 0.05, 2, reader)
        return Shown(number.removesuffix("0") if number != "0" else number, "fl oz")
    if 0 < abs(volume_l) < 1:
        millilitres = volume_l * 1000
        return Shown(_small(millilitres, reader), "mL")
    return Shown(_figures(volume_l, reader, (10, 2), (100, 1)), "L")


def show_space(volume_m3: float, reader: Reader = METRIC) -> Shown:
    """Say a volume to be filled [m³]: yards, feet, then inches cubed. NIST SP 811 for US units.

    >>> from keeve.words.reader import US
    >>> show_space(0.2034), show_space(0.0012), show_space(1.0, US)
    (Shown(number='0.203', unit='m³'), Shown(number='1.20', unit='L'), Shown(number='1.31', unit='yd³'))
    """
    if reader.us:
        if volume_m3 >= 0.5 * YD3_M3:
            return Shown(_figures(volume_m3 / YD3_M3, reader, (10, 2), (100, 1)), "yd³")
        feet = volume_m3 / FT3_M3
        if feet >= 0.1:
            return Shown(_figures(feet, reader, (10, 2), (100, 1)), "ft³")
        return Shown(_figures(feet * _IN3_FT3, reader, (100, 1)), "in³")
    if volume_m3 < 0.1:
        return show_litres(volume_m3 * 1000, reader)
    return Shown(_figures(volume_m3, reader, (1, 3), (10, 2), (100, 1)), "m³")


def _tape(length_mm: float, reader: Reader) -> Shown:
    if 0 < length_mm < IN_MM * 31.5 / 32:
        parts = Fraction(round(length_mm / IN_MM * 32), 32)
        return Shown(str(parts) if parts else _digits(length_mm / IN_MM, 2, reader), "in")
    eighths = round(length_mm / IN_MM * 8)
    feet, eighths = divmod(eighths, 96) if eighths >= 8 * 24 else (0, eighths)
    whole, rest = divmod(eighths, 8)
    fraction = str(Fraction(rest, 8)) if rest else ""
    inches = " ".join(part for part in (str(whole) if whole else "", fraction) if part) or "0"
    return Shown(f"{feet} ft {inches}" if feet else inches, "in")


def show_length(length_mm: float, reader: Reader = METRIC) -> Shown:
    """Say a length [mm]; inches as a tape has them, to the eighth, below one to the 32nd. NIST SP 811.

    >>> from keeve.words.reader import US
    >>> show_length(62.4), show_length(4200), show_length(63.5, US), show_length(1930.4, US).number
    (Shown(number='62', unit='mm'), Shown(number='4.20', unit='m'), Shown(number='2 1/2', unit='in'), '6 ft 4')
    >>> show_length(1.5875, US).number, show_length(0.3, US).number
    ('1/16', '0.01')
    """
    if reader.us:
        return _tape(length_mm, reader)
    if length_mm >= 1000:
        return Shown(_figures(length_mm / 1000, reader, (100, 2)), "m")
    return Shown(_figures(length_mm, reader, (10, 1)), "mm")


def show_mark(down_mm: float, reader: Reader = METRIC) -> Shown:
    """Say how far below the rim a mark is [mm], as a hand draws it: to a millimetre, to a sixteenth. NIST SP 811.

    >>> from keeve.words.reader import US
    >>> show_mark(43.4), show_mark(155.6, US), show_mark(3.0, US)
    (Shown(number='43', unit='mm'), Shown(number='6 1/8', unit='in'), Shown(number='1/8', unit='in'))
    """
    if not reader.us:
        return Shown(_digits(down_mm, 0, reader), "mm")
    whole, sixteenths = divmod(round(down_mm / IN_MM * 16), 16)
    fraction = str(Fraction(sixteenths, 16)) if sixteenths else ""
    return Shown(" ".join(part for part in (str(whole) if whole else "", fraction) if part) or "0", "in")


def show_area(area_m2: float, reader: Reader = METRIC) -> Shown:
    """Say an area [m²]. NIST SP 811 for US units.

    >>> from keeve.words.reader import US
    >>> show_area(12.345), show_area(1.0, US)
    (Shown(number='12.3', unit='m²'), Shown(number='10.8', unit='ft²'))
    """
    value, unit = (area_m2 / _FT2_M2, "ft²") if reader.us else (area_m2, "m²")
    return Shown(_figures(value, reader, (10, 2), (100, 1)) if value >= 1 else _digits(value, 3, reader), unit)


def show_density(kg_m3: float, reader: Reader = METRIC) -> Shown:
    """Say a density [kg/m³]; pounds to the cubic foot. NIST SP 811 for US units.

    >>> from keeve.words.reader import US
    >>> show_density(2400, US), show_density(2400).unit
    (Shown(number='149.8', unit='lb/ft³'), 'kg/m³')
    """
    if reader.us:
        return Shown(_digits(kg_m3 * FT3_M3 / LB_KG, 1, reader), "lb/ft³")
    return Shown(_digits(kg_m3, 0, reader), "kg/m³")


def show_strength(strength_mpa: float, reader: Reader = METRIC) -> Shown:
    """Say a strength [MPa]; pounds to the square inch, to ten. NIST SP 811.

    >>> from keeve.words.reader import US
    >>> show_strength(27.58, US), show_strength(30)
    (Shown(number='4\u202f000', unit='psi'), Shown(number='30.0', unit='MPa'))
    """
    if reader.us:
        return Shown(_nearest(strength_mpa / STRENGTH_MPA["psi"], 10, 0, reader), "psi")
    return Shown(_figures(strength_mpa, reader, (100, 1)), "MPa")


def show_temperature(temperature_c: float, reader: Reader = METRIC) -> Shown:
    """Say a temperature [°C]; °F for a US reader. NIST SP 811.

    >>> from keeve.words.reader import US
    >>> show_temperature(21, US), show_temperature(-5)
    (Shown(number='70', unit='°F'), Shown(number='-5', unit='°C'))
    """
    if reader.us:
        return Shown(_digits(temperature_c * 1.8 + _CELSIUS_ZERO_F, 0, reader), "°F")
    return Shown(_digits(temperature_c, 0, reader), "°C")


def say(given: Shown) -> str:
    """Join a number and its unit.

    >>> say(show_mass(25))
    '25.0 kg'
    """
    return f"{given.number} {given.unit}".strip()


def _yard(showing: Callable[[float, Reader], Shown]) -> Callable[[float, Reader], Shown]:
    """Show what one cubic metre holds: to a US reader, what one cubic yard holds."""
    return lambda value, reader: showing(value * YD3_M3 if reader.us else value, reader)


def _bare(value: float, reader: Reader) -> Shown:
    return Shown(figures(value).replace(".", decimal_mark(reader.language)), "")


def _scaled(us_size: float, us_unit: str, unit: str) -> Callable[[float, Reader], Shown]:
    def showing(value: float, reader: Reader) -> Shown:
        return (
            Shown(_bare(value / us_size, reader).number, us_unit)
            if reader.us
            else Shown(_bare(value, reader).number, unit)
        )

    return showing


def _named(msg: str) -> Callable[[float, Reader], Shown]:
    """Show a unit that is a word of a language, and no symbol."""

    def showing(value: float, reader: Reader) -> Shown:
        unit = msg if reader.language == ENGLISH else str(translations(reader.language).gettext(msg))
        return Shown(_bare(value, reader).number, unit)

    return showing


SHOWS: Final[dict[str, Callable[[float, Reader], Shown]]] = {
    "mm": show_length,
    "L": show_litres,
    "kg": show_mass,
    "m³": show_space,
    "m²": show_area,
    "kg/m³": show_density,
    "MPa": show_strength,
    "°C": show_temperature,
    "kg in 1 m³": _yard(show_mass),
    "L mark": lambda value, reader: show_litres(us_mark_l(value) if reader.us else value, reader),
    "L in 1 m³": _yard(show_litres),
    "in 1 m³": _yard(_bare),
    ONE_M3: lambda value, reader: Shown("1", "yd³" if reader.us else "m³"),  # noqa: ARG005
    "in 1 m²": lambda value, reader: _bare(value * _FT2_M2 if reader.us else value, reader),
    "L in 1 m²": lambda value, reader: show_litres(value * _FT2_M2 if reader.us else value, reader),
    ONE_M2: lambda value, reader: Shown("1", "ft²" if reader.us else "m²"),  # noqa: ARG005
    "km/h": _scaled(MI_KM, "mph", "km/h"),
    "kg/m²h": _scaled(LB_KG / _FT2_M2, "lb/ft²h", "kg/m²h"),
    "L/min": _scaled(GAL_L, "gal/min", "L/min"),
    "kg/L": _scaled(LB_KG / GAL_L, "lb/gal", "kg/L"),
    "mL/bag": _named(mark("mL/bag")),
    "g/bag": _named(mark("g/bag")),
    "packs/bag": _named(mark("packs/bag")),
    "mL/100 kg": _scaled(_FL_OZ_CWT, "fl oz/cwt", "mL/100 kg"),
}
"""What is shown for each unit of the core; any other is shown as it is."""


def _round_mm(length_mm: float) -> float:
    """Round a length that is a round figure in millimetres [mm] to a round one in inches: 200 mm is said as 8 in."""
    return round(length_mm / IN_MM * 2) / 2 * IN_MM if length_mm > IN_MM * 0.9 else length_mm


def measured(value: float, unit: str, reader: Reader = METRIC) -> Shown:
    """Say a value in a unit of the core as a number and its unit; any other unit is said as it is.

    >>> measured(12, "%"), measured(1, "kg/L")
    (Shown(number='12', unit='%'), Shown(number='1', unit='kg/L'))
    """
    if unit.startswith(ROUND):
        unit = unit.removeprefix(ROUND)
        number, unit = measured(_round_mm(value) if unit == "mm" and reader.us else value, unit, reader)
        mark = decimal_mark(reader.language)
        return Shown(number.rstrip("0").rstrip(mark) if mark in number else number, unit)
    found = SHOWS.get(unit)
    if found is not None:
        return found(value, reader)
    places = PLACES.get(unit)
    return Shown(_digits(value, places, reader), "") if places is not None else Shown(_bare(value, reader).number, unit)


def show(value: float, unit: str, reader: Reader = METRIC) -> str:
    """Say a value in a unit of the core, as its reader measures it.

    >>> from keeve.words.reader import US
    >>> show(150, "mm", US), show(0.61, ""), show(12, "%"), show(300, "kg in 1 m³", US)
    ('5 7/8 in', '0.61', '12 %', '506 lb')
    """
    return say(measured(value, unit, reader))


def runs_of(numbers: list[int]) -> str:
    """Say numbers briefly: 1 to 3, 5.

    >>> runs_of([1, 2, 3, 5])
    '1–3, 5'
    """
    runs = []
    for _, group in groupby(enumerate(numbers), lambda pair: pair[1] - pair[0]):
        found = [number for _, number in group]
        runs.append(str(found[0]) if len(found) == 1 else f"{found[0]}–{found[-1]}")
    return ", ".join(runs)
