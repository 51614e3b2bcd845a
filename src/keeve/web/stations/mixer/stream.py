"""Tells open pages of a job about each event within a moment, over PostgreSQL's own notifications.

Each process listens once. A wake-up only says that there is something: what it is, is read from the table, so that
nothing is lost between listening and reading, and any number of processes share one database.
"""

import asyncio
import contextlib
import json
import time
from collections import deque
from collections.abc import AsyncIterator, Callable
from functools import partial
from itertools import takewhile
from typing import Any, Final
from uuid import UUID

import psycopg
import structlog
from fastapi import FastAPI
from fastapi.concurrency import run_in_threadpool
from sqlalchemy.exc import SQLAlchemyError

from keeve.store.rows.run_store import CHANNEL, Heads, Numbered, RunStore
from keeve.web.edge.links import Link

log = structlog.stdlib.get_logger("keeve.stream")
BEAT_S: Final = 10.0
AGAIN_S: Final = 1.0
MOST: Final = 500
MOST_LATELY: Final = 1000
"""Entries of one run that are at hand; who was away for more reads them itself."""
GATHER_S: Final = 0.0015
"""For each phone that follows, what is new is gathered so much longer before all are told: a hundred are told six
times a second, whatever is tapped."""
_Key = tuple[UUID, UUID]
_Told = tuple[int, bytes]
"""An entry by its number, as it goes to every phone; empty where it cannot be read."""


class _Room:
    """What is new of one run: read once for all who follow it in this process."""

    def __init__(self, read: Callable[[int], tuple[list[Numbered], Heads]]) -> None:
        self._read = read
        self.following: set[asyncio.Event] = set()
        self._since: int | None = None
        """What came after this number is at hand; None while nobody has caught up yet."""
        self._lately: deque[_Told] = deque()
        self._heads = Heads(-1, 0)
        self._reading = self._again = False

    async def after(self, last: int) -> tuple[list[_Told], Heads, bool]:
        """Return what came after a number, what stands over it all, and whether there may be more."""
        if self._since is not None and last >= self._since:
            newer = takewhile(lambda one: one[0] > last, reversed(self._lately))
            return list(newer)[::-1], self._heads, False
        found, heads = await run_in_threadpool(self._read, last)
        more = len(found) == MOST
        if self._since is None and not more:
            self._since, self._heads = (found[-1].n if found else last), heads
            await self.read_on()  # what came while this was read
        return [(one.n, _sent(one)) for one in found], heads, more

    async def read_on(self) -> None:
        """Read what is new and wake all; whoever asks meanwhile has it done once more."""
        self._again = True
        if self._reading or self._since is None:
            self.wake()
            return
        self._reading = True
        try:
            while self._again:
                await asyncio.sleep(GATHER_S * (len(self.following) - 1))
                self._again = False
                last = self._lately[-1][0] if self._lately else self._since
                found, self._heads = await run_in_threadpool(self._read, last)
                self._again |= len(found) == MOST
                self._lately.extend((one.n, _sent(one)) for one in found)
                while len(self._lately) > MOST_LATELY:
                    self._since = self._lately.popleft()[0]
                self.wake()
        except SQLAlchemyError:  # each who follows asks for itself then, and ends where the database is away
            self._since = None
            self._lately.clear()
            self.wake()
        finally:
            self._reading = False

    def wake(self) -> None:
        """Wake all who follow."""
        for event in self.following:
            event.set()


def _sent(one: Numbered) -> bytes:
    """Write an entry down for all phones at once; nothing for one that cannot be read."""
    return b"" if one.told is None else _event("tap", one.told, f"id: {one.n}\n")


def _event(kind: str, data: dict[str, Any], named: str = "") -> bytes:
    return f"event: {kind}\n{named}data: {json.dumps(data, separators=(',', ':'))}\n\n".encode()


class Hub:
    """Wakes the open streams of a job when its log or its ticket changes."""

    def __init__(self, url: str) -> None:
        self._dsn = url.replace("postgresql+psycopg", "postgresql")
        self._rooms: dict[_Key, _Room] = {}
        self._tasks: set[asyncio.Task[None]] = set()
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
                        self._read_on((UUID(crew), UUID(job)))
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

    def _read_on(self, key: _Key) -> None:
        """Let the room of a run read on, beside whatever else is heard."""
        room = self._rooms.get(key)
        if room is not None:
            task = asyncio.get_running_loop().create_task(room.read_on())
            self._tasks.add(task)
            task.add_done_callback(self._tasks.discard)

    def _wake_all(self) -> None:
        for key in list(self._rooms):
            self._read_on(key)

    def close(self) -> None:
        """End every stream: the server stops."""
        self._closed = True
        for room in self._rooms.values():
            room.wake()

    async def follow(
        self, sessions: Any, crew: UUID, job: UUID, after: int, link: Link | None = None
    ) -> AsyncIterator[bytes]:
        """Yield a job's events after a number as they come, and a beat between: the page sees that the line lives.

        It ends where the link it came in by has run out or was taken back.
        """
        wake = asyncio.Event()
        key = (crew, job)
        room = self._rooms.setdefault(key, _Room(partial(_read, sessions, crew, job)))
        room.following.add(wake)
        last, told = after, -1
        try:
            while not self._closed:
                wake.clear()
                found, heads, more = await room.after(last)
                if link is not None and (heads.link_n != link.n or link.until_ms < time.time() * 1000):
                    return
                last = found[-1][0] if found else last
                news = b"".join(tap for _, tap in found)
                if heads.ticket_n != told:
                    told = heads.ticket_n
                    news += _event("ticket", {"revision": told})
                if news:
                    yield news
                if not more:
                    with contextlib.suppress(TimeoutError):
                        await asyncio.wait_for(wake.wait(), BEAT_S)
                    if not wake.is_set():
                        yield _event("beat", {"n": last})
        finally:
            room.following.discard(wake)
            if not room.following:
                self._rooms.pop(key, None)


def _read(sessions: Any, crew: UUID, job: UUID, after: int) -> tuple[list[Numbered], Heads]:
    with sessions() as session:
        runs = RunStore(session, crew)
        return runs.since(job, after, MOST), runs.heads(job)


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
