"""Meshes: uploaded as they are, read in a process of their own, followed and stopped from the page."""

import functools
import re
import secrets
import threading
import time
from pathlib import Path
from typing import Annotated, Any, Final
from uuid import UUID

from fastapi import APIRouter, HTTPException, Query, Request, status
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import JSONResponse, Response
from sqlalchemy.exc import InterfaceError, OperationalError
from sqlalchemy.orm import Session, sessionmaker

from keeve.core.message.errors import Code, Fault, TakeoffError
from keeve.core.message.said import Said, read_words, verbatim
from keeve.formats.reading.bounded import MESH_SECONDS, BoundedReader
from keeve.formats.reading.kept_files import new_file
from keeve.store.rows.model_store import ModelStore, beat
from keeve.store.tables import ModelRow
from keeve.web.asking.deps import At, Crew, Looking, Models, ReadBy
from keeve.web.edge.answers import REFUSALS
from keeve.web.edge.security import OwnPage
from keeve.words.putting import put, t
from keeve.words.reader import Reader
from keeve.words.showing import say, show_length, show_litres

router = APIRouter(responses=REFUSALS)
MOST_AT_ONCE: Final = 4
BEAT_S: Final = 0.2
LEAVE_S: Final = 5.0
UNIT_MM: Final = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}
NAMES: Final = {"mm": "millimetres", "cm": "centimetres", "m": "metres", "in": "inches"}
LIKELY_MM: Final = (20.0, 4000.0)
"""Between these a model that is cast usually measures along its longest side: own assumption."""


class Follower:
    """Follows one reading in a thread of its own: this server may be asked for other things, another for this."""

    def __init__(
        self, sessions: sessionmaker[Session], crew: UUID, key: str, reading: BoundedReader, path: Path
    ) -> None:
        self._sessions, self._crew, self._key = sessions, crew, key
        self._reading, self._path = reading, path
        self._leaving = threading.Event()
        self._thread = threading.Thread(target=self._follow, daemon=True)
        self._thread.start()

    @property
    def over(self) -> bool:
        """Whether there is nothing to follow any more."""
        return not self._thread.is_alive()

    def leave(self) -> None:
        """Stop reading and following: the server stops, and nothing may ask the database after that."""
        self._leaving.set()
        self._reading.cancel()
        self._thread.join(LEAVE_S)

    def _follow(self) -> None:
        try:
            while not self._leaving.is_set():
                done = self._reading.done.wait(BEAT_S)
                try:
                    stop = self._beat(done=done)
                except (OperationalError, InterfaceError):
                    time.sleep(BEAT_S)  # the database is away: the reading goes on, and is told later
                    continue
                if done:
                    return
                if stop:
                    self._reading.cancel()
        finally:
            self._reading.cancel()
            self._path.unlink(missing_ok=True)

    def _beat(self, *, done: bool) -> bool:
        state = {"stage": self._reading.stage, "share": self._reading.share, "done": done}
        if done:
            state |= {"result": self._reading.result, "faults": self._reading.faults}
        with self._sessions.begin() as session:
            return beat(session, self._crew, self._key, state)


@router.put("/jobs/{job_id}/models", name="new_model", dependencies=[OwnPage], status_code=status.HTTP_202_ACCEPTED)
async def new_model(
    request: Request, job_id: str, desk: Looking, crew: Crew, name: Annotated[str, Query(max_length=200)] = ""
) -> JSONResponse:
    """Take a mesh in, streamed to disk, and begin to read it; nothing is asked of the database meanwhile."""
    kind = name.rsplit(".", 1)[-1].lower()
    if kind not in ("stl", "obj", "ply"):
        raise TakeoffError(
            Fault(
                Code.UNKNOWN,
                Said("“{name}” is no STL, OBJ or PLY file.", name=verbatim(name[:60])),
                "Export the model as one of these.",
            )
        )
    sessions = request.app.state.sessions
    await run_in_threadpool(_seen, desk, job_id)
    key = secrets.token_urlsafe(12)
    with new_file(kind) as kept:
        path = Path(kept.name)
        try:
            async for part in request.stream():
                await run_in_threadpool(kept.write, part)
            await run_in_threadpool(kept.close)
            plain = re.sub(r"[^\w .()+-]", "", Path(name).name)[:120]
            await run_in_threadpool(_enter, sessions, crew, key, plain)
        except BaseException:  # the line broke, the file is too big, or others are being read: leave nothing behind
            path.unlink(missing_ok=True)
            raise
    reading = await run_in_threadpool(functools.partial(BoundedReader, kind, path, most_seconds=MESH_SECONDS))
    followers: list[Follower] = request.app.state.followers
    followers[:] = [one for one in followers if not one.over]
    followers.append(Follower(sessions, crew, key, reading, path))
    return JSONResponse({"key": key}, status.HTTP_202_ACCEPTED)


def _seen(desk: At, job_id: str) -> None:
    with desk() as at:
        at.seen(job_id)


def _enter(sessions: sessionmaker[Session], crew: UUID, key: str, name: str) -> None:
    """Write the reading down at once, where there is room: whoever follows it must find it."""
    with sessions.begin() as session:
        readings = ModelStore(session, crew)
        readings.forget_old()
        if readings.under_way() >= MOST_AT_ONCE:
            raise TakeoffError(
                Fault(Code.TOO_MANY, "Several models are being read just now.", "Wait a moment and send it again.")
            )
        readings.add(key, name)


def _row(readings: ModelStore, key: str) -> ModelRow:
    row = readings.find(key)
    if row is None:
        raise HTTPException(status.HTTP_404_NOT_FOUND, "This model is not being read any more. Send it again.")
    return row


@router.get("/models/{key}", name="model_state")
def model_state(key: str, readings: Models, reader: ReadBy) -> dict[str, Any]:
    """Say how far the reading is; at the end in which units the model could have been drawn."""
    row = _row(readings, key)
    answer: dict[str, Any] = {"stage": row.stage, "share": row.share, "done": row.done}
    if row.done:
        if row.result is None:
            answer["faults"] = [
                {name: put(read_words(words), reader) for name, words in fault.items()} for fault in row.faults
            ]
        else:
            answer |= {
                "repaired": " ".join(put(read_words(one), reader) for one in row.result["repaired"]),
                "triangles": row.result["triangles"],
            }
            answer["choices"] = [_choice(row.name, row.result, unit, reader) for unit in UNIT_MM]
    return answer


def _choice(name: str, found: dict[str, Any], unit: str, reader: Reader) -> dict[str, Any]:
    """Say what the model would be in one unit, and whether that is likely."""
    per = UNIT_MM[unit]
    size = [side * per for side in found["size"]]
    volume_l = found["volume"] * per**3 / 1e6
    likely = LIKELY_MM[0] <= max(size) <= LIKELY_MM[1]
    fits = all(0 < side <= 1e6 for side in size) and 0 < volume_l <= 1e9
    return {
        "unit": unit,
        "drawn": t(reader, "drawn in {unit}", unit=NAMES[unit])
        if likely and fits
        else t(reader, "drawn in {unit}: hardly", unit=NAMES[unit]),
        "said": f"{' × '.join(say(show_length(side, reader)) for side in size)}, {say(show_litres(volume_l, reader))}",
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
def stop_model(key: str, readings: Models) -> Response:
    """Stop reading; nothing is kept."""
    readings.stop(_row(readings, key))
    return Response(status_code=status.HTTP_204_NO_CONTENT)
