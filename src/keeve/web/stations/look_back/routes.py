"""Station 5: the log beside the tickets."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Final, Literal
from uuid import uuid4

from fastapi import APIRouter, Request, status
from fastapi.responses import Response

from keeve.catalogue import load_catalogue
from keeve.core.message.said import ROUND, Amount, Said, Words, mark
from keeve.core.records.review import Review, next_time, review
from keeve.core.run.brief import Brief
from keeve.core.run.events import (
    Briefed,
    DryAdded,
    Event,
    Happened,
    Judged,
    LoadEvent,
    Looked,
    Measured,
    MeasuredKind,
    Poured,
    Settled,
    StageSeen,
    Started,
    StepBack,
    StepDone,
    Undone,
    Unknown,
    Weighed,
)
from keeve.core.ticket.ticket import Ticket
from keeve.store.rows.logs import Log
from keeve.store.tables import JobRow
from keeve.web.asking.coats import coats_above
from keeve.web.asking.deps import Desk, Looking, ReadBy
from keeve.web.asking.heap_told import HAPPENED
from keeve.web.edge.answers import PAGE, REFUSALS
from keeve.web.pages.remembered import remembered
from keeve.web.pages.render import Page, page
from keeve.web.stations.look_back.telling import learned, what_it_tells
from keeve.web.stations.look_back.tested import values_of
from keeve.web.stations.look_back.traced import traced
from keeve.words.putting import put, t
from keeve.words.reader import Reader
from keeve.words.showing import say, show_litres

router = APIRouter(responses=REFUSALS)

_VERDICTS: Final = {"dry": mark("looked: too dry"), "right": mark("looked: right"), "wet": mark("looked: too wet")}
_PLAIN: Final = {
    "started": mark("begun"),
    "accepted": mark("used"),
    "thrown_away": mark("thrown away"),
    "one_more": mark("one more load than planned"),
}


@dataclass(frozen=True, slots=True)
class LogLine:
    """One entry of the log in words."""

    load: int | None
    at: datetime
    words: str
    counts: bool


_MEASURED: Final[dict[MeasuredKind, tuple[str, str]]] = {
    "slump": (mark("slump {value}"), "mm"),
    "slump flow": (mark("slump flow {value}"), "mm"),
    "flow": (mark("flow {value}"), ""),
    "air": (mark("air {value}"), "%"),
    "density": (mark("fresh density {value}"), "kg/m³"),
    "temperature": (mark("temperature {value}"), "°C"),
}


def _noted(event: Measured | Weighed | StageSeen | Looked | Happened, tickets: Collection[Ticket]) -> Words:
    """Say what was measured, weighed or seen; of what the ticket names, by its name."""
    if isinstance(event, Measured):
        msg, unit = _MEASURED[event.what]
        return Said(msg, value=Amount(event.value, f"{ROUND}{unit}" if unit else ""))
    if isinstance(event, Weighed):
        names = {dose.key: dose.name for ticket in tickets for dose in ticket.cards[0].doses}
        return Said("{name} on the scale, {mass}", name=names.get(event.part, event.part), mass=Amount(event.kg, "kg"))
    if isinstance(event, Looked):
        return Said("heap looked at: {look}", look=event.look)
    if isinstance(event, Happened):
        return dict(HAPPENED)[event.what]
    stages = {stage.key: stage.name for ticket in tickets for stage in ticket.stages}
    return Said("seen: {stage}", stage=stages.get(event.stage, event.stage))


def _asked(event: Started | Briefed, told: Brief) -> Words:
    """Say what a load was asked to take."""
    first, all_l = Amount(told.first_l, "L"), Amount(told.target_l, "L")
    if isinstance(event, Briefed):
        return Said("asked anew: {first} first, {all} in all", first=first, all=all_l)
    return Said("begun: {first} asked for first, {all} in all", first=first, all=all_l)


def event_words(event: Event, reader: Reader, tickets: Collection[Ticket] = ()) -> str:
    """Say one entry of the log; what it weighs and sees is named by the job's tickets."""
    said: Words
    match event:
        case Poured():
            water = Amount(event.litres, "L")
            over = Said("water, {water}, past the highest on purpose", water=water)
            said = over if event.over else Said("water, {water}", water=water)
        case DryAdded():
            said = Said("dry mix added, {dry} counted dry", dry=Amount(event.dry_kg, "kg"))
        case Started() | Briefed() if event.brief is not None:
            said = _asked(event, event.brief)
        case Judged():
            said = _VERDICTS[event.verdict]
        case StepDone():
            said = Said("step {number} done", number=str(event.step + 1))
        case StepBack():
            said = Said("step {number} once more", number=str(event.step + 1))
        case Settled():
            said = mark("asked: poured twice") if event.twice else mark("asked: poured once")
        case Measured() | Weighed() | StageSeen() | Looked() | Happened():
            said = _noted(event, tickets)
        case Unknown():
            said = Said("an entry of a kind that is not known here yet: {kind}", kind=event.kind)
        case _:
            said = _PLAIN[event.kind]
    return put(said, reader)


MOST_LINES: Final = 300
"""Entries of the log on the page; all of them where somebody asks for all."""


def lines(log: Log, reader: Reader, most: int | None = MOST_LINES) -> list[LogLine]:
    """Say the log in its order, or the end of it; what was taken back is told as such."""
    counts = set(log.run.standing)
    return [
        LogLine(
            tap.event.load if isinstance(tap.event, LoadEvent) else None,
            tap.event.at,
            event_words(tap.event, reader, log.tickets.values()),
            tap.event.id in counts,
        )
        for tap in (log.taps if most is None else log.taps[-most:])
        if not isinstance(tap.event, Undone)
    ]


_STIFFER: Final = mark("The mix was wanted stiffer, or the day was cooler.")
_HOTTER: Final = mark("The mix was wanted softer, or the day was hotter.")


def sentences(found: Review, reader: Reader, *, heaped: bool) -> list[str]:
    """Say what the log teaches; a bag has no heap that could have been wetter than said."""
    told = next_time(found)
    if told is None or found.mean_poured_l is None:
        return []
    way, percent = told
    poured = say(show_litres(found.last_poured_l or found.mean_poured_l, reader))
    if way == "as said":
        return [t(reader, "The water came out as the ticket said. Begin the next load the same way.")]
    share = f"{abs(percent):.0f} %"
    if way == "more":
        why = mark("The heap was drier than said, or the day hotter.") if heaped else _HOTTER
        first = t(reader, "The loads took {share} more water than the ticket. {why}", share=share, why=why)
    else:
        why = mark("The heap was wetter than said, or the mix was wanted stiffer.") if heaped else _STIFFER
        first = t(reader, "The loads took {share} less water than the ticket. {why}", share=share, why=why)
    return [first, t(reader, "The last one took {water}: begin the next full load there.", water=poured)]


@router.get("/jobs/{job_id}/look-back", name="look_back", **PAGE)
def look_back(
    request: Request, job_id: str, desk: Looking, reader: ReadBy, entries: Literal["", "all"] = ""
) -> Response:
    """Show what really went in."""
    with desk() as at:
        seen = at.seen(job_id)
        told = (seen.stamp, at.book_n())  # the day log and the tests count in the book's number
        most = None if entries else MOST_LINES
        key = ("look_back", seen.job.id, entries)
        return remembered(request, key, told, lambda: looked(request, seen.job, at, reader, most=most))


TYPED: Final = (
    "of",
    "found",
    "at",
    "label",
    "load",
    "due_days",
    "mpa",
    "kg",
    "water",
    "begun",
    "every",
    "trace",
    "says",
    "note_load",
    "shows",
    "photo_load",
    "sigma",
)
"""Fields of the page whose slips stay typed."""


def looked(
    request: Request,
    job: JobRow,
    at: Desk,
    reader: Reader,
    faults: Sequence[dict[str, Any]] = (),
    typed: dict[str, str] | None = None,
    most: int | None = MOST_LINES,
) -> Page:
    """Make the page; with what was typed on it and cannot be."""
    log = at.runs.log(job)
    found = review(log.run, log.tickets)
    learning = learned(at, log)
    return page(
        request,
        "look_back/page.html",
        status.HTTP_422_UNPROCESSABLE_CONTENT if faults else status.HTTP_200_OK,
        job=job,
        station="look_back",
        log=log,
        review=found,
        said=sentences(found, reader, heaped=bool(log.newest and log.newest.moisture_as)),
        lines=lines(log, reader, most),
        earlier=0 if most is None else max(len(log.taps) - most, 0),
        lost=log.unreadable,
        coats=coats_above(load_catalogue(), job.mix_key),
        faults=faults,
        once=str(uuid4()),
        typed=dict.fromkeys(TYPED, "") | (typed or {}),
        traced=traced(at, job, log, found),
        **values_of(at, job, log.newest.dry_cast_kg if log.newest else None, us=reader.us),
        **what_it_tells(learning, log, reader),
    )
