"""What all shapes have in common: how many, their own waste, how sure the measures are."""

import re
from typing import Annotated, Any, ClassVar, Final

from pydantic import Field, model_validator

from keeve.core.measure.quantities import LengthOrNone, Waste
from keeve.core.measure.reading import MOST_LETTERS
from keeve.core.message.errors import Code, Fault, Frozen, TakeoffError
from keeve.core.message.said import Words, mark, measured
from keeve.core.message.working import Given

Volumed = tuple[float, Words, tuple[Given, ...]]
"""A volume [m³], its formula, and what went into it."""
_UNIT: Final = re.compile(r"[a-z\"'″′”’]+\s*$", re.IGNORECASE)
_DOUBT: Final = re.compile(r"\s*(?:±|\+/-|\+-)\s*(?P<doubt>[^±]+)$")


class Measured(Frozen):
    """Something with measures, each of which may be doubted: `95 ± 5` in its field, or in `unsure`."""

    certain: ClassVar[frozenset[str]] = frozenset()
    """Lengths nobody took with a tape: from a file, or chosen."""

    unsure: Annotated[dict[str, LengthOrNone], Field(max_length=12)] = {}
    """By field: how far off the measure may be [mm]; what is not named has the usual doubt of a tape."""

    @model_validator(mode="before")
    @classmethod
    def _doubts(cls, given: Any) -> Any:
        if not isinstance(given, dict):
            return given
        found: dict[str, Any] = {}
        doubts = dict(given["unsure"]) if isinstance(given.get("unsure"), dict) else {}
        for name, value in given.items():
            doubted = isinstance(value, str) and str(name).endswith("_mm") and len(value) <= MOST_LETTERS
            said = _DOUBT.search(value) if doubted else None
            if said:
                unit = _UNIT.search(said["doubt"])
                measure = value[: said.start()]
                # "95 ± 5 mm": the unit at the end is meant for both.
                found[name] = f"{measure} {unit[0]}" if unit and not _UNIT.search(measure) else measure
                doubts[name] = said["doubt"]
        return given | found | {"unsure": doubts} if found else given


class Item(Measured):
    """One line of what must be filled."""

    default_waste_percent: ClassVar[float | None] = None
    """Waste of this kind of work where the mix's own allowance is too small."""

    note: str = Field("", max_length=120)
    group: str = Field("", max_length=60)
    """Items of one group are added up by themselves as well."""
    count: int = Field(1, ge=1, le=100_000)
    """How many alike."""
    off: bool = False
    """Switched off: stays on the list and is not counted."""
    waste_percent: Waste | None = None
    """Own waste allowance; empty means the job's."""

    def volume(self) -> Volumed:
        """Volume of one [m³], its formula and inputs."""
        raise NotImplementedError

    def face_m2(self) -> float | None:
        """Area that a thickness is laid on [m²], where the shape has one."""
        return None


def mm(name: Words, value: float) -> Given:
    """Name a length [mm] that went into a volume. Common practice, no source."""
    return Given(name, value, "mm")


_TO_MEASURE: Final = mark("This is still to be measured.")


def missing(field: str, sentence: Words = _TO_MEASURE) -> TakeoffError:
    """Make the refusal of a shape that lacks a measure. Common practice, no source."""
    return TakeoffError(Fault(Code.MISSING, sentence, "", field=field))


def does_not_fit(
    sentence: str, hint: str, field: str, value: float | None = None, limit: float | None = None, unit: str = "mm"
) -> TakeoffError:
    """Make the refusal of measures [unit] that cannot be true together. Common practice, no source."""
    said = measured(sentence, value, limit, unit)
    return TakeoffError(Fault(Code.DOES_NOT_FIT, said, hint, field=field, value=value, limit=limit, unit=unit))
