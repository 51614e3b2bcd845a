"""A sand test: the sieve sheets of one sand or two, and the work they are judged for."""

from typing import Literal

from pydantic import ConfigDict, Field

from keeve.catalogue.loader import Catalogue
from keeve.core.materials.blending import Blend, best_blend
from keeve.core.materials.grading import (
    Envelope,
    Grading,
    Miss,
    Retained,
    Sieve,
    SieveSheet,
    fineness_modulus,
    misses,
    read_sheet,
)
from keeve.core.measure.quantities import NoneOrMany
from keeve.core.message.errors import Code, Fault, Frozen, MixError
from keeve.core.message.said import Said, Words, mark, verbatim
from keeve.core.message.working import Working


class SieveRow(Frozen):
    """One sieve and what was read at it, of one sand or of two."""

    sieve_mm: Sieve | None = None
    first: NoneOrMany | None = None
    second: NoneOrMany | None = None


class SandTest(Frozen):
    """The sieve sheet of one sand, or of two side by side, and the envelope of the work."""

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [
                {
                    "name": "Pit sand, first delivery",
                    "envelope": "c144",
                    "first_name": "Pit sand",
                    "rows": [
                        {"sieve_mm": 4.75, "first": 0},
                        {"sieve_mm": 2.36, "first": 20},
                        {"sieve_mm": 1.18, "first": 70},
                        {"sieve_mm": 0.6, "first": 150},
                        {"sieve_mm": 0.3, "first": 170},
                        {"sieve_mm": 0.15, "first": 70},
                    ],
                    "first_pan_g": 20,
                }
            ]
        }
    )

    name: str = Field("", max_length=80)
    envelope: str = Field("c33-fine", max_length=40)
    stated: Literal["retained g", "passing %"] = "retained g"
    first_name: str = Field(mark("First sand"), max_length=60)
    second_name: str = Field(mark("Second sand"), max_length=60)
    rows: tuple[SieveRow, ...] = Field(max_length=20)
    first_pan_g: NoneOrMany = 0.0
    second_pan_g: NoneOrMany = 0.0
    """What fell into the pan, where masses were weighed."""
    first_sample_g: NoneOrMany | None = None
    second_sample_g: NoneOrMany | None = None
    """The whole sample before sieving, where it was weighed."""

    def sheet(self, which: Literal["first", "second"]) -> SieveSheet | None:
        """Return the sheet of one sand; None where nothing was read."""
        read = [(row.sieve_mm, getattr(row, which)) for row in self.rows]
        rows = tuple(Retained(sieve_mm=mm, value=value) for mm, value in read if mm is not None and value is not None)
        if not rows:
            return None
        name = getattr(self, f"{which}_name")
        return SieveSheet(
            name=name if name == type(self).model_fields[f"{which}_name"].default else verbatim(name),
            stated=self.stated,
            rows=rows,
            pan_g=getattr(self, f"{which}_pan_g"),
            sample_g=getattr(self, f"{which}_sample_g"),
        )


class SandSide(Frozen):
    """One sand, judged."""

    grading: Grading
    fineness: Working | None
    no_fineness: tuple[Words, ...] = ()
    """Why there is no fineness modulus."""
    misses: tuple[Miss, ...]


class SandResult(Frozen):
    """What the sieves say."""

    envelope: Envelope
    first: SandSide
    second: SandSide | None = None
    blend: Blend | None = None
    blended: SandSide | None = None
    warnings: tuple[Words, ...] = ()


def judge_sand(test: SandTest, catalogue: Catalogue) -> SandResult:
    """Judge a sand test.

    Parameters
    ----------
    test : the sieve sheets and the work
    catalogue : holds the envelopes

    Returns
    -------
    curve, fineness modulus and misses of each sand, and of the best blend where there are two

    Raises
    ------
    MixError : an unknown envelope, or a sheet that cannot be; fields as in the test
    """
    if test.envelope not in catalogue.envelopes:
        known = ", ".join(catalogue.envelopes)
        raise MixError(
            Fault(
                Code.UNKNOWN, "There is no such envelope.", Said("Known are: {known}.", known=known), field="envelope"
            )
        )
    envelope = catalogue.envelopes[test.envelope]
    sheet, other = test.sheet("first"), test.sheet("second")
    if sheet is None:
        raise MixError(Fault(Code.MISSING, "Nothing was weighed yet.", "Write what lay on each sieve.", field="rows"))
    first = _side(read_sheet(sheet), envelope)
    if other is None:
        return SandResult(envelope=envelope, first=first, warnings=first.grading.warnings)
    second = _side(read_sheet(other), envelope)
    blend = best_blend(first.grading, second.grading, envelope)
    return SandResult(
        envelope=envelope,
        first=first,
        second=second,
        blend=blend,
        blended=_side(blend.grading, envelope),
        warnings=(*first.grading.warnings, *second.grading.warnings),
    )


def _side(grading: Grading, envelope: Envelope) -> SandSide:
    fineness = None
    why: tuple[Words, ...] = ()
    try:
        fineness = fineness_modulus(grading)
    except MixError as error:
        why = (error.faults[0].sentence, error.faults[0].hint)
    return SandSide(grading=grading, fineness=fineness, no_fineness=why, misses=misses(grading, envelope))
