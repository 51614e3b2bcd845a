"""The size of every unit people use, in the core's own: millimetre, litre, kilogram, megapascal."""

from typing import Final

# Exact by definition: NIST Special Publication 811 (2008), appendix B.8.
LB_KG: Final = 0.45359237
IN_MM: Final = 25.4
GAL_L: Final = 3.785411784
FT3_M3: Final = 0.3048**3
YD3_M3: Final = 0.9144**3
WATER_KG_M3: Final = 1000.0
"""1 kg = 1 L within 0.3 % from 0 to 25 °C; the error is below what a jug can show."""

FT_MM: Final = 12 * IN_MM
LENGTH_MM: Final[dict[str, float]] = (
    {"mm": 1.0, "cm": 10.0, "m": 1000.0, "yd": 3 * FT_MM}
    | dict.fromkeys(("in", "inch", "inches", '"', "″", "”"), IN_MM)
    | dict.fromkeys(("ft", "foot", "feet", "'", "′", "’"), FT_MM)
)
VOLUME_L: Final[dict[str, float]] = (
    {"ml": 0.001, "cl": 0.01, "cm3": 0.001, "m3": 1000.0}
    | dict.fromkeys(("l", "litre", "litres", "liter", "liters"), 1.0)
    | {"floz": GAL_L / 128, "pt": GAL_L / 8, "qt": GAL_L / 4, "gal": GAL_L}
    | {"in3": (IN_MM / 100) ** 3, "ft3": FT3_M3 * 1000, "yd3": YD3_M3 * 1000}
)
AREA_M2: Final[dict[str, float]] = {
    "m2": 1.0,
    "cm2": 1e-4,
    "mm2": 1e-6,
    "in2": IN_MM**2 * 1e-6,
    "ft2": FT_MM**2 * 1e-6,
} | {"yd2": 9 * FT_MM**2 * 1e-6, "sqft": FT_MM**2 * 1e-6, "sqm": 1.0}
MASS_KG: Final = {"g": 0.001, "kg": 1.0, "t": 1000.0, "oz": LB_KG / 16, "lb": LB_KG, "lbs": LB_KG}
SPEED_KM_H: Final = {
    "km/h": 1.0, "kph": 1.0, "mph": 1.609344, "m/s": 3.6, "kn": 1.852, "knots": 1.852,
}  # fmt: skip
MI_KM: Final = 1.609344
PERCENT: Final = {"%": 1.0}
PLAIN: Final[dict[str, float]] = {}
STRENGTH_MPA: Final = {
    "mpa": 1.0,
    "n/mm2": 1.0,
    "psi": LB_KG * 9.80665 / (IN_MM * IN_MM),
    "ksi": 1000 * LB_KG * 9.80665 / (IN_MM * IN_MM),
}
"""1 psi = 0.006 894 757 MPa."""
DENSITY_KG_M3: Final = {
    "kg/m3": 1.0,
    "t/m3": 1000.0,
    "kg/l": 1000.0,
    "g/cm3": 1000.0,
    "lb/ft3": LB_KG / FT3_M3,
    "lb/yd3": LB_KG / YD3_M3,
}
