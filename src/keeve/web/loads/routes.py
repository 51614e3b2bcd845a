"""Station 3: mixer, measures and loads; the ticket."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from keeve.web.deps import ReadBy, SheetedJob, Shelf, Store
from keeve.web.shared.routes import station_page
from keeve.words.putting import put, t

router = APIRouter(include_in_schema=False)


@router.get("/jobs/{job_id}/loads", name="loads")
def loads(request: Request, job: SheetedJob, store: Store, shelf: Shelf, reader: ReadBy) -> Response:
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
            (
                "",
                t(reader, "the usual: {mixer}", mixer=shelf.usual_mixer(chosen).name)
                if chosen
                else t(reader, "the usual"),
            ),
            *((m.key, put(m.name, reader)) for m in suited),
            *((m.key, t(reader, "{mixer} – not for this mix", mixer=m.name)) for m in other),
        ],
        gauges=[("", t(reader, "whatever suits")), *((c.key, put(c.name, reader)) for c in shelf.gauges())],
        jugs=[("", t(reader, "the usual")), *((c.key, put(c.name, reader)) for c in shelf.jugs())],
    )
