"""Sieve sheets: how coarse a sand is, whether it suits its work, and how two sands make one that does."""

import math
from bisect import bisect_left
from itertools import pairwise
from typing import Annotated, Final, Literal

from pydantic import Field, WithJsonSchema

from keeve.core.measure.quantities import Length, NoneOrMany
from keeve.core.message.errors import Code, Fault, Frozen, MixError
from keeve.core.message.said import Amount, Said, Words, mark, percent
from keeve.core.message.working import Given, Working

FINENESS_SIEVES_MM: Final = (0.15, 0.30, 0.60, 1.18, 2.36, 4.75, 9.5, 19.0, 37.5)
LEAST_SIEVES: Final = 3
LOSS_PERCENT: Final = 0.3
"""Retained masses may differ from the sample by this much: ASTM C136, from memory."""
_CLOSE: Final = 1e-6

Sieve = Annotated[Length, Field(le=200), WithJsonSchema({"type": "number"}, mode="serialization")]


class Retained(Frozen):
    """One sieve and what was read at it."""

    sieve_mm: Sieve
    value: NoneOrMany
    """Mass kept on the sieve [g], or the share that passed it [%], as the sheet says."""


class SieveSheet(Frozen):
    """A sieve test as it is written down."""

    name: Words = mark("Sand")
    stated: Literal["retained g", "passing %"] = "retained g"
    rows: tuple[Retained, ...] = Field(max_length=20)
    pan_g: NoneOrMany = 0.0
    """What fell into the pan, where masses were weighed."""
    sample_g: NoneOrMany | None = None
    """The whole sample before sieving, where it was weighed."""


class Passing(Frozen):
    """One point of a grading curve."""

    sieve_mm: float
    percent: float


class Grading(Frozen):
    """A grading curve, finest sieve first."""

    name: Words
    points: tuple[Passing, ...]
    warnings: tuple[Words, ...] = ()

    def at(self, sieve_mm: float) -> float:
        """Share that passes a sieve [%]; between two sieves of the sheet straight on the logarithm of size.

        Parameters
        ----------
        sieve_mm : sieve opening [mm], > 0

        Returns
        -------
        passing [%]; the end values beyond the sheet's own sieves

        References
        ----------
        Common practice, no source: grading curves are drawn on a logarithmic scale of size.
        """
        sizes = [p.sieve_mm for p in self.points]
        place = bisect_left(sizes, sieve_mm - _CLOSE)
        if place < len(sizes) and abs(sizes[place] - sieve_mm) <= _CLOSE:
            return self.points[place].percent
        if place == 0:
            return self.points[0].percent * sieve_mm / sizes[0]
        if place == len(sizes):
            return self.points[-1].percent
        low, high = self.points[place - 1], self.points[place]
        part = math.log(sieve_mm / low.sieve_mm) / math.log(high.sieve_mm / low.sieve_mm)
        return low.percent + (high.percent - low.percent) * part

    def has(self, sieve_mm: float) -> bool:
        """Whether the sheet itself holds a sieve [mm]. Plain arithmetic."""
        return any(abs(p.sieve_mm - sieve_mm) <= _CLOSE for p in self.points)


class SieveBound(Frozen):
    """What may pass one sieve."""

    sieve_mm: float
    low: float
    high: float


class Envelope(Frozen):
    """Between which curves a sand for one work should lie."""

    key: str
    name: str
    use: Words
    bounds: tuple[SieveBound, ...]
    source: Words


def _sieve(size_mm: float) -> str:
    """Name a sieve as its standard does, in either system of units."""
    return f"{size_mm:g} mm"


class Miss(Frozen):
    """A sieve at which a curve leaves its envelope."""

    sieve_mm: float
    percent: float
    low: float
    high: float

    @property
    def words(self) -> Words:
        """Say it."""
        return Said(
            "{sieve}: {passing} pass, {low} to {high} wanted, too fine there"
            if self.percent > self.high
            else "{sieve}: {passing} pass, {low} to {high} wanted, too coarse there",
            sieve=_sieve(self.sieve_mm),
            passing=percent(round(self.percent)),
            low=Amount(self.low, ""),
            high=Amount(self.high, ""),
        )


def read_sheet(sheet: SieveSheet) -> Grading:
    """Turn a sieve sheet into a grading curve.

    Parameters
    ----------
    sheet : masses kept on each sieve [g], or shares that passed [%]

    Returns
    -------
    the curve, with a warning where the masses do not add up to the sample

    Raises
    ------
    MixError : a sieve named twice, nothing weighed, or more passing a fine sieve than a coarse one

    Notes
    -----
    passing = 100 (1 − Σ retained on this and coarser sieves / Σ all).

    References
    ----------
    ASTM C136, from memory.
    """
    rows = sorted(((r.sieve_mm, r.value) for r in sheet.rows), key=lambda r: r[0])
    sizes = [mm for mm, _ in rows]
    if len(rows) < LEAST_SIEVES:
        raise MixError(
            Fault(
                Code.MISSING,
                Said("A curve needs at least {n} sieves.", n=Amount(LEAST_SIEVES, "whole")),
                "Write what lay on each.",
                field="rows",
            )
        )
    if any(b - a <= _CLOSE for a, b in pairwise(sizes)):
        raise MixError(
            Fault(Code.OUT_OF_RANGE, "A sieve stands there twice.", "Take one of the two out.", field="rows")
        )
    if sheet.stated == "passing %":
        return _by_passing(sheet, rows)
    total = math.fsum(grams for _, grams in rows) + sheet.pan_g
    if total <= 0:
        raise MixError(
            Fault(Code.MISSING, "Nothing was weighed yet.", "Write the grams kept on each sieve.", field="rows")
        )
    points, kept = [], 0.0
    for sieve_mm, grams in reversed(rows):
        kept += grams
        points.append(Passing(sieve_mm=sieve_mm, percent=max(100 * (1 - kept / total), 0.0)))
    warnings: list[Words] = []
    if sheet.sample_g and abs(total / sheet.sample_g - 1) * 100 > LOSS_PERCENT:
        off = (total / sheet.sample_g - 1) * 100
        warnings.append(
            Said(
                "{sand}: sieves and pan are off the sample by {off}, over ± {most}: sieve again.",
                sand=sheet.name,
                off=percent(round(off, 1)),
                most=percent(LOSS_PERCENT),
            )
        )
    return Grading(name=sheet.name, points=tuple(reversed(points)), warnings=tuple(warnings))


def _by_passing(sheet: SieveSheet, rows: list[tuple[float, float]]) -> Grading:
    for (fine_mm, fine), (coarse_mm, coarse) in pairwise(rows):
        if fine > coarse + _CLOSE:
            raise MixError(
                Fault(
                    Code.INVERTED,
                    Said(
                        "More passes the {fine} sieve than the {coarse}: that cannot be.",
                        fine=_sieve(fine_mm),
                        coarse=_sieve(coarse_mm),
                    ),
                    "These look like shares kept, not passed; or two rows were exchanged.",
                    field="rows",
                )
            )
    if rows[-1][1] > 100 + _CLOSE:
        raise MixError(Fault(Code.OUT_OF_RANGE, "More than 100 % cannot pass.", "Check the last sieve.", field="rows"))
    return Grading(name=sheet.name, points=tuple(Passing(sieve_mm=mm, percent=percent) for mm, percent in rows))


def fineness_modulus(grading: Grading) -> Working:
    """Fineness modulus of a sand.

    Parameters
    ----------
    grading : of the sand

    Returns
    -------
    the modulus [-] with its working

    Raises
    ------
    MixError : a sieve of the series is missing; another series gives another number

    Notes
    -----
    FM = Σ cumulative % retained on 0.15, 0.30, 0.60, 1.18, 2.36, 4.75, 9.5, 19, 37.5 mm / 100. Sieves above the
    coarsest that everything passed need not be in the sheet.

    References
    ----------
    ASTM C125 and C136, from memory.

    >>> rows = ((0.15, 5), (0.3, 20), (0.6, 45), (1.18, 70), (2.36, 85), (4.75, 100))
    >>> sand = Grading(name="Sand", points=tuple(Passing(sieve_mm=mm, percent=p) for mm, p in rows))
    >>> round(fineness_modulus(sand).result, 2)
    2.75
    """
    given, total = [], 0.0
    for sieve in FINENESS_SIEVES_MM:
        if not grading.has(sieve):
            if grading.points[-1].sieve_mm < sieve and grading.points[-1].percent > 100 - _CLOSE:
                continue  # all of it passed a finer sieve
            raise MixError(
                Fault(
                    Code.MISSING,
                    Said(
                        "The fineness modulus needs the {sieve} sieve, and the sheet of {sand} has none.",
                        sieve=_sieve(sieve),
                        sand=grading.name,
                    ),
                    "It is defined on 0.15, 0.30, 0.60, 1.18, 2.36 and 4.75 mm; another series gives another number.",
                    field="rows",
                    value=sieve,
                )
            )
        kept = 100 - grading.at(sieve)
        given.append(Given(Said("kept on {sieve} and above", sieve=_sieve(sieve)), kept, "%"))
        total += kept
    return Working(
        figure="Fineness modulus",
        formula="Σ cumulative % kept on the series / 100",
        given=tuple(given),
        result=total / 100,
        unit="",
        source="ASTM C125 and C136, from memory",
    )


def misses(grading: Grading, envelope: Envelope) -> tuple[Miss, ...]:
    """List the sieves at which a curve leaves its envelope.

    Parameters
    ----------
    grading : of the sand
    envelope : of the work

    Returns
    -------
    coarsest first; none where the sand lies inside

    References
    ----------
    The envelope's own source.
    """
    found = [(b, grading.at(b.sieve_mm)) for b in envelope.bounds]
    return tuple(
        Miss(sieve_mm=b.sieve_mm, percent=p, low=b.low, high=b.high)
        for b, p in found
        if not b.low - 0.05 <= p <= b.high + 0.05
    )
