"""Station 3: mixer, measures and loads; the ticket."""

from functools import lru_cache
from typing import Any, Final

from fastapi import APIRouter, Request
from fastapi.responses import Response

from keeve.core.message.said import Words, mark
from keeve.web.asking.deps import Looking, ReadBy
from keeve.web.edge.answers import PAGE, REFUSALS
from keeve.web.stations.answering import WAYS, Shown, seen_station
from keeve.words.putting import put, t
from keeve.words.reader import Reader

router = APIRouter(responses=REFUSALS)


MEANS: Final = {
    "packs": mark("in packs"),
    "marks": mark("filled to a mark"),
    "counts": mark("in whole measures"),
    "scale": mark("on the scale"),
}


@lru_cache(maxsize=512)
def _unsuited(name: Words, reader: Reader) -> str:
    return t(reader, "{mixer} – not for this mix", mixer=name)


@router.get("/jobs/{job_id}/loads", name="loads", **PAGE)
def loads(request: Request, job_id: str, desk: Looking, reader: ReadBy) -> Response:
    """Show the ticket, and what decides it."""
    return seen_station(request, desk, job_id, "loads", lambda shown: _choices(shown, reader))


def _choices(shown: Shown, reader: Reader) -> dict[str, Any]:
    shelf = shown.shelf
    chosen = shelf.mixes.get(shown.job.mix_key)
    suited = shelf.mixers_for(chosen) if chosen else ()
    other = [m for m in shelf.mixers.values() if m not in suited]
    usual = t(reader, "the usual: {mixer}", mixer=shelf.usual_mixer(chosen).name) if chosen else t(reader, "the usual")
    return {
        "mixers": [
            ("", usual),
            *((m.key, put(m.name, reader)) for m in suited),
            *((m.key, _unsuited(m.name, reader)) for m in other),
        ],
        "gauges": [("", t(reader, "whatever suits")), *((c.key, put(c.name, reader)) for c in shelf.gauges())],
        "scales": [
            ("", t(reader, "whatever there is")),
            *((c.key, put(c.name, reader)) for c in shelf.scales.values()),
        ],
        "constituents": [(m.key, put(m.name, reader)) for m in chosen.materials()] if chosen else [],
        "premix": next((m.key for m in chosen.materials() if m.role == "premix"), "") if chosen else "",
        "means": [("", t(reader, "as usual")), *((key, t(reader, name)) for key, name in MEANS.items())],
        "water_means": [
            ("", t(reader, "with the jug")),
            ("scale", t(reader, "on the scale")),
            ("counts", t(reader, "seconds of the hose")),
        ],
        "ways": [("", t(reader, "as recommended")), *((key, t(reader, name)) for key, name in WAYS.items())],
        "jugs": [("", t(reader, "the usual")), *((c.key, put(c.name, reader)) for c in shelf.jugs())],
    }
