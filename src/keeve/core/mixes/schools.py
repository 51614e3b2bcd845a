"""Where good people differ: the way a job chooses changes its plan, its steps, or both, and says what it changed."""

from collections.abc import Mapping
from typing import Final

from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import Said, mark
from keeve.core.mixes.mix import Mix, Way
from keeve.core.procedures.procedure import Procedure
from keeve.core.procedures.step_template import TURNED, StepTemplate

REST: Final = (
    StepTemplate(kind="wait", title=mark("Let it rest: the false set comes"), seconds=90),
    StepTemplate(kind="break", title=mark("Mix it again"), detail=mark("No water, or a few drops."), seconds=60),
)


def with_schools(mix: Mix, chosen: Mapping[str, str]) -> Mix:
    """Return a mix made the way somebody chose.

    Parameters
    ----------
    mix : as the catalogue has it
    chosen : key of a way by the key of its school; what is not named is done as Keeve does it

    Returns
    -------
    the mix, with what changed in `says`

    Raises
    ------
    MixError : no such school, or no such way

    References
    ----------
    Common practice, no source; each way names its own.
    """
    for key, wanted in chosen.items():
        school = next((one for one in mix.schools if one.key == key), None)
        way = school.way(wanted) if school else None
        if school is None or way is None:
            raise MixError(
                Fault(
                    Code.UNKNOWN,
                    Said("{mix} knows no way “{way}”.", mix=mix.name, way=f"{key[:40]}: {wanted[:40]}"),
                    "Choose one of the list.",
                    field=f"schools.{key[:40]}",
                )
            )
        if wanted != school.default:
            mix = _gone(mix, way)
    return mix


def _gone(mix: Mix, way: Way) -> Mix:
    procedures = {
        kind: _steps(way.instead.get(one.key, one), way) for kind, one in (way.procedures or mix.procedures).items()
    }
    return mix.model_copy(
        update={
            "basis": way.basis or mix.basis,
            "procedures": procedures,
            "waste_percent": mix.waste_percent if way.waste_percent is None else way.waste_percent,
            "working_life_min": mix.working_life_min * way.life_factor,
            "by_scale": mix.by_scale or way.by_scale,
            "late_water": way.late_water or mix.late_water,
            "says": (*mix.says, way.says) if way.says else mix.says,
        }
    )


def _steps(procedure: Procedure, way: Way) -> Procedure:
    steps = list(procedure.steps)
    if way.mix is not None:
        at = next((i for i, step in enumerate(steps) if step.kind in TURNED), None)
        if at is not None:
            steps[at] = way.mix
    if way.rest == "none":
        steps = _without_rest(steps)
    elif way.rest == "again":
        last = max(i for i, step in enumerate(steps) if step.kind in TURNED)
        steps[last + 1 : last + 1] = REST
    steps = [
        step.model_copy(update={"seconds": round(step.seconds * way.mix_factor)}) if step.kind in TURNED else step
        for step in steps
    ]
    steps = [*([way.before] if way.before else []), *steps, *([way.after] if way.after else [])]
    return procedure.model_copy(update={"steps": tuple(steps)})


def _without_rest(steps: list[StepTemplate]) -> list[StepTemplate]:
    """Leave out a wait after the mixing, and the mixing that only breaks what set in it."""
    found: list[StepTemplate] = []
    rested = False
    for step in steps:
        mixed = any(one.kind in TURNED for one in found)
        if step.kind == "wait" and mixed:
            rested = True
        elif step.kind in TURNED and rested:
            rested = False
        else:
            found.append(step)
    return found
