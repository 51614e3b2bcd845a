"""Plaster that is warm sets sooner: its steps shorten with its life, or there is no time for it at all."""

from typing import Final

from keeve.core.dosing.card import Card
from keeve.core.hardening.clock import PLASTER_REF_C, life_at_min
from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import Amount, Said, mark
from keeve.core.mixes.mix import Mix
from keeve.core.procedures.procedure import Step

LEAST_STEP_S: Final = 60
POUR_S: Final = 90
"""No step of it is shorter, and so long it takes to pour: house ruling."""
_ROUND_S: Final = 15


def _hurried(step: Step, pace: float) -> Step:
    if step.seconds <= LEAST_STEP_S:
        return step
    seconds = max(int(step.seconds * pace) // _ROUND_S * _ROUND_S, LEAST_STEP_S)
    return step.model_copy(update={"seconds": seconds})


def hurried(card: Card, mix: Mix, begins_c: float | None) -> Card:
    """Shorten the steps of a load of plaster to the life it has.

    Parameters
    ----------
    card : one load
    mix : of which
    begins_c : how warm it comes out [°C]; None where nobody knows

    Returns
    -------
    the card; each timed step from the powder on takes its share of the life at that temperature, and a minute at least

    Raises
    ------
    MixError : even so it stiffens before it is poured

    References
    ----------
    As `life_at_min`; a minute each and one and a half to pour: house ruling, own assumption.
    """
    if begins_c is None or mix.bagged().role != "plaster" or mix.working_life_min <= 0:
        return card
    life_min = life_at_min(mix.working_life_min, PLASTER_REF_C, begins_c)
    pace = min(life_min / mix.working_life_min, 1.0)
    steps = tuple(_hurried(step, pace) if at >= card.meets else step for at, step in enumerate(card.steps))
    took_s = sum(step.seconds for step in steps[card.meets :])
    if took_s + POUR_S > life_min * 60:
        said = Said(
            "At {warm} it stiffens after {life}: too soon to soak it, stir it and pour.",
            warm=Amount(begins_c, "°C"),
            life=Amount(round(life_min, 1), "min"),
        )
        hint = mark("Take cooler water, and keep the plaster where it is cool.")
        raise MixError(Fault(Code.OUT_OF_RANGE, said, hint, field="temperatures.water_c", value=begins_c))
    return card.model_copy(update={"steps": steps, "seconds": sum(step.seconds for step in steps)})
