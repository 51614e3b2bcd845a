"""What every order of work must keep to, checked when it is loaded and wherever a school rewrites it."""

from typing import TYPE_CHECKING

from keeve.core.materials.material import BINDERS
from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import Said

if TYPE_CHECKING:
    from keeve.core.procedures.procedure import Procedure, StepTemplate

_NOTHING_GOES_IN = ("prepare", "break", "wait", "scrape", "drain", "judge", "use")


def check_order(procedure: "Procedure") -> None:
    """Check the order of a procedure's steps.

    Parameters
    ----------
    procedure : with its steps

    Raises
    ------
    MixError : nobody looks before it is used, something goes in after the look, after the point from which nothing
        may or where a set is broken, a hand goes in while it turns, water onto plaster, all water at once where it
        is taken in sips, or powder before a bucket's water

    References
    ----------
    Common practice, no source.
    """
    steps = procedure.steps
    kinds = [step.kind for step in steps]
    if "use" not in kinds or "judge" not in kinds[: kinds.index("use")]:
        raise _wrong(procedure, "it ends without a look and its use")
    looked = kinds.index("judge")
    if any(step.adds for step in steps[looked + 1 :]):
        raise _wrong(procedure, "something goes in after the look")
    closed = next((i for i, step in enumerate(steps) if step.closed), None)
    if closed is not None and any(step.adds for step in steps[closed + 1 :]):
        raise _wrong(procedure, "something goes in after the point from which nothing may")
    _check_each(procedure)
    if "sips" in kinds and procedure.hold_back_share <= 0:
        raise _wrong(procedure, "its sips have no water that was held back")
    _check_plaster(procedure)
    if not any(_takes(step, *BINDERS) for step in steps):
        raise _wrong(procedure, "no binder goes in")


def _check_each(procedure: "Procedure") -> None:
    for step in procedure.steps:
        if step.adds and step.kind in _NOTHING_GOES_IN:
            raise _wrong(procedure, f"something goes in at a step of {step.kind}")
        if step.kind == "scrape" and step.speed != "stopped":
            raise _wrong(procedure, "a hand goes in while it turns")


def _takes(step: "StepTemplate", *roles: str) -> bool:
    return any(add.of in roles for add in step.adds)


def _check_plaster(procedure: "Procedure") -> None:
    """Casting plaster goes into its water; with sand in it, it is mixed as a mortar."""
    steps = procedure.steps
    powder = next((i for i, step in enumerate(steps) if _takes(step, "plaster")), None)
    if powder is None or any(_takes(step, "sand") for step in steps):
        return
    if not any(_takes(step, "water") for step in steps[:powder]):
        raise _wrong(procedure, "plaster goes into water, and there is none yet")
    if any(_takes(step, "water") for step in steps[powder:]):
        raise _wrong(procedure, "water is poured onto plaster")


def _wrong(procedure: "Procedure", what: str) -> MixError:
    return MixError(Fault(Code.OUT_OF_RANGE, Said("{procedure}: {what}.", procedure=procedure.key, what=what)))
