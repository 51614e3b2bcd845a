"""Station 3: mixer, measures and loads; the ticket."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from keeve.web.deps import SheetedJob, Shelf, Store
from keeve.web.shared.routes import station_page

router = APIRouter(include_in_schema=False)


@router.get("/jobs/{job_id}/loads", name="loads")
def loads(request: Request, job: SheetedJob, store: Store, shelf: Shelf) -> Response:
    """Show the ticket, and what decides it."""
    chosen = shelf.mixes.get(job.mix_key)
    suited = shelf.mixers_for(chosen) if chosen else ()
    other = [m for m in shelf.mixers.values() if m not in suited]
    return station_page(
        request,
        "loads",
        job,
        store,
        shelf,
        mixers=[
            ("", f"the usual: {shelf.usual_mixer(chosen).name}" if chosen else "the usual"),
            *((m.key, m.name) for m in suited),
            *((m.key, f"{m.name} – not for this mix") for m in other),
        ],
        gauges=[("", "whatever suits"), *((c.key, c.name) for c in shelf.gauges())],
        jugs=[("", "the usual"), *((c.key, c.name) for c in shelf.jugs())],
    )
