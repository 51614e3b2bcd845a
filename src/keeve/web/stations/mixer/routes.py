"""Station 4: takes tickets, shows the run, and takes its events in."""

import secrets
from collections.abc import AsyncIterator
from datetime import UTC, datetime
from typing import Annotated, Any, Final
from uuid import UUID

import structlog
from fastapi import APIRouter, Body, Depends, Form, Header, Path, Query, Request, status
from fastapi.responses import RedirectResponse, Response, StreamingResponse
from pydantic import AwareDatetime, Field

from keeve.catalogue import Catalogue
from keeve.catalogue.trying import Tried, looks_hold_until, made_from, try_plan
from keeve.core.lessons.learning import HeapEvent
from keeve.core.materials.looks import SAND_LOOKS
from keeve.core.message.errors import Frozen, TradeError
from keeve.core.ticket.difference import Difference, difference
from keeve.store.rows.crew_store import CrewStore
from keeve.store.rows.logs import Log
from keeve.store.rows.run_store import Numbered
from keeve.store.tables import JobRow
from keeve.web.asking.coats import coats_above
from keeve.web.asking.deps import AtDesk, Crew, Desk, Job, Looking, ReadBy, Runs, readable_sheet
from keeve.web.asking.heap_told import HAPPENED, heap_events, keep_told
from keeve.web.asking.standing import stopped_by
from keeve.web.edge.answers import GOES, PAGE, REFUSALS, SHOWS_OR_GOES, file_of
from keeve.web.edge.bounds import Visitors, address_of
from keeve.web.edge.security import OwnPage
from keeve.web.pages.faults import fault_rows
from keeve.web.pages.files import as_file
from keeve.web.pages.remembered import remembered
from keeve.web.pages.render import Page, finished, json_text, page
from keeve.web.stations.mixer.run_document import MOST_IN_PAGE, NOT_FOR_THE_PAGE, RunDocument
from keeve.web.stations.mixer.told import amounts, measures, told
from keeve.words.putting import put
from keeve.words.reader import Reader

router = APIRouter(responses=REFUSALS)
MOST_EVENTS: Final = 200
MOST_ASKED: Final = 2000
WATCHED: Final = 6
MOST_FOLDED: Final = 20
"""Loads of which a page says how it reads them."""
FILLED: Final = 1.02
"""An order of which no more than 2 % is missing is filled: own assumption."""
NEAR_ENOUGH_L: Final = 0.01
_log = structlog.stdlib.get_logger("keeve.runs")
MOST_N: Final = 2**63 - 1
MOST_REVISION: Final = 2**31 - 1
_RUN_PLACE: Final = f"run-{secrets.token_hex(16)}"
"""Stands in a drawn page where the log goes."""
_NOT_KEPT: Final = {"cache-control": "no-cache", "x-accel-buffering": "no"}


def left_out_m3(log: Log) -> float:
    """Return what need not be planned again: made in this round, or in a mixer just now [m³]."""
    newest = log.newest
    if newest is None:
        return 0.0
    open_now = [
        s
        for s in log.run.loads
        if not s.ended and s.ticket in log.tickets and log.tickets[s.ticket].round == newest.round
    ]
    return log.run.made_m3 + sum(state.volume_m3 for state in open_now)


def changed(store: CrewStore, job: JobRow, shelf: Catalogue, log: Log) -> tuple[Tried, Difference | None]:
    """Plan what is still to fill from the sheet as it is now, where it is another than the ticket's."""
    newest = log.newest
    if newest is None or not isinstance(job.sheet, dict):
        return Tried(), None
    tried = try_plan(store.sheet(job), shelf, left_out_m3(log), datetime.now(UTC))
    if tried.request is None or tried.ticket is None:
        return tried, None
    origin, after = log.made_from[newest.revision], tried.ticket
    if origin == made_from(tried.request):
        return tried, None
    # A look that has grown old since changes no sheet: the loads tell of the heap, and a look is asked for there.
    then = try_plan(store.sheet(job), shelf, left_out_m3(log)).request
    if then is not None and origin == made_from(then):
        return tried, None
    # Of a ticket that an earlier version kept nobody knows the request: what decides a load must be another.
    deciding = (newest.mix_as, newest.moisture_as, newest.mixer.key)
    if not origin and deciding == (after.mix_as, after.moisture_as, after.mixer.key):
        return tried, None
    found = difference(newest, log.run.to_fill, after)
    return tried, None if found.nothing else found


def run_document(job: JobRow, log: Log, heap: tuple[HeapEvent, ...], reader: Reader) -> RunDocument:
    """Write down all the run page needs, so that it goes on without a network.

    Of a very long log it carries the end, and how the run stands: the page asks for the rest once and keeps it.
    """
    long = len(log.events) > MOST_IN_PAGE
    return {
        "from_n": log.numbers[-MOST_IN_PAGE - 1] if long else 0,
        "stands": log.run.model_dump(mode="json", exclude={"standing"}) if long else None,
        "tickets": {r: t.model_dump(mode="json", exclude=NOT_FOR_THE_PAGE) for r, t in log.tickets.items()},
        "told": {r: told(t, reader) for r, t in log.tickets.items()},
        "events": [e.model_dump(mode="json", exclude_none=True) for e in log.events[-MOST_IN_PAGE:]],
        "us": reader.us,
        "amounts": amounts(),
        "heap_events": [{"at_ms": one.at_ms, "kind": one.kind} for one in heap],
        "n": job.event_n,
        "ticket_n": job.ticket_n,
        **measures(reader),
    }


@router.get("/jobs/{job_id}/mixer", name="mixer", **PAGE)
def mixer(request: Request, job_id: str, desk: Looking, reader: ReadBy) -> Response:
    """Show the run that is under way, or offer to begin one."""
    with desk() as at:
        seen = at.seen(job_id)
        until = looks_hold_until(seen.job.sheet, datetime.now(UTC))
        stands_on = (seen.stamp, seen.book_n)
        return remembered(
            request, ("mixer", seen.job.id), stands_on, lambda: _run(request, at, seen.job, reader), until
        )


def _left(at: Desk, job: JobRow, log: Log, tried: Tried) -> tuple[bool, bool]:
    """Say whether the sheet is not complete, and whether its order is filled: then nothing of it is changed."""
    whole = try_plan(at.store.sheet(job), at.shelf(), now=datetime.now(UTC)) if tried.faults or log.run.done else tried
    filled = whole.plan is not None and whole.plan.need.order_m3 <= log.run.made_m3 * FILLED
    return bool(whole.faults) and not log.run.done, log.run.done and filled


def _run(request: Request, at: Desk, job: JobRow, reader: Reader) -> Page:
    log = at.runs.log(job)
    if log.newest is None:
        tried = try_plan(at.store.sheet(job), at.shelf(), now=datetime.now(UTC))
        rows = fault_rows(tried.faults, reader)
        return page(
            request, "mixer/empty.html", job=job, station="mixer", ticket=tried.ticket, faults=rows, lost=log.unreadable
        )
    tried, found = changed(at.store, job, at.shelf(), log)
    # What was poured lately may still be watched while it sets.
    mixing = {log.newest.revision, *(load.ticket for load in log.run.loads if not load.ended)}
    mixing |= {load.ticket for load in log.run.loads[-WATCHED:] if load.first_powder_ms is not None}
    shown = [ticket for revision, ticket in log.tickets.items() if revision in mixing]
    incomplete, filled = _left(at, job, log, tried)
    found = None if filled else found
    of_job = (job.version, job.name, job.place, job.ticket_n, at.book_n())
    stands_on = (*of_job, frozenset(mixing), found is not None, incomplete, log.run.done, len(log.unreadable))

    def all_but_the_log() -> Page:
        return page(
            request,
            "mixer/page.html",
            job=job,
            station="mixer",
            shown=shown,
            newest=log.newest,
            run=_RUN_PLACE,
            LOOKS=tuple(SAND_LOOKS),
            HAPPENED=HAPPENED,
            coats=coats_above(at.shelf(), job.mix_key),
            changed=found is not None,
            incomplete=incomplete,
            lost=log.unreadable,
        )

    # A tap changes the log alone: what is drawn of the tickets is drawn once.
    drawn = remembered(request, ("mixer, drawn", job.id), stands_on, all_but_the_log).written
    document = json_text(run_document(job, log, heap_events(at, log), reader))
    return finished(request, drawn.replace(_RUN_PLACE.encode(), document.encode()))


@router.get("/jobs/{job_id}/revise", name="revise", **SHOWS_OR_GOES)
def revise(request: Request, job_id: str, desk: Looking, reader: ReadBy) -> Response:
    """Show what a new ticket would change, before it is taken."""
    with desk() as at:
        job = at.seen(job_id).job
        readable_sheet(request, job)
        log = at.runs.log(job)
        tried, found = changed(at.store, job, at.shelf(), log)
    if log.newest is None or found is None:
        if tried.faults:
            raise TradeError(*tried.faults)
        return RedirectResponse(request.url_for("mixer", job_id=job.id), status.HTTP_303_SEE_OTHER)
    return page(
        request, "mixer/revise.html", job=job, station="mixer", found=found, before=log.newest, after=tried.ticket,
        run=log.run, reader=reader,
    )  # fmt: skip


@router.post("/jobs/{job_id}/begin", name="begin", dependencies=[OwnPage], **GOES)
def begin(
    request: Request,
    job_id: str,
    desk: AtDesk,
    again: Annotated[int, Form()] = 0,
    seen: Annotated[int, Form()] = 0,
) -> Response:
    """Take the ticket of what is still to fill and go to the mixer; the same ticket is not taken twice.

    What was rejected before mixing stops it.
    """
    with desk() as at:
        job = at.job(job_id)
        log = at.runs.log(job)
        # From the loads one only goes to the mixer: what is mixed from stands until the difference was seen, and where
        # somebody else took a new ticket meanwhile, that is looked at first.
        if log.newest is None or again or seen == job.ticket_n:
            done_m3 = 0.0 if again else left_out_m3(log)
            tried = try_plan(at.store.sheet(job), at.shelf(), done_m3, datetime.now(UTC))
            if tried.request is None or tried.ticket is None:
                raise TradeError(*tried.faults)
            if stopped_by(at, tried.request.mix, at.store.sheet(job), datetime.now(UTC)):
                return RedirectResponse(request.url_for("before", job_id=job_id), status.HTTP_303_SEE_OTHER)
            at.runs.keep(job, tried.ticket, made_from(tried.request), log, again=bool(again))
    return RedirectResponse(request.url_for("mixer", job_id=job_id), status.HTTP_303_SEE_OTHER)


class Folded(Frozen):
    """How a page reads so many entries: of each load number and mixer, step, end, water and volume [L]."""

    entries: int = Field(ge=0, le=MOST_N)
    loads: list[tuple[int, str, int, str, float, float]] = Field(max_length=MOST_FOLDED)


class Post(Frozen):
    """Taps of a phone, with its clock as it sends them."""

    sent_at: AwareDatetime
    events: list[Any] = Field(max_length=MOST_EVENTS)
    folded: Folded | None = None


def _note_difference(job: JobRow, log: Log, theirs: Folded) -> None:
    """Write into the log where a page that knows the same entries reads them otherwise: it is a fault of ours."""
    if theirs.entries != len(log.events) or log.unreadable:
        return  # one of the two knows more
    ours = [
        (s.number, s.mixer, s.step, s.ended, s.poured_l, s.made_m3 * 1000) for s in log.run.loads[-len(theirs.loads) :]
    ]
    if len(ours) != len(theirs.loads):
        _log.error("a page folds otherwise", job=str(job.id), here=len(ours), there=len(theirs.loads))
        return
    for mine, other in zip(ours, theirs.loads, strict=True):
        near = all(abs(a - b) < NEAR_ENOUGH_L for a, b in zip(mine[4:], other[4:], strict=True))
        if mine[:4] != other[:4] or not near:
            _log.error("a page folds otherwise", job=str(job.id), here=mine, there=other)


def _numbered(events: list[Numbered]) -> list[dict[str, Any]]:
    return [event.told for event in events if event.told is not None]


@router.post("/jobs/{job_id}/events", name="append_events", dependencies=[OwnPage])
def append_events(job_id: str, desk: AtDesk, post: Annotated[Post, Body()], reader: ReadBy) -> dict[str, Any]:
    """Append events to the job's log; sending them again changes nothing."""
    received = datetime.now(UTC)
    with desk() as at:
        job = at.job(job_id)
        answer = at.runs.append(job, post.events, post.sent_at, received)
        if answer.added:
            keep_told(at, job, answer.new)
        if post.folded is not None and post.folded.loads:
            _note_difference(job, at.runs.log(job), post.folded)
        return {
            "events": _numbered(answer.numbered),
            "refused": [{"id": r.id, "sentence": put(r.sentence, reader)} for r in answer.refused],
            "added": answer.added,
            "n": answer.n,
            "ticket_n": job.ticket_n,
            "now_ms": round(received.timestamp() * 1000),
        }


@router.get("/jobs/{job_id}/events", name="read_events")
def read_events(job: Job, runs: Runs, after: Annotated[int, Query(ge=0, le=MOST_N)] = 0) -> dict[str, Any]:
    """Return the log after a number, for a page that cannot hold a stream open."""
    found = runs.since(job.id, after, MOST_ASKED)
    upto = found[-1].n if found else after
    return {"events": _numbered(found), "upto": upto, "n": job.event_n, "ticket_n": job.ticket_n}


async def _standing_open(request: Request) -> AsyncIterator[None]:
    visitors: Visitors = request.app.state.visitors
    with visitors.standing_open(address_of(request), "stream"):
        yield


class Told(StreamingResponse):
    """What is told as it comes: written down once for all who follow, and so past what would write it for each."""

    media_type = "text/event-stream"


@router.get("/jobs/{job_id}/stream", name="stream", response_class=Told, dependencies=[Depends(_standing_open)])
async def stream(
    request: Request,
    crew: Crew,
    job_id: UUID,
    after: Annotated[int, Query(ge=0, le=MOST_N)] = 0,
    last_event_id: Annotated[int | None, Header(ge=0, le=MOST_N)] = None,
) -> Response:
    """Send the job's events as they come."""
    sessions = request.app.state.reading
    since = last_event_id if last_event_id is not None else after
    link = getattr(request.state, "link", None)
    return Told(request.app.state.hub.follow(sessions, crew, job_id, since, link), headers=_NOT_KEPT)


@router.get("/jobs/{job_id}/raw/{what}/{key}", name="raw_row", **file_of("application/json"))
def raw_row(job: Job, runs: Runs, what: str, key: Annotated[int, Path(ge=0, le=MOST_REVISION)]) -> Response:
    """Hand out a ticket or an entry of the log as it is kept, readable or not."""
    return as_file(runs.raw(job.id, "ticket" if what == "ticket" else "entry", key), f"keeve-{what[:10]}-{key}")
