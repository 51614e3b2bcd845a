"""Today at a glance: the day that is planned, what waits to be done, what the weather forbids."""

from datetime import UTC, datetime, timedelta
from typing import Final, NamedTuple
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Request
from fastapi.responses import Response

from keeve.core.message.said import Words
from keeve.formats.writing.calendar import days_later
from keeve.web.asking.deps import Desk, Looking
from keeve.web.beside.day.laid import lay_day, waits_of_job
from keeve.web.beside.day.proofs_due import proofs_due
from keeve.web.drawings.day import DayLaid
from keeve.web.edge.answers import PAGE, REFUSALS
from keeve.web.edge.settings import here
from keeve.web.pages.render import page

router = APIRouter(responses=REFUSALS)
LOOKED_BACK: Final = timedelta(days=45)
MOST_JOBS: Final = 40
SOON_DAYS: Final = 2
_LASTS: Final = frozenset({"damp", "cover", "dry", "frost"})
"""Kinds that go on until a day; the others are due on one."""


class Due(NamedTuple):
    """Something that goes on or is due."""

    job: str
    name: str
    what: Words
    on: datetime
    lasts: bool
    days: int
    """Until it ends, or is due; negative where it is late."""


def due_of(at: Desk, now: datetime, zone: ZoneInfo) -> list[Due]:
    """Say what goes on and what is due of all that was placed lately, the nearest first."""
    shelf, today = at.shelf(), now.astimezone(zone).date()
    found: list[Due] = []
    proofs = at.proofs.lately()
    for row, last in at.days.worked_since(now - LOOKED_BACK, MOST_JOBS):
        mix = shelf.mixes.get(row.mix_key)
        placed = last.astimezone(zone)
        for one in waits_of_job(at, row, mix) if mix is not None else ():
            if one.to_days is None:
                continue
            on = days_later(placed, one.to_days)
            days = (on.date() - today).days
            lasts = one.kind in _LASTS
            if (lasts and days >= 0) or (not lasts and -SOON_DAYS <= days <= SOON_DAYS):
                found.append(Due(str(row.id), row.name, one.what, on, lasts, days))
        for due in proofs_due(proofs.get(row.id, ()), zone):
            days = (due.on.date() - today).days
            if days <= SOON_DAYS:  # a specimen that is late is broken all the same
                found.append(Due(str(row.id), row.name, due.what, due.on, lasts=False, days=days))
    return sorted(found, key=lambda one: (one.lasts, one.days))


@router.get("/today", name="today_part", **PAGE)
def today_part(request: Request, desk: Looking) -> Response:
    """Show what today is, as a part of the page of jobs."""
    now = datetime.now(UTC)
    with desk() as at:
        zone = ZoneInfo(here())
        day = now.astimezone(zone).date()
        document = at.days.plan(day)
        laid = lay_day(at, document, day) if document else None
        due = due_of(at, now, zone)
    return page(request, "day/today.html", laid=laid, due=due, day=day, stops=_stops(laid) if laid else [])


def _stops(laid: DayLaid) -> list[tuple[str, float, float]]:
    """Say between when the weather forbids each job, as far as that is in the working day [min of the day]."""
    found = []
    for job in laid.jobs:
        spans = [c for c in job.shut if c.begin_min < laid.plan.end_min and c.end_min > laid.plan.begin_min]
        found += [
            (job.row.name, max(one.begin_min, laid.plan.begin_min), min(one.end_min, laid.plan.end_min))
            for one in spans
        ]
    return found
