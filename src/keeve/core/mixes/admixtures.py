"""Admixtures: doses in the units the labels use, the water they bring, and slips of ten."""

import re
from typing import Final, Literal

from pydantic import Field

from keeve.core.measure.reading import AS_SHOWN, read_number, within
from keeve.core.measure.units import GAL_L, LB_KG
from keeve.core.message.errors import Code, Fault, Frozen, MixError
from keeve.core.message.said import Amount, Said, Words, mark

DoseUnit = Literal["%", "mL/100 kg", "fl oz/cwt", "oz/cwt", "mL/bag", "g/bag", "packs/bag"]
When = Literal["in the water", "last", "in the dry", "with the sand"]
ML_PER_100KG: Final = (GAL_L / 128 * 1000) / LB_KG
"""One US fl oz to a US cwt of 100 lb, in mL to 100 kg: 65.198."""
SLIP: Final = 5.0
"""Past five times the label's end a dose is taken for a slip of ten: common practice, no source."""
MOVED: Final = 2.0
"""Or past twice, where moving the point lands inside: house ruling."""

_UNITS: Final[dict[str, DoseUnit]] = {
    "%": "%",
    "ml/100kg": "mL/100 kg",
    "floz/cwt": "fl oz/cwt",
    "oz/cwt": "oz/cwt",
    "ml/bag": "mL/bag",
    "g/bag": "g/bag",
    "pack/bag": "packs/bag",
    "packs/bag": "packs/bag",
}
_FL_OZ_ML: Final = GAL_L / 128 * 1000
_TURNED: Final[dict[str, tuple[float, DoseUnit]]] = {
    "g/100kg": (0.001, "%"), "kg/100kg": (1.0, "%"), "l/100kg": (1000.0, "mL/100 kg"),
    "floz/bag": (_FL_OZ_ML, "mL/bag"), "pt/bag": (_FL_OZ_ML * 16, "mL/bag"), "qt/bag": (_FL_OZ_ML * 32, "mL/bag"),
    "l/bag": (1000.0, "mL/bag"), "kg/bag": (1000.0, "g/bag"), "lb/bag": (LB_KG * 1000, "g/bag"),
    "oz/bag": (LB_KG * 1000 / 16, "g/bag"),
}  # fmt: skip
"""What hands and labels say besides, in the nearest unit kept: NIST SP 811."""
BY_BAG: Final[frozenset[DoseUnit]] = frozenset(("mL/bag", "g/bag", "packs/bag"))
_TYPED: Final = re.compile(
    r"^(?P<number>\d+\s+\d/\d|\d/\d|\d*[½¼¾⅓⅔]|\d+(?:[.,]\d+)?)\s*(?P<unit>[a-z%][a-z% /0-9]*)?$"
)
_EACH: Final = re.compile(r"\s+(?:per|a|an|to the|to a|to each|to|for each|for a|each)\s+")
_HUNDREDWEIGHT: Final = re.compile(r"/\s*100\s*(?:lbs?|pounds?)$")
_WORDS: Final = (
    (re.compile(r"\bfluid ounces?\b"), "fl oz"), (re.compile(r"\bounces?\b"), "oz"),
    (re.compile(r"\bpints?\b"), "pt"), (re.compile(r"\bquarts?\b"), "qt"), (re.compile(r"\bpounds?\b|\blbs\b"), "lb"),
    (re.compile(r"\bsacks?\b|\bbags\b"), "bag"), (re.compile(r"\bsachets?\b"), "pack"),
)  # fmt: skip


class Admixture(Frozen):
    """What the label says."""

    key: str
    name: Words
    form: Literal["liquid", "powder"]
    density_kg_l: float = Field(1.0, ge=0.7, le=3.0)
    solids_percent: float = Field(ge=0, le=100)
    least: float = Field(ge=0)
    most: float = Field(gt=0)
    unit: DoseUnit
    """Unit of `least` and `most`."""
    pack_kg: float = Field(0.0, ge=0, le=50)
    """Mass of one pack, where it comes in packs for a bag."""
    never_over_percent: float | None = Field(None, gt=0, le=100)
    """Of the cementitious: a standard's limit that is refused, not warned of."""
    when: When
    chloride: bool = False
    acts: Literal["", "cuts water", "sets air"] = ""
    """What else it does to a mix."""
    acts_least: float = Field(0.0, ge=0, le=45)
    acts_most: float = Field(0.0, ge=0, le=45)
    """From and to, by the label [%]: of the water, or of air in the mix."""
    polymer: bool = False
    """Whether its solids stay as a film that takes up room."""
    polymer_kg_m3: float = Field(1050.0, ge=800, le=1500)
    source: Words


class Wanted(Frozen):
    """An admixture and how much of it."""

    admixture: Admixture
    amount: float = Field(ge=0, le=1e5)
    unit: DoseUnit
    acts_percent: float | None = Field(None, ge=0, le=45)
    """How much it cuts or sets, where it is not the middle of its label; 0 for nothing."""
    hold_cement: bool = False
    """Of a reducer in a design: whether it keeps its cement, so that w/c falls."""


def read_dose(text: str) -> tuple[float, DoseUnit]:
    """Read what a person types for a dose: `0.3 %`, `400 mL/100 kg`, `4 fl oz per 100 lb`, `½ pack a bag`.

    Parameters
    ----------
    text : number and unit; a dose without a unit is refused

    Returns
    -------
    the number and its unit

    Raises
    ------
    MixError : unreadable, or no unit

    References
    ----------
    Common practice, no source.

    >>> read_dose("4 fl oz/cwt"), read_dose("0,3 %"), read_dose("½ pack a bag")
    ((4.0, 'fl oz/cwt'), (0.3, '%'), (0.5, 'packs/bag'))
    >>> read_dose("4 fluid ounces per 100 lb"), read_dose("300 g/100 kg"), read_dose("2 oz/100 lb")
    ((4.0, 'fl oz/cwt'), (0.3, '%'), (2.0, 'oz/cwt'))
    """
    plain = _EACH.sub("/", within(text).lower().strip())
    for pattern, word in _WORDS:
        plain = pattern.sub(word, plain)
    found = _TYPED.match(_HUNDREDWEIGHT.sub("/cwt", plain))
    hint = mark("Write it like 400 mL/100 kg, 4 fl oz/cwt, 120 mL/bag, 1 pack/bag or 0.3 %.")
    if found is None:
        raise MixError(Fault(Code.UNREADABLE, Said("“{typed}” cannot be read as a dose.", typed=text[:40]), hint))
    if not found["unit"]:
        raise MixError(Fault(Code.MISSING, "A dose needs its unit.", hint))
    unit, number = found["unit"].replace(" ", ""), read_number(found["number"])
    if unit in _TURNED:
        size, kept = _TURNED[unit]
        return number * size, kept
    if unit not in _UNITS:
        raise MixError(Fault(Code.UNREADABLE, Said("“{typed}” has a unit no label uses.", typed=text[:40]), hint))
    return number, _UNITS[unit]


def to_ml_per_100kg(
    amount: float, unit: DoseUnit, density_kg_l: float, bag_kg: float | None, pack_kg: float = 0.0
) -> float:
    """Bring a dose to millilitres per 100 kg of cementitious; of a premix, per 100 kg of what is in the bag.

    Parameters
    ----------
    amount : dose [in `unit`]
    unit : its unit
    density_kg_l : of the admixture [kg/L]
    bag_kg : mass of a bag of cement, or of the premix [kg], where the dose counts by the bag
    pack_kg : mass of a pack of the admixture [kg], where it counts by the pack

    Returns
    -------
    dose [mL/100 kg]

    Raises
    ------
    MixError : by the bag, and the cement does not come in bags

    Notes
    -----
    1 fl oz/cwt = 65.198 mL/100 kg; x % by mass = x/100 × 100 kg / density.

    References
    ----------
    Plain arithmetic on NIST SP 811.

    >>> round(to_ml_per_100kg(1, "fl oz/cwt", 1.0, None), 3), round(to_ml_per_100kg(125, "mL/bag", 1.0, 25))
    (65.198, 500)
    """
    if unit == "mL/100 kg":
        return amount
    if unit == "fl oz/cwt":
        return amount * ML_PER_100KG
    if unit == "oz/cwt":  # an ounce in 100 lb is 1/1600
        return amount / 16 / density_kg_l * 1000
    if unit == "%":
        return amount / density_kg_l * 1000
    if bag_kg is None:
        raise MixError(Fault(Code.MISSING, "A dose by the bag needs to know the bag.", "Give it per 100 kg."))
    if unit == "mL/bag":
        return amount / bag_kg * 100
    grams = amount if unit == "g/bag" else amount * pack_kg * 1000
    return grams / density_kg_l / bag_kg * 100


def water_in_l(volume_l: float, admixture: Admixture, *, by: Literal["mass", "volume"] = "mass") -> float:
    """Water that a liquid admixture brings.

    Parameters
    ----------
    volume_l : of the admixture [L]
    admixture : its label
    by : mass counts volume × density × (1 − solids); volume counts volume × (1 − solids), as many do

    Returns
    -------
    water [L]; none for a powder

    References
    ----------
    Common practice, no source.
    """
    if admixture.form == "powder":
        return 0.0
    share = 1 - admixture.solids_percent / 100
    return volume_l * share * (admixture.density_kg_l if by == "mass" else 1.0)


def check_range(amount: float, admixture: Admixture, bag_kg: float | None, unit: DoseUnit) -> Words:
    """Set a dose against its label.

    Parameters
    ----------
    amount : dose [in `unit`]
    admixture : its label
    bag_kg : mass of a bag of cement [kg], or None
    unit : unit of the dose

    Returns
    -------
    a warning where it is outside the label's range, else nothing

    Raises
    ------
    MixError : a slip of ten by the look of it: more than twice past an end and inside once the point is moved,
        or more than five times past an end

    References
    ----------
    Common practice, no source.
    """
    if unit == "oz/cwt" and admixture.form == "liquid":
        said = Said("{admixture} is a liquid: fluid ounces, or ounces by weight?", admixture=admixture.name)
        raise MixError(Fault(Code.MISSING, said, "Write fl oz to 100 lb, or per cent by weight.", field=""))
    density = admixture.density_kg_l
    dose = to_ml_per_100kg(amount, unit, density, bag_kg, admixture.pack_kg)
    low = to_ml_per_100kg(admixture.least, admixture.unit, density, bag_kg, admixture.pack_kg)
    high = to_ml_per_100kg(admixture.most, admixture.unit, density, bag_kg, admixture.pack_kg)
    too_large = dose > high * SLIP or (dose > high * MOVED and low <= dose / 10 <= high)
    too_small = dose < low / SLIP or (dose < low / MOVED and low <= dose * 10 <= high)
    if too_large or too_small:
        raise MixError(
            Fault(
                Code.OUT_OF_RANGE,
                Said(
                    "{dose} of {admixture} looks ten times too much: its label says {least} to {most}."
                    if too_large
                    else "{dose} of {admixture} looks ten times too little: its label says {least} to {most}.",
                    dose=Amount(amount, unit),
                    admixture=admixture.name,
                    least=Amount(admixture.least, admixture.unit),
                    most=Amount(admixture.most, admixture.unit),
                ),
                "Check the point and the unit.",
                field="",
                value=amount,
                limit=admixture.most if too_large else admixture.least,
            )
        )
    if not low <= dose * (1 + AS_SHOWN) or not dose <= high * (1 + AS_SHOWN):
        return Said(
            "{admixture}: {dose} is outside its label's {least} to {most}.",
            admixture=admixture.name,
            dose=Amount(amount, unit),
            least=Amount(admixture.least, admixture.unit),
            most=Amount(admixture.most, admixture.unit),
        )
    return ""


def keep_under(admixture: Admixture, percent: float) -> None:
    """Refuse more of an admixture than its standard allows [% of the cementitious]. As the label's own source."""
    limit = admixture.never_over_percent
    if limit is None or percent <= limit * (1 + 1e-9):
        return
    raise MixError(
        Fault(
            Code.OUT_OF_RANGE,
            Said(
                "{admixture}: {dose} of the cement is over the {limit} that its standard allows.",
                admixture=admixture.name,
                dose=Amount(percent, "%"),
                limit=Amount(limit, "%"),
            ),
            "Take less of it, or a stronger colour.",
            field="",
            value=percent,
            limit=limit,
            unit="%",
        )
    )
