"""A dose on a scale of one's own: how many vessels, what the scale shows for each, and how true that is."""

import math
from typing import Final, Literal, NamedTuple

from pydantic import Field

from keeve.core.measure.units import LB_KG
from keeve.core.message.errors import Code, Fault, Frozen, LoadError
from keeve.core.message.said import Amount, Said, Words, mark
from keeve.core.vessels.tolerance import allowed_percent
from keeve.core.vessels.vessels import CARRY_KG, Container, brim_l

ScaleUnit = Literal["kg", "g", "lb", "oz"]
UNIT_KG: Final[dict[ScaleUnit, float]] = {"kg": 1.0, "g": 0.001, "lb": LB_KG, "oz": LB_KG / 16}
MOST_VESSELS: Final = 40
"""Who weighs more often than that for one load has the wrong scale: own assumption."""
_SLACK: Final = 1e-9


class Scale(Frozen):
    """A scale: what it carries, and how finely it shows it."""

    key: str
    name: Words
    kind: Literal["hanging", "bench", "kitchen"]
    """Hung from a beam, stood on the ground, or on the table."""
    most_kg: float = Field(gt=0, le=5000)
    """What it carries, vessel and all."""
    step_kg: float = Field(gt=0, le=50)
    """Smallest step it shows."""
    unit: ScaleUnit = "kg"
    source: Words = ""


class Weighing(Frozen):
    """A dose as readings of a scale: equal ones, and a last that takes the rest."""

    scale: str
    """Key of the scale."""
    unit: ScaleUnit
    step_kg: float
    vessel: str | None
    """Key of the container on the scale; none where it shows the dose alone."""
    vessels: int
    tare_kg: float
    reading_kg: float
    """What it shows for each but the last, vessel and all."""
    last_kg: float
    """What it shows for the last."""
    error_percent: float
    """What the steps of the scale do to the dose."""
    good: bool
    """Whether half a step is inside the tolerance of the constituent."""

    @property
    def net_kg(self) -> float:
        """What lies in all vessels together [kg]."""
        return (self.vessels - 1) * (self.reading_kg - self.tare_kg) + self.last_kg - self.tare_kg


class Weighed(NamedTuple):
    """What is weighed: its mass as it lies, the room it takes, and whose tolerance holds."""

    role: str
    mass_kg: float
    volume_l: float


def _stepped(mass_kg: float, step_kg: float) -> float:
    return round(mass_kg / step_kg) * step_kg


def _overloaded(scale: Scale, vessel: Container | None, tare: float) -> LoadError:
    return LoadError(
        Fault(
            Code.TOO_SMALL,
            Said(
                "{scale} carries {most}, and {vessel} alone weighs {tare}.",
                scale=scale.name,
                most=Amount(scale.most_kg, "kg"),
                vessel=vessel.name if vessel else "",
                tare=Amount(tare, "kg"),
            ),
            mark("Take a lighter vessel, or a scale that carries more."),
            field="scales",
            value=tare,
            limit=scale.most_kg,
            unit="kg",
        )
    )


def _vessels(dose: Weighed, scale: Scale, vessel: Container | None) -> tuple[int, float]:
    """Count the vessels a dose is weighed in, and return what each weighs empty [kg]."""
    tare = (vessel.tare_kg or 0.0) if vessel else 0.0
    room = scale.most_kg - tare
    if room < scale.step_kg:
        raise _overloaded(scale, vessel, tare)
    most_each = min(room, max(CARRY_KG - tare, scale.step_kg))
    vessels = max(1, math.ceil(dose.mass_kg / most_each - _SLACK))
    if vessel is not None:
        vessels = max(vessels, math.ceil(dose.volume_l / brim_l(vessel.section) - _SLACK))
    if vessels > MOST_VESSELS:
        raise LoadError(
            Fault(
                Code.TOO_SMALL,
                Said("{scale} would be read {n} times for one load.", scale=scale.name, n=Amount(vessels, "whole")),
                mark("Take a scale that carries more, a bigger vessel, or smaller loads."),
                field="scales",
                value=vessels,
                limit=MOST_VESSELS,
            )
        )
    return vessels, tare


def weigh(dose: Weighed, scale: Scale, vessel: Container | None = None) -> Weighing:
    """Divide a dose into vessels and say what the scale shows for each.

    Parameters
    ----------
    dose : mass [kg] and volume [L], both > 0
    scale : its capacity and step [kg]
    vessel : what hangs on it or stands on it; its tare is in the reading

    Returns
    -------
    the readings: net ÷ vessels + tare, rounded to the step, the last vessel takes the rest; no vessel is over its brim,
    the scale's capacity or 25 kg

    Raises
    ------
    LoadError : the scale does not carry the empty vessel, or would be read more than 40 times

    References
    ----------
    Equal readings, the last takes the rest: house ruling. 25 kg: common practice, no source.

    >>> hemp = Weighed("hemp", 5.5, 50.0)
    >>> hanging = Scale(key="h", name="Hanging scale", kind="hanging", most_kg=50, step_kg=0.02)
    >>> from keeve.core.vessels.vessels import Ring, Section
    >>> rings = (Ring(height_mm=0, width_mm=262), Ring(height_mm=366, width_mm=300))
    >>> pail = Container(key="p", name="Pail", short="pail", section=Section(rings=rings), tare_kg=0.9)
    >>> found = weigh(hemp, hanging, pail)
    >>> found.vessels, round(found.reading_kg, 2), round(found.last_kg, 2)
    (3, 2.74, 2.72)
    """
    vessels, tare = _vessels(dose, scale, vessel)
    reading = _stepped(dose.mass_kg / vessels + tare, scale.step_kg)
    rest = dose.mass_kg - (vessels - 1) * (reading - tare)
    last = max(_stepped(rest + tare, scale.step_kg), 0.0)
    net = (vessels - 1) * (reading - tare) + last - tare
    return Weighing(
        scale=scale.key,
        unit=scale.unit,
        step_kg=scale.step_kg,
        vessel=vessel.key if vessel else None,
        vessels=vessels,
        tare_kg=tare,
        reading_kg=reading,
        last_kg=last,
        error_percent=(net / dose.mass_kg - 1) * 100,
        good=scale.step_kg / 2 / dose.mass_kg * 100 <= allowed_percent(dose.role) + _SLACK,
    )


def best_weighing(dose: Weighed, scales: tuple[Scale, ...], vessels: tuple[Container, ...]) -> Weighing | None:
    """Choose scale and vessel for a dose.

    Parameters
    ----------
    dose : mass [kg] and volume [L], both > 0
    scales : at hand
    vessels : to weigh in; with none the scale shows the dose alone

    Returns
    -------
    the weighing whose step is fine enough with the fewest readings, else the finest; None without a scale

    Raises
    ------
    LoadError : none of the scales can weigh it; what stands against the first

    References
    ----------
    Common practice, no source.
    """
    found: list[Weighing] = []
    against: list[LoadError] = []
    for scale in scales:
        for vessel in vessels or (None,):
            try:
                found.append(weigh(dose, scale, vessel))
            except LoadError as error:
                against.append(error)
    if not found and against:
        raise against[0]
    good = [one for one in found if one.good]
    if good:
        return min(good, key=lambda one: (one.vessels, one.step_kg))
    return min(found, key=lambda one: (one.step_kg, one.vessels), default=None)
