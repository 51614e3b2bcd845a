"""A day's plan worked out: its jobs as loads on the line, and what comes in the weeks after."""

from datetime import UTC, date, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from pydantic import ValidationError

from keeve.catalogue.trying import try_plan
from keeve.core.day.day import Line, Task, lay_out
from keeve.core.day.day_plan import DayJob, DayPlan, airs_of, shut_by, tasks_of, under_roof
from keeve.core.hardening.waiting import Waiting, with_drying
from keeve.core.message.errors import Code, Fault, LoadError, TradeError, faults_of
from keeve.core.message.said import Said, mark
from keeve.core.mixes.mix import Mix
from keeve.core.planning.request import PlanRequest
from keeve.formats.reading.forecast import read_forecast, zone_of
from keeve.formats.writing.calendar import Dated, at_clock, days_later, minute_of
from keeve.store.rows.logs import Log
from keeve.store.tables import JobRow
from keeve.web.asking.deps import Desk
from keeve.web.drawings.day import After, DayLaid, OnDay, loads_of
from keeve.web.stations.mixer.routes import left_out_m3
from keeve.words.putting import put
from keeve.words.reader import Reader


def read_day(document: dict[str, Any], day: date) -> tuple[DayPlan, ZoneInfo, tuple[Fault, ...]]:
    """Read a day as typed: what cannot be read is said and left at its usual."""
    faults: list[Fault] = []
    zone = ZoneInfo("UTC")
    try:
        zone = zone_of(str(document.get("zone") or "UTC"))
    except TradeError as error:
        faults += error.faults
    hours: tuple[Any, ...] = ()
    try:
        hours = read_forecast(str(document.get("forecast") or ""), day, zone)
    except TradeError as error:
        faults += error.faults
    rests = [part.strip() for part in str(document.get("rests") or "").replace(";", ",").split(",") if part.strip()]
    listed = [_job(one) for one in document.get("jobs") or () if isinstance(one, dict)]
    given = {
        "begin_min": document.get("begin") or "7:00", "end_min": document.get("end") or "17:00", "rests": rests,
        "jobs": listed,
    }  # fmt: skip
    try:
        plan = DayPlan.model_validate(given)
    except ValidationError as error:
        faults += faults_of(error)
        jobs = [DayJob(job=str(one.get("job", ""))[:40]) for one in listed]
        plan = DayPlan(jobs=tuple(jobs))
    return plan.model_copy(update={"forecast": hours}), zone, tuple(faults)


def _job(one: dict[str, Any]) -> dict[str, Any]:
    return {
        "job": str(one.get("job", ""))[:40], "after_min": one.get("after") or None, "mixers": one.get("mixers") or 1,
        "covered": bool(one.get("covered")),
    }  # fmt: skip


def lay_day(at: Desk, document: dict[str, Any], day: date) -> DayLaid:
    """Lay a day out."""
    plan, zone, faults = read_day(document, day)
    shelf, now = at.shelf(), datetime.now(UTC)
    jobs: list[OnDay] = []
    unplanned: list[str] = []
    rows = at.store.jobs_named([entry.job for entry in plan.jobs])
    logs = dict(zip(rows, at.runs.logs(list(rows.values())), strict=True))
    for entry in plan.jobs:
        row = rows.get(entry.job)
        if row is None:
            continue
        log = logs[entry.job]
        tried = try_plan(at.store.sheet(row), shelf, left_out_m3(log), now)
        if tried.request is None or tried.brief is None:
            unplanned.append(row.name)
            continue
        waiting = _waits_below(at, row, day, zone)
        if waiting is not None:
            faults = (*faults, waiting)
            continue
        shut = shut_by(tried.request.mix, plan.forecast, covered=entry.covered)
        pace = tried.request.place_l_min
        airs = airs_of(tried.brief, plan.forecast, covered=entry.covered or under_roof(tried.request.mix))
        real = _real(log, day, zone, now)
        ready = max(entry.after_min or 0.0, minute_of(now, day, zone) if real else 0.0)
        tasks = tasks_of(str(row.id), tried.brief, pace, ready, shut, airs)
        waits = waits_after(tried.request)
        jobs.append(OnDay(entry, row, tried.request.mix, tried.brief, tasks, shut, waits, real))
    line, more = _line(plan, jobs)
    return DayLaid(plan, zone, tuple(jobs), line, (*faults, *more), tuple(unplanned))


def _real(log: Log, day: date, zone: ZoneInfo, now: datetime) -> tuple[tuple[int, float, float], ...]:
    """Find the loads that were mixed on a day; one still in the mixer lasts until now."""
    found = []
    for load in log.run.loads:
        begun = datetime.fromtimestamp(load.begun_ms / 1000, UTC)
        if begun.astimezone(zone).date() == day:
            ended = datetime.fromtimestamp(load.ended_ms / 1000, UTC) if load.ended_ms else now
            found.append((load.number, minute_of(begun, day, zone), minute_of(ended, day, zone)))
    return tuple(found)


def waits_of_job(at: Desk, row: JobRow, mix: Mix) -> tuple[Waiting, ...]:
    """Say what comes after a job's placing; only what dries long asks how thick it is."""
    if not mix.kin.dries_long:
        return mix.waits
    request = try_plan(at.store.sheet(row), at.shelf()).request
    return waits_after(request) if request is not None else mix.waits


def waits_after(request: PlanRequest) -> tuple[Waiting, ...]:
    """Say what comes after the placing of a job, its drying by thickness too."""
    thick = (
        getattr(one, "depth_mm", None) or getattr(one, "thickness_mm", None) for one in request.shapes if not one.off
    )
    deepest = max((float(one) for one in thick if isinstance(one, int | float)), default=0.0)
    return with_drying(request.mix.waits, request.mix.kin, deepest)


def _waits_below(at: Desk, row: JobRow, day: date, zone: ZoneInfo) -> Fault | None:
    """Say that a coat is not due yet: the one below it was not placed, or must wait longer."""
    sheet = at.store.sheet(row)
    below = at.store.job_named(str(sheet.get("follows") or ""))
    if below is None:
        return None
    mix = at.shelf().mixes.get(below.mix_key)
    days = next((one.from_days for one in mix.waits if one.kind == "next" and one.from_days), 0) if mix else 0
    last = at.days.last_worked(below.id)
    if last is None:
        said = Said("{job} waits: the coat below it, {below}, is not on yet.", job=row.name, below=below.name)
        return Fault(Code.OUT_OF_RANGE, said, mark("Put that one on the line first."))
    due = days_later(last.astimezone(zone), days or 0).date()
    if day >= due:
        return None
    said = Said("{job} waits until {day}: the coat below must stay damp.", job=row.name, day=f"{due:%d.%m.}")
    return Fault(Code.OUT_OF_RANGE, said, mark("Put it on that day's line."))


def _line(plan: DayPlan, jobs: list[OnDay]) -> tuple[Line, tuple[Fault, ...]]:
    """Lay out what can be; a job whose loads outlive themselves is told and left out."""
    mixers: dict[str, int] = {}
    for one in jobs:
        mixers[one.ticket.mixer.key] = max(mixers.get(one.ticket.mixer.key, 1), one.entry.mixers)
    names = {str(one.row.id): one.row.name for one in jobs}
    faults: list[Fault] = []
    tasks: list[Task] = []
    for one in jobs:
        try:
            lay_out(tuple(t._replace(job=names[t.job]) for t in one.tasks[:1]), {}, 0, 2 * 1440)
            tasks += one.tasks
        except LoadError as error:
            faults += error.faults
    try:
        return lay_out(tuple(tasks), mixers, plan.begin_min, plan.end_min, plan.closed()), tuple(faults)
    except LoadError as error:
        return Line((), tuple(tasks), 0.0), (*faults, *error.faults)


def frosts(laid: DayLaid) -> list[tuple[str, float]]:
    """Say on which fresh work frost comes after it is placed, and when [min of the day]."""
    found = []
    for job in laid.jobs:
        loads = loads_of(laid, job)
        cold = [
            one.at_min for one in laid.plan.forecast if loads and one.at_min >= loads[-1].placed_min and one.air_c <= 0
        ]
        if cold and job.mix.temperatures is not None and not job.entry.covered:
            found.append((job.row.name, min(cold)))
    return found


def after_of(laid: DayLaid, job: OnDay, day: date) -> tuple[After, ...]:
    """Say what comes after a job's last placing, as far as it goes in on this day."""
    loads = loads_of(laid, job)
    if not loads:
        return ()
    return after_placing(job.row.name, job.waits, at_clock(day, loads[-1].placed_min, laid.zone))


def after_placing(job: str, waits: tuple[Waiting, ...], placed: datetime) -> tuple[After, ...]:
    """Put what comes after a placing on the calendar; days keep its clock, hours elapse."""
    found = []
    for one in waits:
        if one.from_h is not None and one.to_h is not None:
            begin, end = (
                (placed.astimezone(UTC) + timedelta(hours=h)).astimezone(placed.tzinfo) for h in (one.from_h, one.to_h)
            )
        else:
            begin, end = (days_later(placed, days or 0) for days in (one.from_days, one.to_days))
        found.append(After(job, one.kind, one.what, begin, end))
    return tuple(found)


def dated(laid: DayLaid, job: OnDay, day: date, reader: Reader) -> tuple[Dated, ...]:
    """Put a job's loads and what comes after into the entries of a calendar."""
    found = []
    for one in loads_of(laid, job):
        begin, end = (at_clock(day, minute, laid.zone) for minute in (one.mixed_min, one.placed_min))
        title = job.row.name
        found.append(
            Dated(f"{job.row.id}-{day}-load-{one.task.number}", f"{title} · {one.task.number}/{len(job.tasks)}", begin,
                  end, put(job.ticket.mix_name, reader), one.task.number == 1)
        )  # fmt: skip
    for number, wait in enumerate(after_of(laid, job, day)):
        title = f"{wait.job}: {put(wait.what, reader)}"
        found.append(Dated(f"{job.row.id}-{day}-after-{number}", title, wait.begin, wait.end))
    return tuple(found)
