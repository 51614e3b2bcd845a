"""Tells open pages of a job about each event within a moment, over PostgreSQL's own notifications.

Each process listens once. A wake-up only says that there is something: what it is, is read from the table, so that
nothing is lost between listening and reading, and any number of processes share one database.
"""

import asyncio
import contextlib
from collections import defaultdict
from collections.abc import AsyncIterator
from typing import Any, Final
from uuid import UUID

import psycopg
import structlog
from fastapi import FastAPI, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.sse import ServerSentEvent

from keeve.store.run_store import CHANNEL, Numbered, RunStore

log = structlog.stdlib.get_logger("keeve.stream")
BEAT_S: Final = 10.0
AGAIN_S: Final = 1.0


class Hub:
    """Wakes the open streams of a job when its log or its ticket changes."""

    def __init__(self, url: str) -> None:
        self._dsn = url.replace("postgresql+psycopg", "postgresql")
        self._waiting: dict[tuple[str, str], set[asyncio.Event]] = defaultdict(set)
        self._closed = False

    async def listen(self) -> None:
        """Listen until cancelled; connect again when the database was away, and wake everybody then."""
        heard = True
        while True:
            try:
                connection = await self._connect()
                async with connection:
                    await connection.execute(f"listen {CHANNEL}")
                    heard = True
                    self._wake_all()
                    async for note in connection.notifies():
                        crew, job, *_ = note.payload.split()
                        for event in self._waiting.get((crew, job), ()):
                            event.set()
            except (psycopg.Error, OSError) as error:
                if heard:  # once, however long the database is away
                    log.info("not listening", kind=type(error).__name__)
                heard = False
            await asyncio.sleep(AGAIN_S)

    async def _connect(self) -> psycopg.AsyncConnection:
        """Connect; a connection that is half made when the server stops is finished and closed, not dropped."""
        connecting = asyncio.ensure_future(
            psycopg.AsyncConnection.connect(self._dsn, autocommit=True, connect_timeout=3)
        )
        try:
            return await asyncio.shield(connecting)
        except asyncio.CancelledError:
            with contextlib.suppress(psycopg.Error, OSError):
                await (await connecting).close()
            raise

    def _wake_all(self) -> None:
        for events in self._waiting.values():
            for event in events:
                event.set()

    def close(self) -> None:
        """End every stream: the server stops."""
        self._closed = True
        self._wake_all()

    async def follow(
        self, request: Request, sessions: Any, crew: UUID, job: UUID, after: int
    ) -> AsyncIterator[ServerSentEvent]:
        """Yield a job's events after a number as they come, and a beat between: the page sees that the line lives."""
        wake = asyncio.Event()
        key = (str(crew), str(job))
        self._waiting[key].add(wake)
        last, told = after, -1
        try:
            while not self._closed:
                wake.clear()
                found, tickets = await run_in_threadpool(_read, sessions, crew, job, last)
                for event in found:
                    last = event.n
                    if event.told is not None:
                        yield ServerSentEvent(event="tap", id=str(event.n), data=event.told)
                if tickets != told:
                    told = tickets
                    yield ServerSentEvent(event="ticket", data={"revision": tickets})
                if len(found) < MOST:
                    with contextlib.suppress(TimeoutError):
                        await asyncio.wait_for(wake.wait(), BEAT_S)
                    if not wake.is_set():
                        yield ServerSentEvent(event="beat", data={"n": last})
                if await request.is_disconnected():
                    return
        finally:
            self._waiting[key].discard(wake)
            if not self._waiting[key]:
                del self._waiting[key]


MOST: Final = 500


def _read(sessions: Any, crew: UUID, job: UUID, after: int) -> tuple[list[Numbered], int]:
    with sessions() as session:
        runs = RunStore(session, crew)
        return runs.since(job, after, MOST), runs.ticket_n(job)


@contextlib.asynccontextmanager
async def listening(app: FastAPI, url: str) -> AsyncIterator[None]:
    """Run the hub as long as the app."""
    hub = Hub(url)
    app.state.hub = hub
    task = asyncio.create_task(hub.listen())
    try:
        yield
    finally:
        hub.close()
        task.cancel()
        with contextlib.suppress(asyncio.CancelledError):
            await task
