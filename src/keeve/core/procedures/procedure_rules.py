"""What every order of work must keep to, checked when it is loaded and wherever a school rewrites it."""

from collections.abc import Sequence

from keeve.core.materials.material import BINDERS
from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import Said
from keeve.core.procedures.step_template import StepTemplate

_NOTHING_GOES_IN = ("prepare", "break", "wait", "scrape", "drain", "judge", "use")


def check_order(key: str, steps: Sequence[StepTemplate], hold_back_share: float) -> None:
    """Check the order of a procedure's steps.

    Parameters
    ----------
    key : of the procedure
    steps : in their order
    hold_back_share : of the water that is held back [-]

    Raises
    ------
    MixError : nobody looks before it is used, something goes in after the look, after the point from which nothing
        may or where a set is broken, a hand goes in while it turns, water onto plaster, all water at once where it
        is taken in sips, or powder before a bucket's water

    References
    ----------
    Common practice, no source.
    """
    kinds = [step.kind for step in steps]
    if "use" not in kinds or "judge" not in kinds[: kinds.index("use")]:
        raise _wrong(key, "it ends without a look and its use")
    looked = kinds.index("judge")
    if any(step.adds for step in steps[looked + 1 :]):
        raise _wrong(key, "something goes in after the look")
    closed = next((i for i, step in enumerate(steps) if step.closed), None)
    if closed is not None and any(step.adds for step in steps[closed + 1 :]):
        raise _wrong(key, "something goes in after the point from which nothing may")
    _check_each(key, steps)
    if "sips" in kinds and hold_back_share <= 0:
        raise _wrong(key, "its sips have no water that was held back")
    _check_plaster(key, steps)
    if not any(_takes(step, *BINDERS) for step in steps):
        raise _wrong(key, "no binder goes in")


def _check_each(key: str, steps: Sequence[StepTemplate]) -> None:
    for step in steps:
        if step.adds and step.kind in _NOTHING_GOES_IN:
            raise _wrong(key, f"something goes in at a step of {step.kind}")
        if step.kind == "scrape" and step.speed != "stopped":
            raise _wrong(key, "a hand goes in while it turns")


def _takes(step: StepTemplate, *roles: str) -> bool:
    return any(add.of in roles for add in step.adds)


def _check_plaster(key: str, steps: Sequence[StepTemplate]) -> None:
    """Casting plaster goes into its water; with sand in it, it is mixed as a mortar."""
    powder = next((i for i, step in enumerate(steps) if _takes(step, "plaster")), None)
    if powder is None or any(_takes(step, "sand") for step in steps):
        return
    if not any(_takes(step, "water") for step in steps[:powder]):
        raise _wrong(key, "plaster goes into water, and there is none yet")
    if any(_takes(step, "water") for step in steps[powder:]):
        raise _wrong(key, "water is poured onto plaster")


def _wrong(key: str, what: str) -> MixError:
    return MixError(Fault(Code.OUT_OF_RANGE, Said("{procedure}: {what}.", procedure=key, what=what)))
