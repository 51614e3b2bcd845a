"""The one thing every way of stating a mix is reduced to: kilograms per cubic metre of fresh mix."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any, ClassVar, Final, Literal, NamedTuple

from pydantic import model_validator

from keeve.core.materials.material import CEMENTITIOUS, Material
from keeve.core.measure import quantities
from keeve.core.measure.reading import AS_SHOWN
from keeve.core.measure.units import WATER_KG_M3
from keeve.core.message.errors import Code, Fault, Frozen, MixError
from keeve.core.message.said import WHOLE, Amount, Said, Words, mark
from keeve.core.message.working import Given, Working
from keeve.core.proportions.asked import Asked, AskedList


class Constituent(NamedTuple):
    """One dry material of a mix."""

    material: Material
    dry_kg_m3: float
    """Oven-dry mass per cubic metre of fresh mix."""
    stated_damp_kg_m3: float | None = None
    """Dry mass per m³ of gauge, where the mix was stated for damp loose sand."""
    loose_bulk_kg_m3: float = 0.0
    """Dry loose mass per m³ of gauge, as the mix counts it; 0 takes the material's own."""

    @property
    def solid_m3(self) -> float:
        """Volume of the grains per m³ of fresh mix [m³]."""
        return self.dry_kg_m3 / self.material.particle_density_kg_m3

    @property
    def gauge_bulk_kg_m3(self) -> float:
        """Dry loose bulk density used when gauging [kg/m³]."""
        return self.loose_bulk_kg_m3 or self.material.loose_bulk_kg_m3


class WaterWindow(NamedTuple):
    """Lowest, target and highest free water; the highest is never passed. Unit by context."""

    low: float
    target: float
    high: float

    def times(self, factor: float) -> "WaterWindow":
        """Return the window for `factor` times [-] as much mix."""
        return WaterWindow(self.low * factor, self.target * factor, self.high * factor)

    @classmethod
    def of(cls, low: float, target: float, high: float) -> "WaterWindow":
        """Return the window of a label [any one unit]; a target read off a page just past an end is that end.

        low, target, high : as the label gives them [any one unit]. Plain arithmetic.
        """
        return cls(low, min(max(target, low), high), high)


Divide = Literal["never", "whole", "half", "any"]
"""Whether packs are never divided (a kit whose maker says so), stay whole where they fit (a premix settles), may be
halved (a kit), or need not be kept at all."""


def part_given(what: str, material: Material, parts: float) -> tuple[Given, Given]:
    """Return what a working prints of a part: its size [as `what` says] and its density [kg/m³]. Plain arithmetic."""
    named = Said("{material}, particle density", material=material.name)
    return Given(Said(what, material=material.name), parts, ""), Given(named, material.particle_density_kg_m3, "kg/m³")


class Part(Frozen):
    """One material and how many parts of it, by volume or by mass as its mix says."""

    material: Material
    parts: quantities.Part


def refuse_unordered(low: float, target: float, high: float, field: str = "water_target_l") -> None:
    """Refuse a label whose three waters do not rise, by more than the last figure of what a page shows.

    Parameters
    ----------
    low, target, high : as the label gives them [L, or any one unit]
    field : entry the refusal belongs to

    Raises
    ------
    MixError : they do not rise

    References
    ----------
    Plain arithmetic.
    """
    if not (low <= target * (1 + AS_SHOWN) and target <= high * (1 + AS_SHOWN) and low <= high):
        raise MixError(
            Fault(
                Code.OUT_OF_RANGE,
                "The water must rise from least to right to most.",
                "Copy the three figures again.",
                field=field,
            )
        )


WATER_LABELS: Final = (mark("Water, least"), mark("Water, right"), mark("Water, never past"))


class WaterRule(Frozen):
    """Free water where the mix itself does not state it."""

    per: Literal["kg dry solids", "m3 fresh"]
    low: quantities.Plain
    target: quantities.Plain
    high: quantities.Plain
    source: Words

    @model_validator(mode="after")
    def _rises(self) -> "WaterRule":
        refuse_unordered(self.low, self.target, self.high, "target")
        return self

    def asked(self) -> tuple[Asked, ...]:
        """List its three figures, as a mix that holds it as `water` asks for them."""
        per = mark("kg to a kg of dry solids") if self.per == "kg dry solids" else mark("kg in a cubic metre")
        low, target, high = WATER_LABELS
        return (
            Asked("water.low", low, hint=per, job=False),
            Asked("water.target", target, hint=per, job=False),
            Asked("water.high", high, hint=per, job=False),
        )

    def given(self) -> Given:
        """Return what a working prints of the rule."""
        if self.per == "kg dry solids":
            return Given("water to dry solids", self.target, "")
        return Given(Said("water in {where}", where=WHOLE), self.target, "kg in 1 m³")

    def window(self) -> WaterWindow:
        """Return the rule's own three figures, in the unit it names."""
        return WaterWindow.of(self.low, self.target, self.high)


def close(masses: Sequence[tuple[Material, float]], rule: WaterRule, air: float) -> tuple[float, WaterWindow]:
    """Scale masses until they fill one cubic metre together with their water and air.

    Parameters
    ----------
    masses : materials with masses in the right proportion [kg]
    rule : free water
    air : volume of air [m³/m³], 0..1

    Returns
    -------
    the factor for the masses [-], and the free water [kg/m³]

    Raises
    ------
    MixError : water and air leave no room for solids

    Notes
    -----
    k from k Σ m/ρ + m_w/1000 + air = 1; water per mass of solids scales with k, water per m³ does not.

    References
    ----------
    Absolute volume method of ACI 211.1-91, from memory.
    """
    solids = sum(mass / material.particle_density_kg_m3 for material, mass in masses)
    if rule.per == "kg dry solids":
        wanted = rule.window().times(sum(mass for _, mass in masses))
        factor = (1 - air) / (solids + wanted.target / WATER_KG_M3)
        return factor, wanted.times(factor)
    room = 1 - air - rule.target / WATER_KG_M3
    if room <= 0:
        raise MixError(Fault(Code.OUT_OF_RANGE, "Water and air fill the whole volume.", "Take less water."))
    return room / solids, rule.window()


class Proportions(Frozen):
    """A mix, per cubic metre of fresh mix, dry aggregate, free water at target."""

    constituents: tuple[Constituent, ...]
    water: WaterWindow
    """Free water [kg/m³]."""
    air: float
    """Volume of air [m³/m³]."""
    admixture_m3: float = 0.0
    """Volume of what admixtures leave in the mix besides water [m³/m³]."""
    workings: tuple[Working, ...] = ()
    warnings: tuple[Words, ...] = ()

    @property
    def dry_kg_m3(self) -> float:
        """Dry mass of all constituents [kg/m³]."""
        return sum(c.dry_kg_m3 for c in self.constituents)

    @property
    def fresh_kg_m3(self) -> float:
        """Fresh density at target water [kg/m³]."""
        return self.dry_kg_m3 + self.water.target

    def volume_m3(self) -> float:
        """Sum of the absolute volumes [m³]; one, for a mix that closes. Plain arithmetic."""
        return sum(c.solid_m3 for c in self.constituents) + self.water.target / 1000 + self.air + self.admixture_m3

    def scaled(
        self,
        water: WaterWindow,
        factor_of: Callable[[Constituent], float],
        *,
        air: float | None = None,
        more_m3: float = 0.0,
    ) -> "Proportions":
        """Return the mix with other water [kg/m³], each constituent times its factor [-], and other air [m³/m³].

        `more_m3` is added to what admixtures leave in it [m³/m³]. Plain arithmetic.
        """
        return self.model_copy(
            update={
                "constituents": tuple(c._replace(dry_kg_m3=c.dry_kg_m3 * factor_of(c)) for c in self.constituents),
                "water": water,
                "air": self.air if air is None else air,
                "admixture_m3": self.admixture_m3 + more_m3,
            }
        )


BASES: dict[str, type["Basis"]] = {}
"""Every way of stating a mix by its name; each enters itself when its module is read."""


class Basis(Frozen):
    """One way of stating a mix. All that the house must know about it, it answers here."""

    basis: str
    judged: ClassVar[bool] = True
    """Whether it must keep to the envelope of its family; a label's rounding may leave it."""
    weighed: ClassVar[bool] = False
    """Whether it is usually weighed out, so that loads all alike are no trouble."""
    by_dry_mass: ClassVar[bool] = False
    """Whether the placed volume follows the dry mass alone, whatever the water."""

    by_volume: ClassVar[bool] = False
    """Whether its binders are gauged like its sand; where not, they go by the bag or the scale."""
    states_ratio: ClassVar[bool] = False
    """Whether water to cementitious is what it states: a reducer then saves cement, else it lowers w/c."""
    water_fields: ClassVar[tuple[str, str, str] | None] = None
    """Its own fields for the water it wants, the least and the most of it; none for one that works its water out."""
    claims_yield: ClassVar[bool] = False
    """Whether it says itself what a pack or a lift makes, so that a crew may find it makes more or less."""
    designs_water: ClassVar[bool] = False
    """Whether its water was designed: none is ever proposed past it, however dry a heap may be."""

    @classmethod
    def __pydantic_init_subclass__(cls, **_: Any) -> None:
        BASES[cls.model_fields["basis"].default] = cls

    def materials(self) -> tuple[Material, ...]:
        """Return the dry materials."""
        raise NotImplementedError

    def proportions(self) -> Proportions:
        """Reduce the mix to masses per cubic metre of fresh mix, its water and its air.

        Raises
        ------
        MixError : such a mix cannot be made
        """
        raise NotImplementedError

    def asked(self) -> tuple[Asked | AskedList, ...]:
        """List what a person may set, in the order a form shows it."""
        return ()

    def understood(self, typed: dict[str, Any]) -> dict[str, Any]:
        """Return figures as typed with what follows from them: one may stand for another."""
        return typed

    def own_bag_kg(self) -> float | None:
        """Mass of the pack the mix itself names [kg]."""
        return None

    @property
    def divide(self) -> Divide:
        """How far the packs of such a mix may be divided."""
        return "any"

    def pack_l(self) -> float:
        """Fresh volume of one pack that is not divided [L]; 0 where any amount can be mixed."""
        return 0.0

    def yielding(self, share: float, typed: Mapping[str, Any]) -> "Basis":  # noqa: ARG002 - for those that claim one
        """Return the mix as one that makes so many times what it claims [-]; what a job typed itself stands."""
        return self

    def parts_by_volume(self) -> tuple[Part, ...]:
        """Return its parts as it states them by volume, the first binder first; none where it states others."""
        return ()

    def stated_mpa(self) -> float | None:
        """Characteristic or specified strength it is made for [MPa]; None where it states none."""
        return None

    def entrains_air(self) -> bool:
        """Whether air is entrained on purpose."""
        return False

    def water_share(self) -> float | None:
        """How full of water the vessel may be before the powder goes in [-]; nothing where it does not matter."""
        return None

    def sand_as(self) -> str:
        """Say how parts of sand by volume are meant; empty for a mix that has none."""
        return ""


def cap_water(proportions: Proportions, ratio_cap: float) -> Proportions:
    """Hold the water of a mix under a highest water to cementitious ratio.

    Parameters
    ----------
    proportions : the mix
    ratio_cap : highest free water ÷ cementitious [kg/kg], > 0

    Returns
    -------
    the mix with its highest water lowered where the cap asks for it

    Raises
    ------
    MixError : the mix's own target is over the cap, or it holds nothing cementitious

    Notes
    -----
    m_w,high = min(m_w,high, cap × m_cm).

    References
    ----------
    Plain arithmetic; caps come from codes, ACI 211.1-91 table 6.3.4(b) among them.
    """
    base = sum(c.dry_kg_m3 for c in proportions.constituents if c.material.role in CEMENTITIOUS)
    if base == 0:
        raise MixError(
            Fault(
                Code.REFUSED,
                "This mix does not say how much cement it holds.",
                "Leave the cap empty.",
                field="ratio_cap",
            )
        )
    most, water = ratio_cap * base, proportions.water
    if water.target > most * (1 + 1e-9):
        raise MixError(
            Fault(
                Code.OUT_OF_RANGE,
                Said(
                    "This mix wants a water to cementitious ratio of {ratio}, over your {cap}.",
                    ratio=Amount(water.target / base, "ratio"),
                    cap=Amount(ratio_cap, ""),
                ),
                "Take a richer mix or a design, or let a water reducer do the work.",
                field="ratio_cap",
                value=water.target / base,
                limit=ratio_cap,
            )
        )
    return proportions.model_copy(update={"water": water._replace(high=min(water.high, most))})
