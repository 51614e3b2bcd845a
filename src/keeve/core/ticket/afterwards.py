"""What a ticket says of the time after the plan: life, waiting for water to show, stages, cleaning, leftovers."""

from typing import Any

from keeve.core.hardening.clock import CEMENT_REF_C, PLASTER_REF_C, REDUCED_WET_OUT_S, stages_of
from keeve.core.mixes.mix import Mix
from keeve.core.vessels.vessels import MixerKind


def afterwards(mix: Mix, kind: MixerKind, *, reduced: bool) -> dict[str, Any]:
    """Return the fields of a ticket that tell what comes after the water.

    Parameters
    ----------
    mix : what is made
    kind : of mixer
    reduced : whether a reducer or plasticiser goes in: it makes water show later

    References
    ----------
    Common practice, no source; each record of the catalogue names its own.
    """
    return {
        "life_min": mix.working_life_min,
        "by_dry_mass": mix.basis.by_dry_mass,
        "temperatures": mix.temperatures.sentence if mix.temperatures else "",
        "life_ref_c": PLASTER_REF_C if mix.bagged().role == "plaster" else CEMENT_REF_C,
        "wet_out_s": max(mix.wet_out_s, REDUCED_WET_OUT_S if reduced else 0),
        "turn_again_min": mix.turn_again_min,
        "stages": stages_of(mix.stages, mix.working_life_min),
        "cleaning": mix.cleaning.get(kind, ()),
        "leftovers": mix.leftovers,
    }
