"""Clocks of everything that runs just now, for the strip on every page."""

from datetime import UTC, datetime, timedelta
from typing import Final

from fastapi import APIRouter, Request

from keeve.core.message.errors import Frozen
from keeve.core.run.due import LoadClock, clocks_due
from keeve.core.run.events import milliseconds
from keeve.store.tables import JobRow
from keeve.web.asking.deps import Desk, Looking, ReadBy
from keeve.web.edge.answers import REFUSALS
from keeve.words.putting import put
from keeve.words.reader import Reader

router = APIRouter(tags=["clocks"], responses=REFUSALS)
LATELY: Final = timedelta(hours=16)
MOST_JOBS: Final = 12


class ShownDue(Frozen):
    """What comes, in the reader's words."""

    what: str
    at_ms: int


class ShownClock(Frozen):
    """One load's clock, and where a tap goes."""

    job: str
    href: str
    title: str
    load: int
    now: str
    due: list[ShownDue]


class Clocks(Frozen):
    """All clocks of the crew."""

    now_ms: int
    """The server's clock: a phone's may be wrong."""
    clocks: list[ShownClock]


def _shown(job: JobRow, clock: LoadClock, request: Request, reader: Reader) -> ShownClock:
    return ShownClock(
        job=str(job.id),
        href=str(request.app.url_path_for("mixer", job_id=str(job.id))),
        title=job.name,
        load=clock.load,
        now=put(clock.now, reader),
        due=[ShownDue(what=put(one.what, reader), at_ms=one.at_ms) for one in clock.due],
    )


def _of(at: Desk, request: Request, reader: Reader, now_ms: int) -> list[ShownClock]:
    found = []
    only = getattr(request.state, "only_job", None)
    worked = at.days.worked_since(datetime.now(UTC) - LATELY, MOST_JOBS)
    jobs = [job for job, _ in worked if only is None or str(job.id) == only]
    for job, log in zip(jobs, at.runs.logs(jobs), strict=True):
        found += [_shown(job, clock, request, reader) for clock in clocks_due(log.run, log.tickets, now_ms)]
    return found


@router.get("/clocks", name="clocks")
def clocks(request: Request, desk: Looking, reader: ReadBy) -> Clocks:
    """List the clocks that run: loads in mixers, plaster that sets."""
    now_ms = milliseconds(datetime.now(UTC))
    with desk() as at:
        return Clocks(now_ms=now_ms, clocks=_of(at, request, reader, now_ms))
