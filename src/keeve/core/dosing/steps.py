"""The steps of one load: what its procedure says, sized to its doses and its water."""

import math
from typing import Final

from keeve.core.dosing.dose import Dose
from keeve.core.dosing.water import WaterAccount
from keeve.core.materials.material import BINDERS
from keeve.core.message.said import Amount, Names, Said, Words, mark
from keeve.core.mixes.admixture_doses import AdmixtureDose
from keeve.core.mixes.admixtures import When
from keeve.core.procedures.procedure import Procedure, Step, StepDose
from keeve.core.procedures.step_template import TURNED, Addition, StepTemplate

ADMIXTURE: Final = "admixture:"
"""Begins the key of a step's dose that is an admixture."""
ICE: Final = "ice"
"""Key of a step's dose that is ice."""
LEAST_HAND: Final = 1 / 3
"""However little it is, turning it by hand takes so much of the time for a full tray: common practice, no source."""
_QUARTER_MIN: Final = 15
_PART_PACK: Final = 1e-6


def sized_steps(
    template: StepTemplate, procedure: Procedure, doses: tuple[Dose, ...], water: WaterAccount
) -> list[Step]:
    """Size one step to its doses [kg] and water [L]: none where it would add nothing, one for each pack if done so.

    Common practice, no source.
    """
    packs = next(
        (d.packs for d in doses if d.packs and any(a.takes(d.material_key, d.role) for a in template.adds)), None
    )
    if not template.per_pack or packs is None or packs <= 1 + _PART_PACK:
        step = _step(template, procedure, doses, water, 1.0)
        return [_numbered(step, 1, packs or 1.0)] if step else []
    count = math.ceil(packs - _PART_PACK)
    shares = [min(1.0, packs - i) / packs for i in range(count)]
    made = (_step(template, procedure, doses, water, share) for share in shares)
    return [_numbered(step, number, packs) for number, step in enumerate(made, 1) if step]


def seconds_of(procedure: Procedure, doses: tuple[Dose, ...], volume_l: float) -> int:
    """Return how long the steps of a load [L] take together [s], as `sized_steps` and `by_hand` have them.

    Common practice, no source. Steps are not written for it: ways of dividing are only compared by their time.
    """
    part = min(max(volume_l / procedure.hand_l, LEAST_HAND), 1.0) if procedure.hand_l > 0 else 1.0
    powder_kg = math.fsum(d.dry_kg for d in doses if d.role in BINDERS)
    total = 0
    for template in procedure.steps:
        taken = [d for d in doses if any(add.takes(d.material_key, d.role) for add in template.adds)]
        if template.adds and not taken and not any(add.of == "water" for add in template.adds):
            continue
        heavy = 0 < template.heavy_kg < powder_kg and template.heavy_seconds
        seconds = template.heavy_seconds if heavy else template.seconds
        if procedure.hand_l > 0 and template.kind in TURNED:
            seconds = round(seconds * part / _QUARTER_MIN) * _QUARTER_MIN
        packs = next((d.packs for d in taken if d.packs), 0.0) if template.per_pack else 0.0
        total += seconds * max(math.ceil(packs - _PART_PACK), 1)
    return total


PART_IN: Final = mark("Part of the bag, in slowly")
_ONE_IN: Final = mark("The bag, in slowly")


def _numbered(step: Step, number: int, packs: float) -> Step:
    """Say which bag of how many [-] a step is about; one that is no whole bag is called a part of one."""
    if not isinstance(step.title, str) or "{number}" not in step.title:
        return step
    if packs <= 1 + _PART_PACK:
        return step.model_copy(update={"title": _ONE_IN if packs >= 1 - _PART_PACK else PART_IN})
    count = math.ceil(packs - _PART_PACK)
    said = Said(step.title, number=Amount(number, "whole"), count=Amount(count, "whole"))
    return step.model_copy(update={"title": said})


def _step(
    template: StepTemplate, procedure: Procedure, doses: tuple[Dose, ...], water: WaterAccount, part: float
) -> Step | None:
    """Size one step, or its part [-] of what it adds; None where all it would add is not in this mix."""
    parts: list[StepDose] = []
    water_l = 0.0
    for add in template.adds:
        if add.of == "water":
            share = _water_share(add, procedure, water) * part
            litres = water.pour.target * share
            water_l += litres
            parts.append(StepDose(material_key="water", share=share, batch_kg=litres, solid_l=litres))
            if water.ice_kg > 0 and add.share != "hold back":
                parts.append(StepDose(material_key=ICE, share=1.0, batch_kg=water.ice_kg, solid_l=water.ice_kg))
            continue
        share = procedure.share_of(add) * part
        parts += [
            StepDose(material_key=d.material_key, share=share, batch_kg=d.batch_kg * share, solid_l=d.solid_l * share)
            for d in doses
            if add.takes(d.material_key, d.role)
        ]
    if template.adds and not parts:
        return None
    powder_kg = math.fsum(d.dry_kg for d in doses if d.role in BINDERS)
    heavy = 0 < template.heavy_kg < powder_kg
    seconds = template.heavy_seconds if heavy and template.heavy_seconds else template.seconds
    light = template.heavy_kg > 0 and not heavy
    said = template.light_title if light and template.light_title else template.title
    names = [d.name for d in doses if any(p.material_key == d.material_key for p in parts)]
    return Step(
        kind=template.kind,
        title=title(said, names),
        detail=template.light_detail if light and template.light_detail else template.detail,
        seconds=seconds,
        doses=tuple(parts),
        water_l=water_l,
        drawn=template.drawn,
        speed=template.speed,
        draws=template.draws,
    )


def _water_share(add: Addition, procedure: Procedure, water: WaterAccount) -> float:
    """Share of the pour [-] that goes in with an addition."""
    if procedure.first_to == "share" or add.share == "all" or water.pour.target <= 0:
        return procedure.share_of(add)
    return (water.first_l if add.share == "first" else water.hold_back_l) / water.pour.target


def by_hand(procedure: Procedure, steps: tuple[Step, ...], volume_l: float) -> tuple[Step, ...]:
    """Let the turning of a small load [L] by hand take less than that of a full tray. Common practice, no source."""
    if procedure.hand_l <= 0:
        return steps
    part = min(max(volume_l / procedure.hand_l, LEAST_HAND), 1.0)
    return tuple(
        step.model_copy(update={"seconds": round(step.seconds * part / _QUARTER_MIN) * _QUARTER_MIN})
        if step.kind in TURNED
        else step
        for step in steps
    )


def meets(steps: tuple[Step, ...], binders: set[str]) -> int:
    """Find the step [index] in which water and binder meet. Common practice, no source."""
    wet = next((i for i, s in enumerate(steps) if s.water_l > 0), 0)
    bound = next((i for i, s in enumerate(steps) if any(d.material_key in binders for d in s.doses)), 0)
    return max(wet, bound)


_INTO: Final[dict[When, tuple[str, ...]]] = {
    "in the water": ("water", "rinse"),
    "last": ("sips", "water", "rinse"),
    "in the dry": ("add",),
    "with the sand": ("sand", "add"),
}
"""Kind of step, or role added in it, where an admixture goes in; the first that the steps have."""


def with_admixtures(
    steps: tuple[Step, ...], doses: tuple[Dose, ...], admixtures: tuple[AdmixtureDose, ...]
) -> tuple[Step, ...]:
    """Put each admixture into the step where it belongs.

    Parameters
    ----------
    steps, doses, admixtures : of one load

    Returns
    -------
    the steps, with the admixtures among what goes in

    References
    ----------
    Common practice, no source.
    """
    placed = list(steps)
    for given in admixtures:
        at = _step_for(placed, doses, given)
        part = StepDose(
            material_key=f"{ADMIXTURE}{given.key}", share=1.0, batch_kg=given.mass_kg, solid_l=given.water_l
        )
        placed[at] = placed[at].model_copy(update={"doses": (*placed[at].doses, part)})
    return tuple(placed)


def _step_for(steps: list[Step], doses: tuple[Dose, ...], given: AdmixtureDose) -> int:
    roles = {d.material_key: d.role for d in doses}
    for kind in _INTO[given.when]:
        for index, step in enumerate(steps):
            if step.kind == kind or any(roles.get(p.material_key) == kind for p in step.doses):
                return index
    return next(i for i, step in enumerate(steps) if step.water_l > 0)


def title(text: Words, names: list[Words]) -> Words:
    """Put the names of what goes in where the catalogue's title leaves room for them. Common practice, no source."""
    return Said(text, names=Names(tuple(names))) if isinstance(text, str) and "{names}" in text else text
