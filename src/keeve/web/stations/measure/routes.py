"""Station 1: the take-off."""

import hashlib
from functools import lru_cache
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from keeve.web.asking.deps import Looking, ReadBy, get_reader
from keeve.web.drawings.sketches import drawn, hatch_for
from keeve.web.edge.answers import PAGE, REFUSALS
from keeve.web.pages.render import fixed_part
from keeve.web.stations.answering import Shown, full_sheet, seen_station
from keeve.words.reader import Reader

router = APIRouter(responses=REFUSALS)


@router.get("/jobs/{job_id}/measure", name="measure", **PAGE)
def measure(request: Request, job_id: str, desk: Looking) -> Response:
    """Show the shapes and what they add up to."""
    reader = get_reader(request)
    forms = f"{request.app.url_path_for('empty_forms')}?for={reader.system}-{reader.language}-{_print(reader)}"

    def more(shown: Shown) -> dict[str, Any]:
        shapes = full_sheet(shown.typed)["shapes"]
        return {"drawn": drawn(shapes, hatch_for(shown.tried)), "empty_forms": forms}

    return seen_station(request, desk, job_id, "measure", more)


@lru_cache(maxsize=64)
def _print(reader: Reader) -> str:
    """Return what changes with the empty forms, so that a browser may keep them for good."""
    return hashlib.sha256(fixed_part("measure/empty_forms.html", reader).encode()).hexdigest()[:10]


@router.get("/measure/forms", name="empty_forms", response_class=HTMLResponse)
async def empty_forms(reader: ReadBy) -> Response:
    """Give an empty form of each kind of shape, for the page to put in: the same for every job."""
    kept = {"cache-control": "private, max-age=31536000, immutable"}
    return HTMLResponse(fixed_part("measure/empty_forms.html", reader), headers=kept)
