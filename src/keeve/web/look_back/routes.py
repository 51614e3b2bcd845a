"""Station 5: the log beside the ticket."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from keeve.core.batch import BatchEvent
from keeve.core.review import Review, next_time, review
from keeve.core.units import System, say, show_litres, show_mass
from keeve.web.deps import Job, Store, Units
from keeve.web.render import page

router = APIRouter(include_in_schema=False)

_VERDICTS = {"dry": "too dry", "right": "right", "wet": "too wet"}
_PLAIN = {
    "started": "begun",
    "accepted": "used",
    "thrown_away": "thrown away",
    "undone": "the entry before was taken back",
}


def event_words(event: BatchEvent, units: System) -> str:
    """Say one entry of the log."""
    if event.kind == "water":
        return f"water, {say(show_litres(event.litres or 0.0, units))}"
    if event.kind == "dry_added":
        return f"dry mix added, {say(show_mass(event.dry_kg or 0.0, units))}"
    if event.kind == "judged":
        return f"looked: {_VERDICTS.get(event.verdict or '', '')}"
    if event.kind in ("step_done", "step_back"):
        return f"step {(event.step or 0) + 1} {'done' if event.kind == 'step_done' else 'once more'}"
    return _PLAIN[event.kind]


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
def look_back(request: Request, job: Job, store: Store, units: Units) -> Response:
    """Show what really went in."""
    kept = store.kept(job)
    found = review(kept.plan, kept.events) if kept else None
    return page(
        request,
        "look_back/page.html",
        job=job,
        station="look_back",
        kept=kept,
        review=found,
        said=sentences(found, units) if found else [],
        event_words=event_words,
    )
