"""The day's page: which jobs, in which order, from when; the weather they are held against; and its calendar."""

from datetime import UTC, date, datetime, timedelta
from typing import Annotated, Any, Final
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Form, Request, status
from fastapi.responses import RedirectResponse, Response

from keeve.core.day.day_plan import gaps
from keeve.core.measure.moments import of_our_days
from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import mark
from keeve.formats.reading.forecast import write_forecast
from keeve.formats.writing.calendar import Dated, as_calendar
from keeve.web.asking.deps import AtDesk, Desk, Job, Looking, ReadBy
from keeve.web.beside.day.laid import after_of, dated, frosts, lay_day, read_day
from keeve.web.beside.day.proofs_due import proofs_due
from keeve.web.drawings.day import DayLaid, draw_day, draw_weeks
from keeve.web.edge.answers import GOES, GOES_OR_SHOWS, PAGE, REFUSALS, file_of
from keeve.web.edge.security import OwnPage
from keeve.web.edge.settings import here
from keeve.web.pages.faults import fault_rows
from keeve.web.pages.render import Page, page
from keeve.words.putting import put
from keeve.words.reader import Reader

router = APIRouter(responses=REFUSALS)
MOST_JOBS: Final = 40
MOST_TEXT: Final = 40_000
PLAIN_JOB: Final = {"after": "", "mixers": "1", "covered": False}
USUAL: Final = {"begin": "7:00", "end": "17:00", "rests": "10:00-10:15, 12:00-12:45"}


def _day(text: str) -> date:
    try:
        return of_our_days(date.fromisoformat(text))
    except ValueError:
        raise MixError(Fault(Code.UNREADABLE, mark("That is no day."), mark("Write it like 2026-09-14."))) from None


def _document(at: Desk, day: date) -> dict[str, Any]:
    """Return a day as planned, or one with what is ready to mix."""
    kept = at.days.plan(day)
    if kept is not None:
        return kept
    return USUAL | {"zone": here(), "forecast": "", "jobs": [{"job": str(key)} for key, _ in at.store.to_mix(3)]}


def _shown(
    request: Request, at: Desk, day: date, document: dict[str, Any], reader: Reader, *, refused: bool = False
) -> Page:
    laid = lay_day(at, document, day)
    after = [(one, put(one.what, reader)) for job in laid.jobs for one in after_of(laid, job, day)]
    on_day = {one.job: one for one in laid.plan.jobs}
    listed = [*((entry.job, name) for entry in laid.plan.jobs for name in _names(laid, entry.job)), *(
        (str(key), name) for key, name in at.store.to_mix(MOST_JOBS) if str(key) not in on_day
    )]  # fmt: skip
    return page(
        request,
        "day/page.html",
        status.HTTP_422_UNPROCESSABLE_CONTENT if refused else status.HTTP_200_OK,
        room="day",
        day=day,
        before=day - timedelta(days=1),
        after_day=day + timedelta(days=1),
        today=datetime.now(laid.zone).date(),
        typed=USUAL | {"zone": "UTC", "forecast": ""} | document,
        entries={str(one.get("job")): PLAIN_JOB | one for one in document.get("jobs", ()) if isinstance(one, dict)},
        listed=listed,
        laid=laid,
        drawn=draw_day(laid) if laid.jobs else None,
        weeks=draw_weeks(day, tuple(one for one, _ in after), [text for _, text in after]),
        frost=frosts(laid),
        gaps=gaps(laid.plan.forecast),
        faults=fault_rows(laid.faults, reader),
    )


def _names(laid: DayLaid, key: str) -> list[str]:
    return [one.row.name for one in laid.jobs if str(one.row.id) == key]


@router.get("/day", name="today", **GOES)
def today(request: Request) -> Response:
    """Go to the day of today, by the clock of the place."""
    now = datetime.now(ZoneInfo(here())).date()
    return RedirectResponse(request.url_for("day", day=now.isoformat()), status.HTTP_303_SEE_OTHER)


@router.get("/day/{day}", name="day", **PAGE)
def show_day(request: Request, day: str, desk: Looking, reader: ReadBy) -> Response:
    """Show a day's line."""
    on = _day(day)
    with desk() as at:
        return _shown(request, at, on, _document(at, on), reader)


@router.post("/day/{day}", name="plan_day", dependencies=[OwnPage], **GOES_OR_SHOWS)
def plan_day(
    request: Request,
    day: str,
    desk: AtDesk,
    reader: ReadBy,
    begin: Annotated[str, Form(max_length=40)] = "",
    end: Annotated[str, Form(max_length=40)] = "",
    rests: Annotated[str, Form(max_length=200)] = "",
    zone: Annotated[str, Form(max_length=60)] = "",
    forecast: Annotated[str, Form(max_length=MOST_TEXT)] = "",
    job: Annotated[list[str] | None, Form(max_length=MOST_JOBS)] = None,
    after: Annotated[list[str] | None, Form(max_length=MOST_JOBS)] = None,
    mixers: Annotated[list[str] | None, Form(max_length=MOST_JOBS)] = None,
    on: Annotated[list[str] | None, Form(max_length=MOST_JOBS)] = None,
    covered: Annotated[list[str] | None, Form(max_length=MOST_JOBS)] = None,
    first: Annotated[str, Form(max_length=40)] = "",
) -> Response:
    """Keep how a day is planned; what cannot be read is said, and stays as it was typed."""
    which = _day(day)
    rows = zip(job or (), after or (), mixers or (), strict=False)
    jobs = [
        {"job": key[:40], "after": at[:40], "mixers": many[:4], "covered": key in (covered or ())}
        for key, at, many in rows
        if key in (on or ())
    ]
    jobs.sort(key=lambda one: one["job"] != first)  # moved to the front; the others keep their order
    document = {
        "begin": begin, "end": end, "rests": rests, "zone": zone, "jobs": jobs,
        "forecast": forecast,
    }  # fmt: skip
    with desk() as at:
        _, _, faults = read_day(document, which)
        if faults:
            return _shown(request, at, which, document, reader, refused=True)
        at.days.keep_plan(which, document)
    return RedirectResponse(request.url_for("day", day=which.isoformat()), status.HTTP_303_SEE_OTHER)


@router.get("/day/{day}/forecast.csv", name="forecast_file", **file_of("text/csv"))
def forecast_file(day: str, desk: Looking) -> Response:
    """Hand the forecast of a day out as it was read."""
    on = _day(day)
    with desk() as at:
        plan, _, _ = read_day(_document(at, on), on)
    return Response(write_forecast(plan.forecast), media_type="text/csv")


@router.get("/jobs/{job_id}/calendar.ics", name="job_calendar", **file_of("text/calendar"))
def job_calendar(job: Job, desk: Looking, reader: ReadBy) -> Response:
    """Hand a job's day and the weeks after it out as a calendar with alarms."""
    with desk() as at:
        planned = at.days.planned_for(str(job.id))
        due = proofs_due(at.proofs.of(job.id), ZoneInfo(here()))
        if planned is None and not due:
            raise MixError(
                Fault(Code.MISSING, mark("This job is on no day yet."), mark("Put it on the line of a day first."))
            )
        entries = tuple(
            Dated(f"{job.id}-{one.key}", f"{job.name}: {put(one.what, reader)}", one.on, one.on + timedelta(minutes=15))
            for one in due
        )
        if planned is not None:
            day, document = planned
            laid = lay_day(at, document, day)
            mine = (job_on for job_on in laid.jobs if job_on.row.id == job.id)
            entries += tuple(one for job_on in mine for one in dated(laid, job_on, day, reader))
    return Response(as_calendar(job.name, entries, datetime.now(UTC)), media_type="text/calendar")
