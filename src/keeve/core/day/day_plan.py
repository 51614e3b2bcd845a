"""A day as a person plans it: hours, rests, jobs in their order, and the forecast it is held against."""

import re
from collections.abc import Iterable
from itertools import pairwise
from typing import Annotated, Any, Final

from pydantic import BeforeValidator, Field

from keeve.core.conditions.weather import sunned_c
from keeve.core.day.day import Closed, Task
from keeve.core.dividing.loads import PLACED_SHARE
from keeve.core.hardening.clock import life_at_min
from keeve.core.message.errors import Code, Fault, Frozen, MixError
from keeve.core.message.said import Said, mark
from keeve.core.mixes.mix import Mix
from keeve.core.ticket.ticket import Ticket

DAY_MIN: Final = 1440.0
HOLDS_MIN: Final = 180.0
"""An hour of the forecast stands for no longer than this: own assumption."""
WET_MM: Final = 0.2
"""Rain in an hour that stops work under the open sky: common practice, no source."""
FILL_MIN: Final = 4.0
"""Measuring a load out and getting it into the mixer, beside the minutes its timers run: common practice, no source."""
_CLOCK = re.compile(r"\s*(?P<hour>\d{1,2})(?:[:.h ]?(?P<minute>\d{2}))?\s*(?P<half>am|pm)?\s*$", re.IGNORECASE)
_SPAN = re.compile(r"\s*(?P<begin>[^–—-]+)[–—-](?P<end>[^–—-]+)$")


CLEAN_MIN: Final = 15.0
"""Cleaning a mixer after its last load, before anything in it sets: common practice, no source."""


def read_clock_min(text: Any) -> float:
    """Read a time of the day [min after midnight]. Common practice, no source.

    >>> read_clock_min("7:30"), read_clock_min("7"), read_clock_min("1.15 pm"), read_clock_min("24:00")
    (450.0, 420.0, 795.0, 1440.0)
    """
    if isinstance(text, int | float) and not isinstance(text, bool) and 0 <= text <= DAY_MIN:
        return float(text)
    found = _CLOCK.match(str(text)[:40])
    hour, minute = (int(found["hour"]), int(found["minute"] or 0)) if found else (99, 0)
    half = (found["half"] or "").lower() if found else ""
    if half and 1 <= hour <= 12:
        hour = hour % 12 + (12 if half == "pm" else 0)
    elif half:
        hour = 99
    if minute > 59 or hour * 60 + minute > DAY_MIN:
        raise MixError(
            Fault(
                Code.UNREADABLE, Said("“{typed}” is no time of the day.", typed=str(text)[:40]), "Write it like 7:30."
            )
        )
    return float(hour * 60 + minute)


def read_span(text: Any) -> tuple[float, float]:
    """Read from when to when [min after midnight]. Common practice, no source.

    >>> read_span("12:00-12:45")
    (720.0, 765.0)
    """
    if isinstance(text, list | tuple) and len(text) == 2:
        begin, end = read_clock_min(text[0]), read_clock_min(text[1])
    else:
        found = _SPAN.match(str(text)[:60])
        if found is None:
            raise MixError(
                Fault(
                    Code.UNREADABLE,
                    Said("“{typed}” is no rest.", typed=str(text)[:40]),
                    mark("Write from and to: 12:00-12:45."),
                )
            )
        begin, end = read_clock_min(found["begin"]), read_clock_min(found["end"])
    if end <= begin:
        raise MixError(Fault(Code.OUT_OF_RANGE, mark("That ends before it begins."), "Write the earlier time first."))
    return begin, end


Clock = Annotated[float, BeforeValidator(read_clock_min)]
Span = Annotated[tuple[float, float], BeforeValidator(read_span)]


class Hour(Frozen):
    """One line of a forecast."""

    at_min: float = Field(ge=0, le=DAY_MIN)
    air_c: float = Field(ge=-40, le=55)
    humidity_percent: float | None = Field(None, ge=0, le=100)
    wind_km_h: float | None = Field(None, ge=0, le=200)
    rain_mm: float = Field(0.0, ge=0, le=200)
    sun_percent: float | None = Field(None, ge=0, le=100)


class DayJob(Frozen):
    """A job on the day."""

    job: str = Field(max_length=40)
    after_min: Clock | None = None
    """Not begun before."""
    mixers: int = Field(1, ge=1, le=4)
    covered: bool = False
    """Whether it is done under a roof though it need not be."""


class DayPlan(Frozen):
    """How a day is to go."""

    begin_min: Clock = 420.0
    end_min: Clock = 1020.0
    rests: tuple[Span, ...] = Field((), max_length=12)
    jobs: tuple[DayJob, ...] = Field((), max_length=40)
    forecast: tuple[Hour, ...] = Field((), max_length=200)

    def closed(self) -> tuple[Closed, ...]:
        """Return the rests [min of the day]. Plain arithmetic."""
        return tuple(Closed(begin, end, "rest") for begin, end in sorted(self.rests))


def under_roof(mix: Mix) -> bool:
    """Whether a work is done under a roof. Common practice, no source."""
    return mix.kin.roofed


def shut_by(mix: Mix, forecast: Iterable[Hour], *, covered: bool = False) -> tuple[Closed, ...]:
    """Say when the weather forbids a work.

    Parameters
    ----------
    mix : that is made
    forecast : hours of the day [°C, mm]
    covered : whether it is done under a roof

    Returns
    -------
    spans [min of the day]: air outside the mix's bounds, and rain on what lies open; each hour stands until the next,
    three hours at most

    References
    ----------
    Bounds as the mix names them; rain: common practice, no source.
    """
    hours = sorted(forecast, key=lambda one: one.at_min)
    roof = covered or under_roof(mix)
    found: list[Closed] = []
    for at, one in enumerate(hours):
        until = min(hours[at + 1].at_min if at + 1 < len(hours) else DAY_MIN, one.at_min + HOLDS_MIN)
        bounds = mix.temperatures
        bad = bounds is not None and not bounds.low_c <= one.air_c <= bounds.high_c
        if not (bad or (one.rain_mm >= WET_MM and not roof)) or until <= one.at_min:
            continue
        if found and found[-1].end_min == one.at_min:
            found[-1] = found[-1]._replace(end_min=until)
        else:
            found.append(Closed(one.at_min, until, "weather"))
    return tuple(found)


def tasks_of(
    name: str,
    ticket: Ticket,
    place_l_min: float | None,
    ready_min: float,
    shut: tuple[Closed, ...],
    airs: tuple[tuple[float, float], ...] = (),
) -> tuple[Task, ...]:
    """Make the loads of a ticket tasks of a day.

    Parameters
    ----------
    name : of the job
    ticket : what is mixed
    place_l_min : pace of the hands that place it [L/min]; None as fast as it is mixed, and well within its life
    ready_min : not before [min of the day]
    shut : weather that forbids it [min of the day]
    airs : from when on the mix lasts how long [min of the day, min], as `airs_of`

    Returns
    -------
    a task a load [min]

    References
    ----------
    Common practice, no source.
    """
    found = []
    for number, load in enumerate(ticket.loads, 1):
        card = ticket.cards[load.card]
        mix_min = FILL_MIN + card.seconds / 60
        # What is measured out goes in evenly over the steps; binder and water meet at one of them.
        filled = FILL_MIN * card.meets / len(card.steps)
        met_min = filled + sum(step.seconds for step in card.steps[: card.meets]) / 60
        left_min = max(ticket.life_now_min - (mix_min - met_min), 0.0)
        place_min = load.volume_m3 * 1000 / place_l_min if place_l_min else min(mix_min, left_min * PLACED_SHARE)
        found.append(
            Task(
                name, number, ticket.mixer.key, mix_min, met_min, place_min, ticket.life_now_min, ready_min, shut, airs
            )
        )
    return tuple(found)


def airs_of(ticket: Ticket, forecast: Iterable[Hour], *, covered: bool) -> tuple[tuple[float, float], ...]:
    """Say how long a mix lasts as the day warms and cools.

    Parameters
    ----------
    ticket : what is mixed; its life is stated at its own temperature [min, °C]
    forecast : hours of the day [°C, % of the sun]
    covered : whether it is done under a roof: no sun there

    Returns
    -------
    from when on [min of the day] how long [min]; each hour stands until the next, three hours at most, and then what
    the ticket says. Nothing where the load's own temperature was reckoned: it is what it is, whatever the air.

    References
    ----------
    As `life_at_min`: common practice, no source.
    """
    if ticket.batch_c is not None:
        return ()
    hours = sorted(forecast, key=lambda one: one.at_min)
    found: list[tuple[float, float]] = []
    for at, one in enumerate(hours):
        felt_c = sunned_c(one.air_c, 0.0 if covered else one.sun_percent)
        found.append((one.at_min, life_at_min(ticket.life_min, ticket.life_ref_c, felt_c)))
        until = one.at_min + HOLDS_MIN
        if until < (hours[at + 1].at_min if at + 1 < len(hours) else DAY_MIN):
            found.append((until, ticket.life_now_min))
    return tuple(found)


def gaps(forecast: Iterable[Hour]) -> tuple[float, ...]:
    """Return where a forecast leaves more than three hours open [min of the day]. Own assumption."""
    hours = sorted(one.at_min for one in forecast)
    return tuple(a for a, b in pairwise(hours) if b - a > HOLDS_MIN)
