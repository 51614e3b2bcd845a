"""A scale of one's own, by what stands on its plate."""

from typing import Final, Literal

from pydantic import Field

from keeve.core.measure.quantities import Mass
from keeve.core.message.errors import Code, Fault, Frozen, LoadError
from keeve.core.message.said import mark, measured, verbatim
from keeve.core.vessels.scales import Scale, ScaleUnit

COARSEST: Final = 1 / 20
"""A scale that shows fewer steps than twenty weighs nothing: own assumption."""
_KIND: Final[dict[str, Literal["hanging", "bench", "kitchen"]]] = {
    "scale_hanging": "hanging",
    "scale_bench": "bench",
    "scale_kitchen": "kitchen",
}
SCALES: Final = frozenset(_KIND)


class ScaleSheet(Frozen):
    """A scale as its owner describes it."""

    name: str = Field(min_length=1, max_length=80)
    use: Literal["scale_hanging", "scale_bench", "scale_kitchen"]
    carries_kg: Mass | None = None
    step_kg: Mass | None = None
    """Smallest step it shows."""
    unit: ScaleUnit = "kg"


def scale_of(sheet: ScaleSheet, key: str) -> Scale:
    """Make a scale of what its owner says of it.

    Parameters
    ----------
    sheet : what it carries and how finely it shows it [kg]
    key : it is kept by

    Returns
    -------
    the scale

    Raises
    ------
    LoadError : what it carries or shows is missing, or cannot be

    References
    ----------
    Own assumption: a step is at most a twentieth of what it carries.
    """
    if sheet.carries_kg is None:
        hint = mark("It stands on its plate: max 50 kg.")
        raise LoadError(Fault(Code.MISSING, "Nobody can say yet what it carries.", hint, field="carries_kg"))
    if sheet.step_kg is None:
        hint = mark("It stands on its plate: d = 20 g.")
        raise LoadError(Fault(Code.MISSING, "Nobody can say yet how finely it shows it.", hint, field="step_kg"))
    if sheet.step_kg > sheet.carries_kg * COARSEST:
        msg = mark("Steps of {value} are too coarse for a scale that carries {limit}.")
        raise LoadError(
            Fault(
                Code.OUT_OF_RANGE,
                measured(msg, sheet.step_kg, sheet.carries_kg, "kg"),
                mark("Check the unit: many show grams."),
                field="step_kg",
                value=sheet.step_kg,
                limit=sheet.carries_kg * COARSEST,
                unit="kg",
            )
        )
    return Scale(
        key=key,
        name=verbatim(sheet.name),
        kind=_KIND[sheet.use],
        most_kg=sheet.carries_kg,
        step_kg=sheet.step_kg,
        unit=sheet.unit,
        source=mark("as on its plate"),
    )
