"""Station 5: the log beside the tickets."""

from dataclasses import dataclass
from datetime import datetime
from typing import Final

from fastapi import APIRouter, Request
from fastapi.responses import Response

from keeve.core.events import DryAdded, Event, Judged, Poured, Settled, StepBack, StepDone, Undone
from keeve.core.review import Review, next_time, review
from keeve.core.tap_order import in_order
from keeve.core.units import System, say, show_litres, show_mass
from keeve.store.run_store import Log
from keeve.web.deps import Job, Runs, Units
from keeve.web.render import page

router = APIRouter(include_in_schema=False)

_VERDICTS: Final = {"dry": "too dry", "right": "right", "wet": "too wet"}
_PLAIN: Final = {
    "started": "begun",
    "accepted": "used",
    "thrown_away": "thrown away",
    "one_more": "one more load than planned",
}


@dataclass(frozen=True, slots=True)
class Line:
    """One entry of the log in words."""

    load: int | None
    at: datetime
    words: str
    counts: bool


def event_words(event: Event, units: System) -> str:
    """Say one entry of the log."""
    if isinstance(event, Poured):
        past = ", past the highest on purpose" if event.over else ""
        return f"water, {say(show_litres(event.litres, units))}{past}"
    if isinstance(event, DryAdded):
        return f"dry mix added, {say(show_mass(event.dry_kg, units))} counted dry"
    if isinstance(event, Judged):
        return f"looked: {_VERDICTS[event.verdict]}"
    if isinstance(event, StepDone | StepBack):
        return f"step {event.step + 1} {'done' if isinstance(event, StepDone) else 'once more'}"
    if isinstance(event, Settled):
        return f"asked: poured {'twice' if event.twice else 'once'}"
    return _PLAIN[event.kind]


def lines(log: Log, units: System) -> list[Line]:
    """Say the whole log in its order; what was taken back is told as such."""
    counts = set(log.run.standing)
    return [
        Line(
            getattr(tap.event, "load", None),
            tap.event.at,
            event_words(tap.event, units),
            tap.event.id in counts,
        )
        for tap in in_order(log.events)
        if not isinstance(tap.event, Undone)
    ]


def sentences(found: Review, units: System) -> list[str]:
    """Say what the log teaches."""
    told = next_time(found)
    if told is None or found.mean_poured_l is None:
        return []
    way, percent = told
    poured = say(show_litres(found.last_poured_l or found.mean_poured_l, units))
    if way == "as said":
        return ["The water came out as the ticket said. Begin the next load the same way."]
    why = (
        "The heap was drier than said, or the day hotter."
        if way == "more"
        else "The heap was wetter than said, or the mix was wanted stiffer."
    )
    return [
        f"The loads took {abs(percent):.0f} % {way} water than the ticket. {why}",
        f"The last one took {poured}: begin the next full load there.",
    ]


@router.get("/jobs/{job_id}/look-back", name="look_back")
def look_back(request: Request, job: Job, runs: Runs, units: Units) -> Response:
    """Show what really went in."""
    log = runs.log(job)
    found = review(log.run, log.tickets)
    return page(
        request,
        "look_back/page.html",
        job=job,
        station="look_back",
        log=log,
        review=found,
        said=sentences(found, units),
        lines=lines(log, units),
        lost=log.unreadable,
    )
