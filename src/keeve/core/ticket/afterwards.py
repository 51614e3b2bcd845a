"""What a ticket says of the time after the plan: life, waiting for water to show, stages, cleaning, leftovers."""

from typing import Any, Final

from keeve.core.hardening.clock import CEMENT_REF_C, PLASTER_REF_C, REDUCED_WET_OUT_S, life_at_min, stages_of
from keeve.core.message.said import Amount, Said, Words
from keeve.core.mixes.mix import LateWater, Mix
from keeve.core.ticket.cards import TicketCard
from keeve.core.ticket.rescue import dry_to_add_kg
from keeve.core.ticket.ticket import Rescue
from keeve.core.vessels.vessels import MixerKind

MOST_BROUGHT: Final = 0.9
"""Make-up that brings more than this share of the target water itself does not dry a load."""


def ref_c(mix: Mix) -> float:
    """Say at which temperature the life of a mix is stated [°C]. Common practice, no source."""
    return PLASTER_REF_C if mix.bagged().role == "plaster" else CEMENT_REF_C


def afterwards(mix: Mix, kind: MixerKind, begins_c: float | None, *, reduced: bool) -> dict[str, Any]:
    """Return the fields of a ticket that tell what comes after the water.

    Parameters
    ----------
    mix : what is made
    kind : of mixer
    begins_c : how warm it comes out, or the air is [°C]; None where nobody knows
    reduced : whether a reducer or plasticiser goes in: it makes water show later

    References
    ----------
    Common practice, no source; each record of the catalogue names its own.
    """
    return {
        "life_min": mix.working_life_min,
        "by_dry_mass": mix.basis.by_dry_mass,
        "temperatures": mix.temperatures.sentence if mix.temperatures else "",
        "life_ref_c": ref_c(mix),
        "wet_out_s": max(mix.wet_out_s, REDUCED_WET_OUT_S if reduced else 0),
        "turn_again_min": mix.turn_again_min,
        "stages": stages_of(mix.stages, mix.working_life_min, PLASTER_REF_C if begins_c is None else begins_c),
        "cleaning": mix.cleaning.get(kind, ()),
        "leftovers": mix.leftovers,
    }


def rescue_of(mix: Mix, card: TicketCard, begins_c: float | None) -> Rescue:
    """Say what may be done to a load that came out too dry or too wet, beginning so warm [°C].

    As `dry_to_add_kg`; how long it may be used: the shorter of its life and its standard, common practice.
    """
    rule = mix.late_water
    life_min = mix.working_life_min if begins_c is None else life_at_min(mix.working_life_min, ref_c(mix), begins_c)
    per_litre = None
    brought = card.water.brought_l - card.water.once_l
    if rule.dry_may_be_added and brought < MOST_BROUGHT * card.water.free.target:
        per_litre = dry_to_add_kg(1.0, card.water.free.target / card.dry_kg, brought / card.dry_kg)
    return Rescue(
        may_take_water=rule.allowed != "never",
        may_take_dry=per_litre is not None,
        too_dry=rule.too_dry,
        too_wet=rule.too_wet,
        stiffened=_within(rule, life_min),
        dry_kg_per_litre=per_litre,
    )


def _within(rule: LateWater, life_min: float) -> Words:
    """Say how long it may be used: no longer than it lives here, whatever its standard allows in general."""
    if rule.within_min is None or not isinstance(rule.stiffened, Said):
        return rule.stiffened
    within = round(min(rule.within_min, life_min) if life_min > 0 else rule.within_min)
    return Said(rule.stiffened.msg, within=Amount(within, "min"))
