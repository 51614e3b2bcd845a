"""Bounds what one visitor may send at once: how much, how slowly, and how many things at a time."""

import asyncio
import time
from collections import Counter
from collections.abc import AsyncIterator, Callable, Iterator
from contextlib import asynccontextmanager, contextmanager
from typing import Final, Literal

from fastapi import HTTPException, Request, status
from starlette.requests import HTTPConnection
from starlette.types import Message, Receive

from keeve.core.message.said import Said, mark

MOST_BYTES: Final = 1_000_000
"""A job sheet of 200 shapes is about 60 kB, one with twenty scans 400 kB."""
MOST_LIST_BYTES: Final = 20_000_000
MOST_YARD_BYTES: Final = 500_000_000
"""All of a yard, its photos with it; it goes through a file on the disk, never whole through the memory."""
MOST_MODEL_BYTES: Final = 300_000_000
"""A million triangles are 50 MB of binary STL, 250 MB as text."""
SILENT_S: Final = 15.0
"""A sender who says nothing for so long has gone."""
FIRST_S: Final = 20.0
LEAST_BYTES_S: Final = 8_000
"""After the first seconds a body must come at least so fast: the worst line on a site does."""
MOST_UPLOADS: Final = 4
"""Files of one visitor on the way at once."""
MOST_BODIES: Final = 40
"""Smaller things of one visitor on the way at once."""
MOST_WORKED: Final = 10
"""Requests of one visitor that are worked out at once: a quarter of all that the server works out at once."""
MOST_LOOKED: Final = 16
"""Pages, papers and files of one visitor that are worked out at once, beside what it sends."""
WAIT_S: Final = 10.0
MOST_STREAMS: Final = 100
"""Streams of one visitor's address that stand open: the phones of a large yard behind one line."""
MOST_LINES: Final = 60
"""Lines for answers of one visitor's address: a page without one asks by requests."""

MOST_DEVICES: Final = 12
"""Scales and meters read at the same time from one visitor's address."""

_TOO_BIG: Final = mark("That is more than can be taken in here.")
_TOO_SLOW: Final = mark("What was sent stopped coming half way. Nothing was taken in: send it again.")
_TOO_MANY_PAGES: Final = mark("Too many pages beside the mixer are open from here. Close some of them.")
_TOO_MANY_LOOKS: Final = mark("So much is being worked out for you already. Wait a moment and load this again.")
_TOO_MANY: Final = mark(
    "Several things you sent are still on their way or being worked out. Wait a moment and send this again."
)


def most_bytes(path: str) -> int:
    """Say how much an address takes."""
    if path.startswith("/jobs/") and path.endswith("/models"):
        return MOST_MODEL_BYTES
    if path == "/archive/restore":
        return MOST_YARD_BYTES
    big = path.startswith("/jobs/") and ("/import" in path or path.endswith("/photo"))
    return MOST_LIST_BYTES if big else MOST_BYTES


def address_of(request: HTTPConnection) -> str:
    """Tell visitors apart."""
    return request.client.host if request.client else ""


def _busy(sentence: str | Said) -> HTTPException:
    return HTTPException(status.HTTP_429_TOO_MANY_REQUESTS, sentence, {"retry-after": "3"})


def _too_big() -> HTTPException:
    return HTTPException(status.HTTP_413_CONTENT_TOO_LARGE, _TOO_BIG, {"connection": "close"})


class Visitors:
    """Counts what each visitor, told by the address, has on the way and at work."""

    def __init__(self) -> None:
        self._coming: Counter[tuple[str, bool]] = Counter()
        self._open: Counter[tuple[str, str]] = Counter()
        self._at_work: dict[tuple[str, bool], asyncio.Semaphore] = {}
        self._wanting: Counter[tuple[str, bool]] = Counter()

    def sending(self, client: str, *, upload: bool) -> Callable[[], None]:
        """Count a body that comes in; returns what is called once it is there, or will not come any more.

        Raises
        ------
        HTTPException : 429, there are too many
        """
        key = (client, upload)
        if self._coming[key] >= (MOST_UPLOADS if upload else MOST_BODIES):
            raise _busy(_TOO_MANY)
        self._coming[key] += 1
        arrived = False

        def is_there() -> None:
            nonlocal arrived
            if not arrived:
                arrived = True
                self._coming[key] -= 1
                if not self._coming[key]:
                    del self._coming[key]

        return is_there

    @contextmanager
    def standing_open(self, client: str, what: Literal["stream", "line", "device"]) -> Iterator[None]:
        """Count what stands open: a stream of a page beside the mixer, a line for answers, a scale or meter.

        Raises
        ------
        HTTPException : 429, there are too many
        """
        key = (client, what)
        most = {"stream": MOST_STREAMS, "line": MOST_LINES, "device": MOST_DEVICES}[what]
        if self._open[key] >= most:
            raise _busy(_TOO_MANY_PAGES if what == "stream" else _TOO_MANY)
        self._open[key] += 1
        try:
            yield
        finally:
            self._open[key] -= 1
            if not self._open[key]:
                del self._open[key]

    async def turn(self, client: str, *, looking: bool = False) -> Callable[[], None]:
        """Wait for a turn; returns what ends it, called as often as one likes.

        Raises
        ------
        HTTPException : 429, it did not come in time
        """
        key = (client, looking)
        turns = self._at_work.get(key)
        if turns is None:
            turns = self._at_work[key] = asyncio.Semaphore(MOST_LOOKED if looking else MOST_WORKED)
        self._wanting[key] += 1
        try:
            if turns.locked():
                async with asyncio.timeout(WAIT_S):
                    await turns.acquire()
            else:
                await turns.acquire()
        except BaseException as error:  # whoever asked may have gone meanwhile
            self._gone(key)
            if isinstance(error, TimeoutError):
                raise _busy(_TOO_MANY_LOOKS if looking else _TOO_MANY) from None
            raise
        had = True

        def over() -> None:
            nonlocal had
            if had:
                had = False
                turns.release()
                self._gone(key)

        return over

    def _gone(self, key: tuple[str, bool]) -> None:
        self._wanting[key] -= 1
        if not self._wanting[key]:
            del self._wanting[key], self._at_work[key]

    @asynccontextmanager
    async def at_work(self, client: str) -> AsyncIterator[None]:
        """Wait for a turn, and have it; raises as `turn`."""
        over = await self.turn(client)
        try:
            yield
        finally:
            over()


class Incoming:
    """The body of one request: counted, and refused when there is too much of it or it comes too slowly."""

    def __init__(self, request: Request, receive: Receive) -> None:
        self._receive = receive
        self._limit = most_bytes(request.url.path)
        said = request.headers.get("content-length") or "0"
        if not said.isdigit() or int(said) > self._limit:
            raise _too_big()
        visitors: Visitors = request.app.state.visitors
        self.over = visitors.sending(address_of(request), upload=self._limit > MOST_BYTES)
        """Called when nothing more will come."""
        self._came = 0
        self._began = time.monotonic()
        self._whole = False
        self.refused: HTTPException | None = None
        """Why the body was cut short: whatever the app makes of what it got, this is the answer."""

    async def receive(self) -> Message:
        """Hand the next piece on; once the body is there, whatever comes after it."""
        if self._whole:
            return await self._receive()
        try:
            async with asyncio.timeout(self._patience_s()):
                message = await self._receive()
        except TimeoutError:
            return self._refuse(HTTPException(status.HTTP_408_REQUEST_TIMEOUT, _TOO_SLOW, {"connection": "close"}))
        self._came += len(message.get("body", b""))
        if self._came > self._limit:  # a body sent in pieces does not say beforehand how long it is
            return self._refuse(_too_big())
        self._whole = not message.get("more_body", False)
        if self._whole:
            self.over()
        return message

    def _patience_s(self) -> float:
        """Say how long the next piece may take."""
        allowed = FIRST_S + self._came / LEAST_BYTES_S - (time.monotonic() - self._began)
        return max(min(SILENT_S, allowed), 0.001)

    def _refuse(self, why: HTTPException) -> Message:
        self.refused = self.refused or why
        self._whole = True
        self.over()
        return {"type": "http.disconnect"}
