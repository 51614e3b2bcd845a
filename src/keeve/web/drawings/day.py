"""The day as a drawing: hours across, a row for each job, its loads as bars; and the weeks after it."""

from collections.abc import Callable
from datetime import date, datetime, timedelta
from typing import Final, NamedTuple
from zoneinfo import ZoneInfo

from keeve.core.day.day import Closed, Laid, Line, Task
from keeve.core.day.day_plan import CLEAN_MIN, DayJob, DayPlan, Hour
from keeve.core.hardening.waiting import Waiting
from keeve.core.message.errors import Fault
from keeve.core.message.said import Words
from keeve.core.mixes.mix import Mix
from keeve.core.ticket.ticket import Ticket
from keeve.store.tables import JobRow
from keeve.web.drawings.common import hatch_of

WIDE: Final = 1140.0
LEFT: Final = 190.0
ROW: Final = 64.0
SKY: Final = 128.0
WORDS_Y: Final = 120.0
"""Where the wind is said."""
CLOCKS: Final = 24.0
WEEK_ROW: Final = 30.0
_STEP_MIN: Final = 60
_LEAST_DAYS: Final = 10
Across = Callable[[float], float]
"""Where a minute of the day is."""
Marks = tuple[tuple[float, float, float], ...]


class OnDay(NamedTuple):
    """A job on the day."""

    entry: DayJob
    row: JobRow
    mix: Mix
    ticket: Ticket
    tasks: tuple[Task, ...]
    shut: tuple[Closed, ...]
    waits: tuple[Waiting, ...]
    """What comes after its last placing."""
    real: tuple[tuple[int, float, float], ...] = ()
    """Loads that were mixed on that day: number, begun and ended [min of the day]."""


class DayLaid(NamedTuple):
    """A day worked out."""

    plan: DayPlan
    zone: ZoneInfo
    jobs: tuple[OnDay, ...]
    line: Line
    faults: tuple[Fault, ...]
    unplanned: tuple[str, ...]
    """Names of jobs that cannot be planned yet."""


class After(NamedTuple):
    """Something after the placing of a job, on the calendar."""

    job: str
    kind: str
    what: Words
    begin: datetime
    end: datetime


def loads_of(laid: DayLaid, job: OnDay) -> tuple[Laid, ...]:
    """Return the loads of a job on the line."""
    return tuple(one for one in laid.line.loads if one.task.job == str(job.row.id))


class Bar(NamedTuple):
    """A load: mixing and placing, with the end of its life."""

    number: int
    mixed_x: float
    tipped_x: float
    placed_x: float
    life_x: float | None
    """Where its life ends, if that is on the drawing."""


class DayRow(NamedTuple):
    """One job on the drawing."""

    key: str
    name: str
    y: float
    bars: tuple[Bar, ...]
    shut: tuple[tuple[float, float], ...]
    hatch: str
    finish: tuple[tuple[float, float], ...]
    """When the face is finished, or the cast comes out: x, wide."""
    clean: tuple[float, float] | None
    """The mixer cleaned after its last load: x, wide."""
    real: Marks
    """Loads that were mixed: x, wide, number."""
    left: int
    """Loads that do not go in."""
    after_min: float | None


class DrawnDay(NamedTuple):
    """A day, in units of the drawing."""

    width: float
    height: float
    hours: tuple[tuple[float, str], ...]
    rests: tuple[tuple[float, float], ...]
    work: tuple[float, float]
    rows: tuple[DayRow, ...]
    air: str
    """Points of the temperature's line."""
    marks: Marks
    """Temperatures said: x, y, °C."""
    rain: Marks
    """Bars of rain: x, wide, high."""
    sun: tuple[tuple[float, float], ...]
    """How much of the sun there is: x, share."""
    wind: tuple[tuple[float, float], ...]
    """Wind said: x, km/h."""
    left: float
    """Where the hours begin."""
    from_min: float
    per_min: float


def draw_day(laid: DayLaid) -> DrawnDay:
    """Draw a day laid out."""
    plan = laid.plan
    real = [minute for job in laid.jobs for _, begun, ended in job.real for minute in (begun, ended)]
    begin = min(plan.begin_min, *(one.mixed_min for one in laid.line.loads), *real, plan.end_min - 60) // 60 * 60
    end = -(-max(plan.end_min, *real, begin + 60) // 60) * 60
    per_min = (WIDE - LEFT - 20) / (end - begin)

    def x(minute: float) -> float:
        return LEFT + (min(max(minute, begin), end) - begin) * per_min

    sky = SKY if plan.forecast else CLOCKS  # no empty sky where nobody said how it will be
    last_in = {one.task.mixer: one for one in laid.line.loads}
    rows = tuple(_row(laid, job, sky + at * ROW, x, end, last_in) for at, job in enumerate(laid.jobs))
    hours = [one for one in plan.forecast if begin <= one.at_min <= end]
    air, marks, rain = _sky(hours, x, end)
    return DrawnDay(
        width=WIDE,
        height=sky + max(len(rows), 1) * ROW + 12,
        hours=tuple((x(m), f"{int(m) // 60}:00") for m in range(int(begin), int(end) + 1, _STEP_MIN)),
        rests=tuple((x(a), x(b) - x(a)) for a, b in plan.rests),
        work=(x(plan.begin_min), x(plan.end_min)),
        rows=rows,
        air=air,
        marks=marks,
        rain=rain,
        sun=tuple((x(one.at_min), one.sun_percent / 100) for one in hours if one.sun_percent is not None),
        wind=tuple((x(one.at_min), one.wind_km_h) for one in _said(hours) if one.wind_km_h is not None),
        left=LEFT,
        from_min=begin,
        per_min=per_min,
    )  # fmt: skip


def _row(laid: DayLaid, job: OnDay, y: float, x: Across, end: float, last_in: dict[str, Laid]) -> DayRow:
    loads = loads_of(laid, job)
    last = last_in.get(job.ticket.mixer.key)
    cleaned = last.tipped_min if last is not None and last in loads else None
    bars = tuple(
        Bar(
            one.task.number, x(one.mixed_min), x(one.tipped_min), x(one.placed_min),
            x(one.life_ends_min) if one.life_ends_min < end else None,
        )
        for one in loads
    )  # fmt: skip
    first = job.ticket.cards[0].doses[0]
    return DayRow(
        key=str(job.row.id),
        name=job.row.name,
        y=y,
        bars=bars,
        shut=tuple((x(c.begin_min), x(c.end_min) - x(c.begin_min)) for c in job.shut),
        hatch=hatch_of(first.role),
        finish=tuple(
            (
                x(loads[-1].placed_min + one.from_h * 60),
                x(loads[-1].placed_min + one.to_h * 60) - x(loads[-1].placed_min + one.from_h * 60),
            )
            for one in job.waits
            if loads and one.from_h is not None and one.to_h is not None
        ),
        clean=(x(cleaned), x(cleaned + CLEAN_MIN) - x(cleaned)) if cleaned is not None else None,
        real=tuple((x(begun), max(x(ended) - x(begun), 2.0), number) for number, begun, ended in job.real),
        left=len(job.tasks) - len(loads),
        after_min=job.entry.after_min,
    )


def _said(hours: list[Hour]) -> list[Hour]:
    """Return the hours whose figures are said: no more than there is room for."""
    return hours[:: max(len(hours) // 8, 1)]


def _sky(hours: list[Hour], x: Across, end: float) -> tuple[str, Marks, Marks]:
    if not hours:
        return "", (), ()
    low = min(one.air_c for one in hours)
    span = max(max(one.air_c for one in hours) - low, 6.0)

    def y(air_c: float) -> float:
        return 80 - (air_c - low) / span * 20

    air = " ".join(f"{x(one.at_min):.1f},{y(one.air_c):.1f}" for one in hours)
    marks = tuple((x(one.at_min), y(one.air_c) - 6, one.air_c) for one in _said(hours))
    rain = tuple(
        (x(one.at_min), max(x(min(one.at_min + 60, end)) - x(one.at_min), 2.0), min(6 + one.rain_mm * 5, 30.0))
        for one in hours
        if one.rain_mm > 0
    )
    return air, marks, rain


class WeekBar(NamedTuple):
    """Something in the weeks after."""

    y: float
    x: float
    wide: float
    kind: str
    words: str
    job: str
    on: str


class DrawnWeeks(NamedTuple):
    """The weeks after a day."""

    width: float
    height: float
    days: tuple[tuple[float, str], ...]
    bars: tuple[WeekBar, ...]


def draw_weeks(day: date, after: tuple[After, ...], words: list[str]) -> DrawnWeeks | None:
    """Draw what waits in the days and weeks after; None where nothing does."""
    found = [(one, text) for one, text in zip(after, words, strict=True) if (one.end.date() - day).days >= 1]
    if not found:
        return None
    last = max(*((one.end.date() - day).days for one, _ in found), _LEAST_DAYS)
    per_day = (WIDE - LEFT - 150) / last

    def x(moment: datetime) -> float:
        midnight = datetime(day.year, day.month, day.day, tzinfo=moment.tzinfo)
        return LEFT + (moment - midnight).total_seconds() / 86_400 * per_day

    step = max(last // 7, 1)
    bars = tuple(
        WeekBar(26 + at * WEEK_ROW, x(one.begin), max(x(one.end) - x(one.begin), 0.0), one.kind, text, one.job,
                f"{one.end:%d.%m.}")
        for at, (one, text) in enumerate(found)
    )  # fmt: skip
    marks = tuple((LEFT + n * per_day, f"{day + timedelta(days=n):%d.%m.}") for n in range(0, last + 1, step))
    return DrawnWeeks(WIDE, 30 + len(found) * WEEK_ROW, marks, bars)
