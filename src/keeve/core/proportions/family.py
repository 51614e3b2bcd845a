"""The families of mixes: a closed list, and what the house must know of each."""

from typing import Final, Literal, NamedTuple

from keeve.core.message.said import Words, mark


class Plausible(NamedTuple):
    """Usual bounds of one family: water [kg/m³], fresh density [kg/m³], water to binder [-]."""

    water: tuple[float, float]
    fresh: tuple[float, float]
    ratio: tuple[float, float]


_CHECK: Final = mark("Check the parts, the materials and the water; if you mean it, say so under “Outside the usual”.")
_CHECK_PERVIOUS: Final = mark(
    "Said as 3 : 1 by volume it holds for fluffy cement only, 830 to 1000 to the cubic metre: settled cement fills the "
    "voids. State it by mass, 4 to 4½ of rock; if you mean it, say so under “Outside the usual”."
)


class Family(NamedTuple):
    """One family; what is not said of it does not hold."""

    name: str
    usual: Plausible | None = None
    """Outside it a mix is stopped and asked about."""
    check: Words = _CHECK
    """What to look at then."""
    thumb: Literal["", "concrete", "mortar"] = ""
    """Whose rule of thumb is said of it."""
    bare: bool = False
    """Its work lies open to the air and dries."""
    thin: bool = False
    """Thin or rich in fume: protected from the lower bound of drying on, and no chloride in it."""
    paced: bool = False
    """Takes a retarder or an accelerator."""
    roofed: bool = False
    """Its work is done under a roof."""
    no_chloride: bool = False
    """Chloride ruins it also without steel."""
    counts_reducer: bool = False
    """Its stated water counts on a reducer already: one by itself cuts nothing more."""
    dries_long: bool = False
    """Its drying is planned by its thickness."""
    cast: bool = False
    """Poured into moulds, one bucket at a time."""
    w_c_warned: bool = False
    """Too high a w/c is warned of."""


# All of it common practice, no source. For cement-lime mortar the lower ratio is taken as 0.45, not 0.55: base-coat
# stucco at its own usual water (0.145 kg per kg dry, 3.6 sand to 1 Portland) comes to 0.50, and at its driest to 0.45.
FAMILIES: Final = {
    one.name: one
    for one in (
        Family(
            "concrete", Plausible((140, 245), (2250, 2480), (0.35, 1.0)), thumb="concrete", bare=True, paced=True,
            w_c_warned=True,
        ),
        Family(
            "cement mortar", Plausible((250, 310), (1850, 2200), (0.5, 0.9)), thumb="mortar", bare=True, paced=True
        ),
        Family(
            "cement-lime mortar", Plausible((250, 310), (1800, 2150), (0.45, 0.9)), thumb="mortar", bare=True,
            paced=True,
        ),
        Family("hydraulic lime mortar", Plausible((250, 340), (1800, 2120), (0.8, 1.3)), thumb="mortar"),
        Family("lime putty"),
        Family(
            "screed", Plausible((130, 180), (1950, 2250), (0.3, 0.5)), bare=True, roofed=True, no_chloride=True,
            dries_long=True,
        ),
        Family("dry-pack"),
        Family("grout"),
        Family(
            "pervious", Plausible((85, 130), (1600, 2050), (0.26, 0.36)), _CHECK_PERVIOUS, bare=True, paced=True
        ),
        Family(
            "high-strength", Plausible((210, 260), (2150, 2350), (0.2, 0.3)), bare=True, thin=True, paced=True,
            roofed=True, no_chloride=True, counts_reducer=True,
        ),
        Family("premix coat", bare=True, thin=True, paced=True, no_chloride=True, counts_reducer=True),
        Family("kit", bare=True, thin=True, counts_reducer=True),
        Family("plaster", roofed=True, cast=True),
        Family("gypsum-sand", roofed=True),
        Family("hemp-lime"),
    )
}  # fmt: skip


def family_of(name: str) -> Family:
    """Return a family by its name; of one that is not known here nothing holds. Plain arithmetic.

    >>> family_of("screed").dries_long, family_of("of another yard").dries_long
    (True, False)
    """
    return FAMILIES.get(name) or Family(name)
