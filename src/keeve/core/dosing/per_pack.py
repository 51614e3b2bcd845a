"""A mix in the amounts people think in: a cubic metre, one bag, one gauge of binder."""

from typing import Literal

from keeve.core.dosing.card import gauge_kg_m3
from keeve.core.materials.material import BINDERS, Role
from keeve.core.materials.moisture import Heaps
from keeve.core.message.errors import Frozen
from keeve.core.message.said import Words
from keeve.core.mixes.mix import Mix
from keeve.core.proportions.base import Constituent, Proportions, WaterWindow
from keeve.core.vessels.tools import WEIGHED
from keeve.core.vessels.vessels import Container, brim_l


class PortionDose(Frozen):
    """One constituent of a portion."""

    material_key: str
    name: Words
    role: Role
    dry_kg: float
    gauges: float | None
    """How many struck gauges that is, for what a gauge measures honestly."""


class Portion(Frozen):
    """So much of a mix, before anybody has looked at the heap: aggregates as it counts them, water all free."""

    of: Literal["volume", "pack", "gauge"]
    made_m3: float
    doses: tuple[PortionDose, ...]
    water_l: WaterWindow
    pack_kg: float | None = None
    pack_word: str = "bag"


def portions(mix: Mix, proportions: Proportions, gauge: Container, whole_m3: float = 1.0) -> tuple[Portion, ...]:
    """State a mix per volume, per pack and per gauge of binder.

    Parameters
    ----------
    mix : the mix
    proportions : its proportions
    gauge : container that measures the binder, struck
    whole_m3 : the volume wanted first [m³], > 0

    Returns
    -------
    portions: the volume; one pack, where the binder comes in packs; one gauge, where the binder may be gauged

    Notes
    -----
    Made by one pack: pack / kg per m³. Made by one gauge: V ρ_bulk / kg per m³.

    References
    ----------
    Plain arithmetic.
    """
    bagged = next(c for c in proportions.constituents if c.material.key == mix.bagged().key)
    found = [_portion("volume", proportions, gauge, whole_m3)]
    pack_kg = mix.bag_kg()
    if pack_kg is not None:
        made = pack_kg / bagged.dry_kg_m3
        pack = {"pack_kg": pack_kg * (1 + bagged.material.held_water_percent / 100)}
        word = {"pack_word": bagged.material.pack_word}
        found.append(_portion("pack", proportions, gauge, made).model_copy(update=pack | word))
    if bagged.material.role in BINDERS - {"premix"}:
        made = brim_l(gauge.section) / 1000 * gauge_kg_m3(bagged, _as_stated(proportions)) / bagged.dry_kg_m3
        found.append(_portion("gauge", proportions, gauge, made))
    return tuple(found)


def _as_stated(proportions: Proportions) -> Heaps:
    """Return heaps as the mix counts them, so that its parts come out as its name says: damp loose, or bone dry."""
    return Heaps({c.material.key: 0.0 for c in proportions.constituents if c.stated_damp_kg_m3 is None})


def _portion(
    of: Literal["volume", "pack", "gauge"], proportions: Proportions, gauge: Container, made_m3: float
) -> Portion:
    gauge_m3 = brim_l(gauge.section) / 1000
    heaps = _as_stated(proportions)

    def dose(part: Constituent) -> PortionDose:
        material, dry_kg = part.material, part.dry_kg_m3 * made_m3
        honest = material.role not in WEIGHED or material.role == "plaster"
        return PortionDose(
            material_key=material.key,
            name=material.name,
            role=material.role,
            dry_kg=dry_kg,
            gauges=dry_kg / gauge_kg_m3(part, heaps) / gauge_m3 if honest else None,
        )

    return Portion(
        of=of,
        made_m3=made_m3,
        doses=tuple(dose(part) for part in proportions.constituents),
        water_l=proportions.water.times(made_m3),
    )
