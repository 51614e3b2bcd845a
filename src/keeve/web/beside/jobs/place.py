"""A place: the jobs that belong together there, coat over coat, and what waits between them."""

from datetime import UTC, datetime
from typing import Annotated, NamedTuple
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from keeve.core.hardening.waiting import NextCoat
from keeve.core.message.said import Words
from keeve.store.rows.crew_store import JobLine
from keeve.store.tables import JobRow
from keeve.web.asking.coats import coats_above
from keeve.web.asking.deps import Desk, Looking, ReadBy
from keeve.web.beside.day.laid import after_placing, waits_of_job
from keeve.web.beside.jobs.routes import ListedJob, listed
from keeve.web.drawings.day import After, draw_weeks
from keeve.web.edge.answers import PAGE, REFUSALS
from keeve.web.edge.settings import here
from keeve.web.pages.render import page
from keeve.words.putting import put

router = APIRouter(responses=REFUSALS)


class Coat(NamedTuple):
    """A job of the place, and on how many others it lies."""

    row: ListedJob
    deep: int
    above: list[tuple[NextCoat, Words]]
    placed: datetime | None


def _below(job: JobRow) -> str:
    return str(job.sheet.get("follows") or "") if isinstance(job.sheet, dict) else ""


def _in_coats(jobs: list[JobRow]) -> list[tuple[JobRow, int]]:
    """Put each coat under the one it lies on; what follows nothing here comes in its own order."""
    keys = {str(job.id) for job in jobs}
    found: list[tuple[JobRow, int]] = []
    seen: set[str] = set()

    def take(job: JobRow, deep: int) -> None:
        if str(job.id) in seen:  # two that follow each other
            return
        seen.add(str(job.id))
        found.append((job, deep))
        for above in jobs:
            if _below(above) == str(job.id):
                take(above, deep + 1)

    for job in jobs:
        if _below(job) not in keys:
            take(job, 0)
    for job in jobs:
        take(job, 0)
    return found


def _line(job: JobRow) -> JobLine:
    return JobLine(
        job.id, job.name, job.place, job.mix_name, job.mix_key, job.state, job.to_fill_m3, job.loads, job.made,
        isinstance(job.sheet, dict),
    )  # fmt: skip


def _after(at: Desk, job: JobRow, placed: datetime, now: datetime) -> tuple[After, ...]:
    mix = at.shelf().mixes.get(job.mix_key)
    if mix is None:
        return ()
    return tuple(one for one in after_placing(job.name, waits_of_job(at, job, mix), placed) if one.end >= now)


@router.get("/place", name="place", **PAGE)
def place(request: Request, desk: Looking, reader: ReadBy, name: Annotated[str, Query(max_length=120)]) -> Response:
    """Show the jobs of one place, coat over coat, and what of them waits."""
    zone, now = ZoneInfo(here()), datetime.now(UTC)
    coats: list[Coat] = []
    after: list[After] = []
    with desk() as at:
        for job, deep in _in_coats(at.store.at_place(name.strip())):
            last = at.days.last_worked(job.id)
            placed = last.astimezone(zone) if last is not None else None
            coats.append(Coat(listed(_line(job)), deep, coats_above(at.shelf(), job.mix_key), placed))
            after += _after(at, job, placed, now) if placed is not None else ()
    day = min((one.begin.date() for one in after), default=now.date())
    weeks = draw_weeks(day, tuple(after), [put(one.what, reader) for one in after])
    return page(request, "jobs/place.html", room="jobs", place=name.strip(), coats=coats, weeks=weeks)
