"""What can hurt at a mix, with its own figures, and at which step each of it matters."""

import math
from collections.abc import Callable
from typing import Final

from keeve.core.conditions.temperature import WATER_C, plaster_peak_c
from keeve.core.dosing.card import Card
from keeve.core.materials.material import WET_HEAPS
from keeve.core.message.said import Amount, Said, Words
from keeve.core.mixes.mix import Mix
from keeve.core.procedures.procedure import Step
from keeve.core.procedures.step_template import TURNED
from keeve.core.proportions.base import Proportions

HEAVY_KG: Final = 20.0
"""A pack over this wants two hands or two people: common practice, no source."""


def heaviest_pack_kg(mix: Mix) -> float:
    """Mass of the heaviest pack somebody lifts for a mix [kg]; 0 where nothing comes in packs.

    Common practice, no source: of a binder beside the bagged one, the smallest pack it is sold in.
    """
    bagged = mix.bagged()
    others = [min(p.mass_kg for p in m.packs) for m in mix.materials() if m.packs and m.key != bagged.key]
    return max([mix.sold_kg() or 0.0, *others])


def cautions_of(mix: Mix, proportions: Proportions, begins_c: float | None = None) -> dict[str, Words]:
    """Say what can hurt at a mix.

    Parameters
    ----------
    mix, proportions : which mix, and as it is made here
    begins_c : how warm it comes out [°C]; None takes water of the tap

    Returns
    -------
    sentences by what they are of: lifting by the heaviest pack, heat of plaster by its water

    References
    ----------
    Common practice, no source; heat as `plaster_peak_c`.
    """
    found: dict[str, Words] = {caution.key: caution.sentence for caution in mix.cautions}
    heavy = heaviest_pack_kg(mix)
    found.pop("lifting", None)
    if heavy > HEAVY_KG:
        found["lifting"] = Said("A pack of {mass} takes two hands or two people.", mass=Amount(heavy, "~kg"))
    powder = [c for c in proportions.constituents if c.material.role == "plaster"]
    if "plaster-heat" in found and powder:
        powder_kg = math.fsum(c.dry_kg_m3 for c in powder)
        sand_kg = math.fsum(c.dry_kg_m3 for c in proportions.constituents if c.material.role in WET_HEAPS)
        start_c = WATER_C if begins_c is None else begins_c
        ratio, heat = proportions.water.target / powder_kg, powder[0].material.heat_kj_kg
        peak = plaster_peak_c(ratio, heat, sand_kg / powder_kg, start_c)
        found["plaster-heat"] = Said(
            "Setting plaster burns, up to {heat} inside: never cast on or round a hand, face or limb.",
            heat=Amount(round(peak), "°C"),
        )
    return found


_DUSTY: Final = frozenset(("cement", "supplementary", "lime", "premix", "plaster", "hemp", "powder", "fibre"))


def _adds(card: Card, step: Step, roles: frozenset[str]) -> bool:
    role_of = {dose.material_key: dose.role for dose in card.doses}
    return any(role_of.get(part.material_key) in roles for part in step.doses)


_MATTERS: Final[dict[str, Callable[[Card, int, Step], bool]]] = {
    "dust": lambda card, _, step: _adds(card, step, _DUSTY),
    "lifting": lambda card, _, step: _adds(card, step, frozenset(("cement", "lime", "premix", "plaster"))),
    "alkali": lambda card, at, _: at == card.meets,
    "machine": lambda _, __, step: step.kind in (*TURNED, "scrape"),
    "plaster-heat": lambda _, __, step: step.kind == "use",
    "plaster-drain": lambda _, __, step: step.kind == "use",
    "waste-water": lambda _, __, step: step.kind == "use",
}
"""By what a caution is of: whether it matters at a step of a load."""


def at_steps(card: Card, cautions: dict[str, Words]) -> list[list[Words]]:
    """Put each caution to the first step of a load where it matters; what matters at none stays with the whole.

    Parameters
    ----------
    card : the load
    cautions : as `cautions_of`

    Returns
    -------
    for each step, what to mind there

    References
    ----------
    Common practice, no source.
    """
    found: list[list[Words]] = [[] for _ in card.steps]
    for key, words in cautions.items():
        matters = _MATTERS.get(key)
        at = next((i for i, step in enumerate(card.steps) if matters and matters(card, i, step)), None)
        if at is not None:
            found[at].append(words)
    return found
