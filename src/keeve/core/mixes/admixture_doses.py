"""Admixtures in a load: how much goes in, what measures it, and the water it brings."""

from keeve.core.materials.material import CEMENTITIOUS
from keeve.core.message.errors import Code, Fault, Frozen, MixError
from keeve.core.message.said import Words, mark
from keeve.core.mixes.admixtures import (
    BY_BAG,
    Admixture,
    DoseUnit,
    Wanted,
    When,
    check_range,
    keep_under,
    to_ml_per_100kg,
    water_in_l,
)
from keeve.core.proportions.base import Proportions
from keeve.core.proportions.family import Family
from keeve.core.vessels.instruments import Drawn, draw
from keeve.core.vessels.tools import Count, in_caps
from keeve.core.vessels.vessels import Container


class AdmixtureDose(Frozen):
    """An admixture in one load."""

    key: str
    name: Words
    when: When
    mass_kg: float
    volume_l: float | None
    """Of a liquid."""
    solids_percent: float = 0.0
    water_l: float
    """What it brings to the free water."""
    caps: Count | None = None
    """In caps or cups of the crew's own, where they measure it well enough."""
    drawn: Drawn | None = None
    """Else, of a liquid, in a jug or a syringe."""
    warning: Words = ""

    @property
    def dilution_l(self) -> float:
        """Water that it is diluted with [L]: part of the first water, and taken out of it."""
        return (self.volume_l or 0.0) * self.drawn.diluted if self.drawn is not None else 0.0

    def measured_in(self, gauges: tuple[Container, ...]) -> "AdmixtureDose":
        """Say what measures it: a cap of one's own before a syringe, and dilution last. House ruling."""
        if not self.volume_l:
            return self
        caps = in_caps(gauges, self.volume_l)
        return self.model_copy(
            update={"caps": caps} if caps is not None else {"drawn": draw("admixture", self.volume_l)}
        )


def dose(
    admixture: Admixture, amount: float, unit: DoseUnit, cementitious_kg: float, bag_kg: float | None
) -> AdmixtureDose:
    """Dose one admixture for a load.

    Parameters
    ----------
    admixture : its label
    amount : dose [in `unit`]
    unit : its unit
    cementitious_kg : in the load [kg], the base of every dose
    bag_kg : mass of a bag of cement [kg], or None

    Returns
    -------
    what goes in, and the water it brings

    Raises
    ------
    MixError : ten times off the label

    References
    ----------
    Plain arithmetic.
    """
    per_100kg = to_ml_per_100kg(amount, unit, admixture.density_kg_l, bag_kg, admixture.pack_kg)
    volume_l = per_100kg / 1000 * cementitious_kg / 100
    keep_under(admixture, per_100kg / 1000 * admixture.density_kg_l)
    warning = check_range(amount, admixture, bag_kg, unit)
    liquid = admixture.form == "liquid"
    return AdmixtureDose(
        key=admixture.key,
        name=admixture.name,
        when=admixture.when,
        mass_kg=volume_l * admixture.density_kg_l,
        volume_l=volume_l if liquid else None,
        solids_percent=admixture.solids_percent,
        water_l=water_in_l(volume_l, admixture),
        warning=warning,
    )


def dose_all(
    wanted: tuple[Wanted, ...], proportions: Proportions, volume_m3: float, bag_kg: float | None
) -> tuple[AdmixtureDose, ...]:
    """Dose every admixture of a load.

    Parameters
    ----------
    wanted : admixtures with their doses
    proportions : the mix per m³
    volume_m3 : fresh volume of the load [m³]
    bag_kg : mass of a bag of cement, or of the premix [kg], or None

    Returns
    -------
    one dose for each, in order; a premix does not say how much cement it holds and takes what is dosed by the bag

    Raises
    ------
    MixError : nothing cementitious to dose on, or a slip of ten; the field names the entry

    References
    ----------
    Plain arithmetic.
    """
    if not wanted:
        return ()
    base = sum(c.dry_kg_m3 for c in proportions.constituents if c.material.role in CEMENTITIOUS) * volume_m3
    premix = sum(c.dry_kg_m3 for c in proportions.constituents if c.material.role == "premix") * volume_m3
    by_bag = base == 0 and premix > 0
    if by_bag:
        base = premix
    found: list[AdmixtureDose] = []
    for index, one in enumerate(wanted):
        if base == 0 or (by_bag and (one.unit not in BY_BAG or one.admixture.unit not in BY_BAG)):
            raise MixError(_no_base(index, by_bag=by_bag))
        try:
            found.append(dose(one.admixture, one.amount, one.unit, base, bag_kg))
        except MixError as error:
            raise MixError(*(f.under(f"admixtures.{index}.dose") for f in error.faults)) from None
    return tuple(found)


def _no_base(index: int, *, by_bag: bool) -> Fault:
    if by_bag:
        return Fault(
            Code.REFUSED,
            "A bagged mix does not say how much cement it holds: only packs for a bag can be dosed.",
            "Take a pack that is made for bags, and write it like 1 pack/bag.",
            field=f"admixtures.{index}.admixture",
        )
    return Fault(
        Code.REFUSED,
        "Admixtures are dosed on the cement, and this mix does not say how much it holds.",
        "For lime and plaster follow the label by hand.",
        field=f"admixtures.{index}.admixture",
    )


def refuse_chloride(wanted: tuple[Wanted, ...], family: Family, *, steel: bool) -> None:
    """Refuse chloride where it eats steel or ruins a thin coat.

    Parameters
    ----------
    wanted : admixtures with their doses
    family : of the mix
    steel : whether steel lies in the work

    Raises
    ------
    MixError : an accelerator with chloride with steel, or in a coat or screed

    References
    ----------
    Common practice, no source.
    """
    for index, one in enumerate(wanted):
        if one.admixture.chloride and (steel or family.no_chloride):
            why = (
                mark("No chloride with steel in it: it rusts the steel.")
                if steel
                else mark("No chloride in a thin coat: it stains and cracks.")
            )
            raise MixError(
                Fault(Code.REFUSED, why, "Take the non-chloride accelerator.", field=f"admixtures.{index}.admixture")
            )
