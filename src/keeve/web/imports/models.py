"""Meshes: uploaded as they are, read in a process of their own, followed and stopped from the page."""

import re
import secrets
import tempfile
import time
from dataclasses import dataclass, field
from pathlib import Path
from typing import Annotated, Any, Final

from fastapi import APIRouter, HTTPException, Query, Request, status
from fastapi.responses import JSONResponse, Response

from keeve.core.errors import Code, Fault, TakeoffError
from keeve.core.units import System, say, show_length, show_litres
from keeve.formats.bounded import MESH_SECONDS, Reading
from keeve.web.deps import Job, Units
from keeve.web.security import OwnPage

router = APIRouter(include_in_schema=False)
MOST_AT_ONCE: Final = 4
KEPT_SECONDS: Final = 600.0
UNIT_MM: Final = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}
NAMES: Final = {"mm": "millimetres", "cm": "centimetres", "m": "metres", "in": "inches"}
LIKELY_MM: Final = (20.0, 4000.0)
"""Between these a model that is cast usually measures along its longest side: own assumption."""


@dataclass
class Kept:
    """One mesh being read."""

    name: str
    path: Path
    crew: str
    reading: Reading
    since: float = field(default_factory=time.monotonic)


def _readings(request: Request) -> dict[str, Kept]:
    """Give the readings of this server; old ones are forgotten."""
    state = request.app.state
    if not hasattr(state, "readings"):
        state.readings = {}
    readings: dict[str, Kept] = state.readings
    for key, kept in list(readings.items()):
        if kept.reading.done.is_set():
            kept.path.unlink(missing_ok=True)
            if time.monotonic() - kept.since > KEPT_SECONDS:
                del readings[key]
    return readings


@router.put("/jobs/{job_id}/models", name="new_model", dependencies=[OwnPage], status_code=status.HTTP_202_ACCEPTED)
async def new_model(request: Request, _job: Job, name: Annotated[str, Query(max_length=200)] = "") -> JSONResponse:
    """Take a mesh in, streamed to disk, and begin to read it."""
    kind = name.rsplit(".", 1)[-1].lower()
    if kind not in ("stl", "obj", "ply"):
        raise TakeoffError(
            Fault(Code.UNKNOWN, f"“{name[:60]}” is no STL, OBJ or PLY file.", "Export the model as one of these.")
        )
    readings = _readings(request)
    if sum(not kept.reading.done.is_set() for kept in readings.values()) >= MOST_AT_ONCE:
        raise TakeoffError(
            Fault(Code.TOO_MANY, "Several models are being read just now.", "Wait a moment and send it again.")
        )
    with tempfile.NamedTemporaryFile(prefix="keeve-model-", suffix=f".{kind}", delete=False) as kept:
        path = Path(kept.name)
        try:
            async for part in request.stream():
                kept.write(part)
        except BaseException:  # the line broke or the file is too big: leave nothing behind
            path.unlink(missing_ok=True)
            raise
    key = secrets.token_urlsafe(12)
    plain = re.sub(r"[^\w .()+-]", "", Path(name).name)[:120]
    reading = Reading(kind, path, most_seconds=MESH_SECONDS)
    readings[key] = Kept(plain, path, request.app.state.settings.crew, reading)
    return JSONResponse({"key": key}, status.HTTP_202_ACCEPTED)


def _kept(request: Request, key: str) -> Kept:
    kept = _readings(request).get(key)
    if kept is None or kept.crew != request.app.state.settings.crew:
        raise HTTPException(status.HTTP_404_NOT_FOUND, "This model is not being read any more. Send it again.")
    return kept


@router.get("/models/{key}", name="model_state")
def model_state(request: Request, key: str, units: Units) -> dict[str, Any]:
    """Say how far the reading is; at the end in which units the model could have been drawn."""
    kept = _kept(request, key)
    reading = kept.reading
    answer: dict[str, Any] = {"stage": reading.stage, "share": reading.share, "done": reading.done.is_set()}
    if reading.done.is_set():
        if reading.result is None:
            answer["faults"] = reading.faults
        else:
            answer |= {"repaired": reading.result["repaired"], "triangles": reading.result["triangles"]}
            answer["choices"] = [_choice(kept.name, reading.result, unit, units) for unit in UNIT_MM]
    return answer


def _choice(name: str, found: dict[str, Any], unit: str, units: System) -> dict[str, Any]:
    """Say what the model would be in one unit, and whether that is likely."""
    per = UNIT_MM[unit]
    size = [side * per for side in found["size"]]
    volume_l = found["volume"] * per**3 / 1e6
    likely = LIKELY_MM[0] <= max(size) <= LIKELY_MM[1]
    fits = all(0 < side <= 1e6 for side in size) and 0 < volume_l <= 1e9
    return {
        "unit": NAMES[unit],
        "said": f"{' × '.join(say(show_length(side, units)) for side in size)}, {say(show_litres(volume_l, units))}",
        "likely": likely and fits,
        "fits": fits,
        "fields": {
            "name": name,
            "model_l": f"{volume_l:.9g} L",
            "size_x_mm": f"{size[0]:.9g}",
            "size_y_mm": f"{size[1]:.9g}",
            "size_z_mm": f"{size[2]:.9g}",
            "outline": found["outline"],
        },
    }


@router.delete("/models/{key}", name="stop_model", dependencies=[OwnPage], status_code=status.HTTP_204_NO_CONTENT)
def stop_model(request: Request, key: str) -> Response:
    """Stop reading; nothing is kept."""
    kept = _kept(request, key)
    kept.reading.cancel()
    kept.reading.done.wait(2)
    kept.path.unlink(missing_ok=True)
    return Response(status_code=status.HTTP_204_NO_CONTENT)
