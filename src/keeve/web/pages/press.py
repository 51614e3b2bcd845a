"""The line in which prints wait: outside of what pages are worked out in, and bounded for each visitor."""

import asyncio
import contextlib
import hashlib
import threading
import time
from collections import Counter, OrderedDict
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path
from typing import Final

from fastapi import HTTPException, Request, status
from fastapi.responses import Response
from starlette.types import Receive, Scope, Send

from keeve.core.message.errors import Code, Fault, LoadError
from keeve.core.message.said import mark
from keeve.formats.writing.printing import NoPango, Printer, Stopped
from keeve.web.edge.bounds import address_of
from keeve.web.edge.static_files import STATIC
from keeve.web.pages.render import page

MOST_PRINTERS: Final = 2
"""Pages that are laid out at the same time: each takes a processor for a second."""
MOST_OF_VISITOR: Final = 12
MOST_IN_LINE: Final = 60
MOST_KEPT_BYTES: Final = 32_000_000
PATIENCE_S: Final = 3.0
"""A browser that waits longer is shown where in the line it stands."""
AGAIN_S: Final = 2
GONE_S: Final = 8.0
"""A print nobody has asked after for so long is not wanted any more."""
_TOO_MANY: Final = mark("Too many pages are being printed just now. Try again in a moment.")


@cache
def drawing_style() -> str:
    """Return the rules for what is drawn on paper."""
    return (Path(__file__).parent / "drawing.css").read_text(encoding="utf-8")


class _Printers:
    """Processes that print, and the threads that wait for them; shared by all apps of this process."""

    def __init__(self) -> None:
        self._threads = ThreadPoolExecutor(MOST_PRINTERS, thread_name_prefix="printer")
        self._idle: list[Printer] = []
        self._lock = threading.Lock()

    def lay_out(self, job: "_Job") -> bytes:
        with self._lock:
            printer = self._idle.pop() if self._idle else None
        if printer is None or not printer.alive:
            printer = Printer()
        job.printer = printer
        try:
            if job.unwanted:
                raise Stopped
            return printer.lay_out(job.html, job.paper, STATIC, drawing_style())
        finally:
            job.printer = None
            with self._lock:
                if printer.alive:
                    self._idle.append(printer)

    def submit(self, job: "_Job") -> "asyncio.Future[bytes]":
        return asyncio.wrap_future(self._threads.submit(self.lay_out, job))

    def end(self) -> None:
        """End the printers that nobody uses just now: whoever prints next begins another."""
        with self._lock:
            idle, self._idle = self._idle, []
        for printer in idle:
            printer.end()


_printers = _Printers()


@dataclass(slots=True, eq=False)
class _Job:
    """One page that is to be laid out, for all who want the same."""

    html: str
    paper: str
    visitor: str
    done: "asyncio.Future[bytes]" = field(init=False)
    printer: Printer | None = None
    unwanted: bool = False
    waiting: int = 0
    asked_at: float = 0.0


class Press:
    """Prints pages one after the other, each once, and keeps what was printed last by what stands on it."""

    def __init__(self) -> None:
        self._line: OrderedDict[str, _Job] = OrderedDict()
        self._of: Counter[str] = Counter()
        self._kept: OrderedDict[str, bytes] = OrderedDict()
        self._bytes = 0

    def place(self, key: str) -> int:
        """Return how many are printed before a page, itself among them."""
        return list(self._line).index(key) + 1 if key in self._line else 0

    async def print_for(self, visitor: str, key: str, html: str, paper: str) -> bytes:
        """Lay a page out; whoever wants the same waits for the same.

        Raises
        ------
        HTTPException : 429, too many wait
        LoadError : this machine lacks what draws paper
        """
        if key in self._kept:
            self._kept.move_to_end(key)
            return self._kept[key]
        job = self._line.get(key) or self._begin(visitor, key, html, paper)
        job.waiting += 1
        try:
            return await asyncio.shield(job.done)
        except NoPango as error:
            said = mark("Nothing can be printed on this machine: it has no Pango.")
            raise LoadError(Fault(Code.REFUSED, said, mark("./keeve setup installs it."))) from error
        except Stopped as error:
            raise HTTPException(status.HTTP_503_SERVICE_UNAVAILABLE, _TOO_MANY) from error
        finally:
            job.waiting -= 1
            job.asked_at = time.monotonic()
            if not job.done.done():
                asyncio.get_running_loop().call_later(GONE_S, self._drop_unwanted, key)

    def _begin(self, visitor: str, key: str, html: str, paper: str) -> _Job:
        if self._of[visitor] >= MOST_OF_VISITOR or len(self._line) >= MOST_IN_LINE:
            raise HTTPException(status.HTTP_429_TOO_MANY_REQUESTS, _TOO_MANY, {"retry-after": "5"})
        job = self._line[key] = _Job(html, paper, visitor)
        self._of[visitor] += 1
        job.done = _printers.submit(job)
        job.done.add_done_callback(lambda done: self._end(key, job, done))
        return job

    def _end(self, key: str, job: _Job, done: "asyncio.Future[bytes]") -> None:
        self._line.pop(key, None)
        self._of[job.visitor] -= 1
        if not self._of[job.visitor]:
            del self._of[job.visitor]
        if done.cancelled() or done.exception() is not None:
            return
        self._kept[key] = done.result()
        self._bytes += len(done.result())
        while self._bytes > MOST_KEPT_BYTES and self._kept:
            self._bytes -= len(self._kept.popitem(last=False)[1])

    def _drop_unwanted(self, key: str) -> None:
        """Leave out what nobody waits for any more; what is being laid out is stopped."""
        job = self._line.get(key)
        if job is None or job.waiting or time.monotonic() - job.asked_at < GONE_S * 0.9:
            return
        job.unwanted = True
        job.done.cancel()
        if job.printer is not None:
            job.printer.end()

    @staticmethod
    def close() -> None:
        """End the printers."""
        _printers.end()


class Printed(Response):
    """A page that is still to be laid out: who waits for it holds nothing that others need."""

    def __init__(self, request: Request, html: str, paper: str, headers: Mapping[str, str]) -> None:
        super().__init__()
        self._request, self._html, self._paper, self._with = request, html, paper, headers

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Wait in line, and answer."""
        let_go = getattr(self._request.state, "let_go", None)
        if let_go is not None:
            let_go()
        press: Press = self._request.app.state.press
        key = hashlib.sha256(f"{self._paper}\n{self._html}".encode()).hexdigest()
        printing = asyncio.ensure_future(
            press.print_for(address_of(self._request), key, self._html, self._paper)
        )  # fmt: skip
        gone = asyncio.ensure_future(_gone(receive))
        try:
            patience = PATIENCE_S if _is_window(self._request) else None
            await asyncio.wait({printing, gone}, timeout=patience, return_when=asyncio.FIRST_COMPLETED)
            if printing.done():
                answer = Response(printing.result(), media_type="application/pdf", headers=dict(self._with))
                await answer(scope, receive, send)
            elif not gone.done():
                shown = page(self._request, "paper/in_line.html", 202, place=press.place(key))
                shown.headers["refresh"] = str(AGAIN_S)
                await shown(scope, receive, send)
        finally:
            for task in (printing, gone):
                task.cancel()
                with contextlib.suppress(asyncio.CancelledError, Exception):
                    await task


async def _gone(receive: Receive) -> None:
    while (await receive())["type"] != "http.disconnect":
        pass


def _is_window(request: Request) -> bool:
    """Whether a person looks at the answer in a window, and can be shown something else meanwhile."""
    return "text/html" in request.headers.get("accept", "")
