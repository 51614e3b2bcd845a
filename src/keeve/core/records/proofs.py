"""Tests of the work: what was cast to be crushed, what it carried, and whether that will do."""

import math
from collections.abc import Iterable, Sequence
from datetime import datetime, timedelta
from statistics import fmean, stdev
from typing import Annotated, Final, Literal, NamedTuple

from pydantic import AwareDatetime, Field, TypeAdapter

from keeve.core.measure.units import STRENGTH_MPA
from keeve.core.message.errors import Code, Fault, Frozen, MixError
from keeve.core.message.said import Amount, Said, Words, mark
from keeve.core.records.specimens import BENT, Shape
from keeve.core.vessels.tolerance import SLACK

Rule = Literal["en-206", "aci-318"]
RULES: Final[dict[Rule, str]] = {"en-206": "EN 206", "aci-318": "ACI 318"}
CHARACTERISTIC: Final = 1.64
ROUGH_UNDER: Final = 15
"""Fewer results make a characteristic value rough: house ruling."""
FAR: Final = 3.0
"""So many times more or less than asked is a slip more often than a strength: own assumption."""
DRY_SHARE: Final = 0.01
DRY_A_DAY: Final = 0.005
"""Dry: within 1 % over its dry mass, and under half a per cent of change in a day: house ruling."""


class _Entry(Frozen):
    id: str = Field(min_length=8, max_length=40)
    at: AwareDatetime


class Cast(_Entry):
    """A specimen, cast."""

    kind: Literal["cast"] = "cast"
    shape: Shape
    label: str = Field("", max_length=60)
    load: int | None = Field(None, ge=1, le=100_000)
    due_days: int = Field(28, ge=1, le=365)


class Result(_Entry):
    """What a specimen carried."""

    kind: Literal["result"] = "result"
    of: str = Field(max_length=40)
    mpa: float = Field(gt=0, le=300)


class Asked(_Entry):
    """What strength is asked for, and by which rule it is judged."""

    kind: Literal["asked"] = "asked"
    mpa: float = Field(gt=0, le=150)
    rule: Rule = "en-206"
    sigma_mpa: float | None = Field(None, gt=0, le=30)
    """Deviation known from the production of before, where there is one."""


class Note(_Entry):
    """What somebody wrote down about a job or a load; another may take its place, and it stays readable."""

    kind: Literal["note"] = "note"
    load: int | None = Field(None, ge=1, le=100_000)
    text: str = Field("", max_length=500)
    """Empty takes back what it corrects."""
    corrects: str = Field("", max_length=40)


class Photo(_Entry):
    """A photo of a job or a load, all but the picture."""

    kind: Literal["photo"] = "photo"
    load: int | None = None
    says: str = ""
    wide: int = Field(gt=0)
    """Pixels."""
    high: int = Field(gt=0)


class Trace(_Entry):
    """How warm a cast was, hour by hour, from `at` on."""

    kind: Literal["trace"] = "trace"
    label: str = Field("", max_length=60)
    readings: tuple[tuple[float, float], ...] = Field(min_length=2, max_length=2000)
    """Hours after the cast, °C."""


class Weighing(_Entry):
    """A plaster cast on the scale, on its way to dry."""

    kind: Literal["weighing"] = "weighing"
    label: str = Field("", max_length=60)
    kg: float = Field(gt=0, le=5000)


Proof = Cast | Result | Asked | Weighing | Note | Photo | Trace
_READ: Final[TypeAdapter[Proof]] = TypeAdapter(Annotated[Proof, Field(discriminator="kind")])


def read_proof(document: object) -> Proof:
    """Read an entry as it is kept. Common practice, no source; raises ValueError where it is none."""
    return _READ.validate_python(document)


def check_result(cast: Cast, result: Result, asked_mpa: float | None, *, sure: bool) -> None:
    """Refuse a result that cannot be, and ask about one far from what was asked for.

    Raises
    ------
    MixError : a result before the cast, or [MPa] three times more or less than asked where nobody says it is so

    References
    ----------
    Own assumption.
    """
    if result.at <= cast.at:
        said = mark("A specimen is not broken before it is cast.")
        raise MixError(Fault(Code.OUT_OF_RANGE, said, mark("Look at the two dates."), field="at"))
    if asked_mpa and not sure and cast.shape not in BENT and not asked_mpa / FAR <= result.mpa <= asked_mpa * FAR:
        far = Said(
            "{found} where {asked} was asked for: is the point in its place?",
            found=Amount(result.mpa, "MPa"),
            asked=Amount(asked_mpa, "MPa"),
        )
        raise MixError(
            Fault(Code.OUT_OF_RANGE, far, mark("Write it again, or say that it is so."), field="mpa", value=result.mpa)
        )


class Figures(NamedTuple):
    """Results taken together [MPa]."""

    many: int
    mean: float
    deviation: float | None
    """Of the sample; None of one."""
    characteristic: float | None
    rough: bool


def figures(results: Sequence[float]) -> Figures | None:
    """Take results together.

    Parameters
    ----------
    results : [MPa]

    Returns
    -------
    mean, sample deviation, mean − 1.64 s; None of none

    References
    ----------
    EC2, characteristic value, from memory; under fifteen it is called rough: house ruling.

    >>> figures((30.0, 32.0, 34.0))
    Figures(many=3, mean=32.0, deviation=2.0, characteristic=28.72, rough=True)
    """
    if not results:
        return None
    mean = fmean(results)
    deviation = stdev(results) if len(results) > 1 else None
    low = mean - CHARACTERISTIC * deviation if deviation is not None else None
    return Figures(len(results), mean, deviation, low, len(results) < ROUGH_UNDER)


class Judged(NamedTuple):
    """Whether results will do, and why."""

    enough: bool
    """Whether there are enough to judge."""
    passed: bool
    reasons: tuple[Words, ...]


PSI_MPA: Final = STRENGTH_MPA["psi"]
FROM_FIRST: Final = 35
"""From so many results on the deviation of the first of them holds. EN 206, from memory."""


def under(value: float, limit: float) -> bool:
    """Whether a strength is under its limit [MPa]; what is exactly at it is not. Plain arithmetic."""
    return value < limit * (1 - SLACK)


class Broken(NamedTuple):
    """A specimen that was broken [MPa]."""

    cast: Cast
    mpa: float


def means_of_loads(broken: Iterable[Broken], least: int) -> tuple[float, ...]:
    """Take specimens of one load, shape and age together as one test [MPa], in the order they were cast.

    Parameters
    ----------
    broken : specimens with what they carried [MPa]
    least : specimens that make a test; a load with fewer is shown, not judged

    Returns
    -------
    the mean of each test [MPa]; where no load was said, what was cast within one hour is one load

    References
    ----------
    ACI 318, a test is the mean of two specimens or more; EN 206, a result is the mean of its sample; from memory.
    """
    found: dict[tuple[object, ...], list[float]] = {}
    for one in broken:
        hour = one.cast.at.replace(minute=0, second=0, microsecond=0)
        key = (one.cast.load or hour, one.cast.shape, one.cast.due_days)
        found.setdefault(key, []).append(one.mpa)
    return tuple(fmean(values) for values in found.values() if len(values) >= least)


LEAST_OF_TEST: Final[dict[Rule, int]] = {"en-206": 1, "aci-318": 2}


def en_206(results: Sequence[float], fck_mpa: float, sigma_mpa: float | None = None) -> Judged:
    """Judge results by EN 206.

    Parameters
    ----------
    results : in their order, cubes or cylinders as entered [MPa]
    fck_mpa : characteristic strength asked for, of the same specimen [MPa]
    sigma_mpa : deviation known from before [MPa]; None takes that of the first 35

    Returns
    -------
    first production: groups of three without overlap, mean ≥ fck + 4, each result ≥ fck − 4; from 35 results on, or
    where the deviation is known, the mean of the last fifteen ≥ fck + 1.48 σ

    References
    ----------
    EN 206, tables of conformity, from memory; the groups: house ruling.

    >>> en_206((34.0, 36.0, 35.0), 30).passed, en_206((34.0, 36.0, 31.0), 30).passed
    (True, False)
    """
    four, asked = Amount(4, "MPa"), Amount(fck_mpa, "MPa")
    low = [one for one in results if under(one, fck_mpa - 4)]
    reasons: list[Words] = [
        Said("{found} lies more than {four} under {asked}.", found=Amount(one, "MPa"), four=four, asked=asked)
        for one in low[:1]
    ]
    if len(results) >= FROM_FIRST or (sigma_mpa is not None and len(results) >= ROUGH_UNDER):
        sigma = sigma_mpa or stdev(results[:FROM_FIRST])
        mean = fmean(results[-15:])
        if under(mean, fck_mpa + 1.48 * sigma):
            reasons.append(_short(mean, fck_mpa + 1.48 * sigma))
        return Judged(enough=True, passed=not reasons, reasons=tuple(reasons))
    means = [fmean(results[at : at + 3]) for at in range(0, len(results) - 2, 3)]
    reasons += [_short(mean, fck_mpa + 4) for mean in means if under(mean, fck_mpa + 4)][:1]
    return Judged(enough=bool(means), passed=bool(means) and not reasons, reasons=tuple(reasons))


def aci_318(results: Sequence[float], fc_mpa: float) -> Judged:
    """Judge results by ACI 318.

    Parameters
    ----------
    results : tests in their order, cylinders [MPa]
    fc_mpa : strength asked for [MPa]

    Returns
    -------
    the mean of any three in a row ≥ f'c; none under f'c − 500 psi, above 5000 psi none under 0.90 f'c

    References
    ----------
    ACI 318-19, 26.12.3.1, from memory.

    >>> aci_318((30.0, 28.0, 33.0), 30).passed, aci_318((30.0, 28.0, 31.0), 30).passed
    (True, False)
    """
    least = 0.90 * fc_mpa if under(5000 * PSI_MPA, fc_mpa) else fc_mpa - 500 * PSI_MPA
    low = [one for one in results if under(one, least)]
    reasons: list[Words] = [
        Said("{found} is under {least}, the least of one test.", found=Amount(one, "MPa"), least=Amount(least, "MPa"))
        for one in low[:1]
    ]
    means = [fmean(results[at : at + 3]) for at in range(len(results) - 2)]
    reasons += [_short(mean, fc_mpa) for mean in means if under(mean, fc_mpa)][:1]
    return Judged(enough=bool(means), passed=bool(means) and not reasons, reasons=tuple(reasons))


def _short(mean: float, wanted: float) -> Words:
    return Said("A mean of {mean} where {wanted} is wanted.", mean=Amount(mean, "MPa"), wanted=Amount(wanted, "MPa"))


def judge(asked: Asked, broken: Sequence[Broken]) -> Judged:
    """Judge broken specimens [MPa] by what is asked for. As `means_of_loads`, `en_206` and `aci_318`."""
    results = means_of_loads(broken, LEAST_OF_TEST[asked.rule])
    return en_206(results, asked.mpa, asked.sigma_mpa) if asked.rule == "en-206" else aci_318(results, asked.mpa)


def due_on(cast: Cast) -> datetime:
    """Return when a specimen is due. Calendar days after the cast: house ruling, plain arithmetic."""
    return cast.at + timedelta(days=cast.due_days)


class Drying(NamedTuple):
    """How dry a plaster cast is."""

    share: float
    """Water left over its dry mass [-]."""
    dry: bool
    days_left: float | None
    """Until it is dry, as fast as it has dried lately; None where nobody can tell."""


def drying(weighings: Iterable[Weighing], dry_kg: float) -> Drying | None:
    """Say how dry a cast is by its weighings.

    Parameters
    ----------
    weighings : of one cast, any order [kg]
    dry_kg : mass on the day it is dry [kg], as `strength.dry_cast_kg`

    Returns
    -------
    what is left, whether that is dry, and the days to go: the water over its dry mass falls by the same share a day

    References
    ----------
    Dry within 1 % and under half a per cent a day: house ruling; falling by a share: own assumption.
    """
    rows = sorted(weighings, key=lambda one: one.at)
    if not rows or dry_kg <= 0:
        return None
    share = rows[-1].kg / dry_kg - 1
    if len(rows) < 2:
        return Drying(share, dry=False, days_left=None)
    days = (rows[-1].at - rows[-2].at).total_seconds() / 86_400
    before = rows[-2].kg / dry_kg - 1
    slow = days > 0 and abs(rows[-2].kg - rows[-1].kg) / rows[-1].kg / days < DRY_A_DAY
    if share <= DRY_SHARE:
        return Drying(share, dry=slow, days_left=0.0 if slow else None)
    if not 0 < share < before or days <= 0:
        return Drying(share, dry=False, days_left=None)
    return Drying(share, dry=False, days_left=math.log(share / DRY_SHARE) / (math.log(before / share) / days))
