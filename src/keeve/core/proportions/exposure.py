"""Exposure classes: what EN 206 and ACI 318 ask of a concrete where it stands, set against the mix."""

import re
from typing import Annotated, Final, NamedTuple

from pydantic import AfterValidator, BeforeValidator, Field

from keeve.core.measure.reading import within
from keeve.core.measure.units import STRENGTH_MPA
from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import Amount, Said, Words, mark
from keeve.core.proportions.base import Proportions
from keeve.core.vessels.tolerance import SLACK


class Exposure(NamedTuple):
    """One class and what it asks for; None for what it leaves open."""

    key: str
    ratio: float | None
    cylinder_mpa: float
    """Least strength, of cylinders."""
    cement_kg_m3: float | None = None
    air_percent: float | None = None
    entrains: bool = False
    """Whether air must be entrained, by the table of the stone."""


EN: Final = "EN 206, table F.1"
ACI: Final = "ACI 318-19, table 19.3.2.1"
_PSI: Final = STRENGTH_MPA["psi"]
# From memory of the tables: recommended values of EN 206 annex F, which local annexes change; ACI in psi.
_EN_ROWS: Final = (
    Exposure("X0", None, 12), Exposure("XC1", 0.65, 20, 260), Exposure("XC2", 0.60, 25, 280),
    Exposure("XC3", 0.55, 30, 280), Exposure("XC4", 0.50, 30, 300), Exposure("XS1", 0.50, 30, 300),
    Exposure("XS2", 0.45, 35, 320), Exposure("XS3", 0.45, 35, 340), Exposure("XD1", 0.55, 30, 300),
    Exposure("XD2", 0.55, 30, 300), Exposure("XD3", 0.45, 35, 320), Exposure("XF1", 0.55, 30, 300),
    Exposure("XF2", 0.55, 25, 300, 4.0), Exposure("XF3", 0.50, 30, 320, 4.0), Exposure("XF4", 0.45, 30, 340, 4.0),
    Exposure("XA1", 0.55, 30, 300), Exposure("XA2", 0.50, 30, 320), Exposure("XA3", 0.45, 35, 360),
)  # fmt: skip
_ACI_ROWS: Final = (
    Exposure("F0", None, 2500 * _PSI), Exposure("F1", 0.55, 3500 * _PSI, entrains=True),
    Exposure("F2", 0.45, 4500 * _PSI, entrains=True), Exposure("F3", 0.40, 5000 * _PSI, entrains=True),
    Exposure("S0", None, 2500 * _PSI), Exposure("S1", 0.50, 4000 * _PSI), Exposure("S2", 0.45, 4500 * _PSI),
    Exposure("S3", 0.45, 4500 * _PSI), Exposure("W0", None, 2500 * _PSI), Exposure("W1", None, 2500 * _PSI),
    Exposure("W2", 0.50, 4000 * _PSI), Exposure("C0", None, 2500 * _PSI), Exposure("C1", None, 2500 * _PSI),
    Exposure("C2", 0.40, 5000 * _PSI),
)  # fmt: skip
CLASSES: Final = {one.key: (one, clause) for rows, clause in ((_EN_ROWS, EN), (_ACI_ROWS, ACI)) for one in rows}
_PARTED: Final = re.compile(r"[\s,;+/]+")
MOST: Final = 8


def read_classes(typed: object) -> object:
    """Read exposure classes as they stand on a drawing: XC4, XF3 – or F2 S1. Common practice, no source.

    Raises
    ------
    MixError : one that neither standard knows

    >>> read_classes("xc4, XF3"), read_classes("F2 S1")
    (('XC4', 'XF3'), ('F2', 'S1'))
    """
    if not isinstance(typed, str):
        return typed
    found = tuple(part.upper() for part in _PARTED.split(within(typed).strip()) if part)
    for one in found:
        if one not in CLASSES:
            said = Said("“{typed}” is no exposure class of EN 206 or ACI 318.", typed=one[:20])
            hint = mark("Write them as on the drawing: XC4, XF3 – or F2, S1.")
            raise MixError(Fault(Code.UNKNOWN, said, hint))
    return found


def _known(found: tuple[str, ...]) -> tuple[str, ...]:
    for one in found:
        read_classes(one)
    return found


ExposureClasses = Annotated[
    tuple[str, ...], BeforeValidator(read_classes), AfterValidator(_known), Field(max_length=MOST)
]


class Found(NamedTuple):
    """What is known of a mix beside its proportions."""

    cylinder_mpa: float | None
    """Characteristic or specified strength; None where nobody stated it."""
    entrains: bool


def exposed(classes: tuple[str, ...], proportions: Proportions, found: Found) -> tuple[Words, ...]:
    """Set a mix against its exposure classes.

    Parameters
    ----------
    classes : as on the drawing
    proportions : the mix per m³
    found : its strength [MPa] and whether air is entrained in it

    Returns
    -------
    for each class what does not hold, with the clause, or that it holds as far as is known; and that local annexes
    differ. Cement alone counts; a strength nobody stated is not judged.

    References
    ----------
    EN 206 table F.1 and ACI 318-19 table 19.3.2.1, from memory; cement alone: house ruling.
    """
    if not classes:
        return ()
    cement = sum(c.dry_kg_m3 for c in proportions.constituents if c.material.role == "cement")
    if cement <= 0:
        return ()
    said: list[Words] = []
    for key in classes:
        row, clause = CLASSES[key]
        missed = [*_ratio(row, proportions, cement), *_rest(row, proportions, cement, found)]
        said += [Said("{class_} ({clause}): {what}", class_=key, clause=clause, what=one) for one in missed]
        if not missed:
            known = mark("it holds.") if found.cylinder_mpa is not None else mark("it holds, its strength not judged.")
            said.append(Said("{class_} ({clause}): {what}", class_=key, clause=clause, what=known))
    said.append(mark("Local annexes ask for other figures: the drawing and the licensed engineer decide."))
    return tuple(said)


def _ratio(row: Exposure, proportions: Proportions, cement: float) -> list[Words]:
    if row.ratio is None:
        return []
    ratio, most = (one / cement for one in (proportions.water.target, proportions.water.high))
    limit = Amount(row.ratio, "ratio")
    if ratio > row.ratio * (1 + SLACK):
        return [Said("w/c {limit} at most, this mix has {ratio}.", limit=limit, ratio=Amount(ratio, "ratio"))]
    if most > row.ratio * (1 + SLACK):
        said = "w/c {limit} at most, and its highest water makes {ratio}: hold it with a cap of {limit}."
        return [Said(said, limit=limit, ratio=Amount(most, "ratio"))]
    return []


def _rest(row: Exposure, proportions: Proportions, cement: float, found: Found) -> list[Words]:
    said: list[Words] = []
    if row.cement_kg_m3 is not None and cement < row.cement_kg_m3 * (1 - SLACK):
        least, has = (Amount(kg, "kg in 1 m³") for kg in (row.cement_kg_m3, cement))
        said.append(Said("{least} of cement at least, this mix has {has}.", least=least, has=has))
    if found.cylinder_mpa is not None and found.cylinder_mpa < row.cylinder_mpa * (1 - SLACK):
        least, has = Amount(row.cylinder_mpa, "MPa"), Amount(found.cylinder_mpa, "MPa")
        said.append(Said("{least} by cylinder at least, this mix is for {has}.", least=least, has=has))
    air = proportions.air * 100
    if row.air_percent is not None and air < row.air_percent * (1 - SLACK):
        said.append(Said("{least} of air at least, entrained.", least=Amount(row.air_percent, "%")))
    if row.entrains and not found.entrains:
        said.append(mark("entrain air, as much as its stone asks for."))
    return said
