"""The server the app runs in: patient with slow lines, but not for ever."""

import asyncio
import contextlib
import resource
import socket
import time
from collections.abc import Callable, Iterator, Sequence
from typing import Any, Final

import h11
import uvicorn
from fastapi import FastAPI
from uvicorn.protocols.http.h11_impl import H11Protocol

from keeve.web.edge.bounds import MOST_BYTES
from keeve.web.edge.settings import Settings

HEAD_S: Final = 10.0
"""The head of a request is there by then, or the line is closed."""


class _Line(H11Protocol):
    """One visitor's line, closed when it begins a request and does not come to its point."""

    _due: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        super().connection_made(transport)
        self._wait()

    def data_received(self, data: bytes) -> None:
        super().data_received(data)
        if self.conn.their_state is h11.IDLE and self.conn.our_state is h11.IDLE:
            self._wait()
        else:
            self._arrived()

    def connection_lost(self, exc: Exception | None) -> None:
        self._arrived()
        super().connection_lost(exc)

    def _wait(self) -> None:
        """Begin to wait; each further letter does not begin anew."""
        if self._due is None:
            self._due = self.loop.call_later(HEAD_S, self._late)

    def _arrived(self) -> None:
        if self._due is not None:
            self._due.cancel()
            self._due = None

    def _late(self) -> None:
        self._due = None
        if self.conn.their_state is h11.IDLE:
            self.transport.close()


def configured(app: FastAPI, **more: Any) -> uvicorn.Config:
    """Return how an app is served: on loopback, where no socket is given.

    Who asks is told by the line it comes in at, and by no header, but where a proxy was named.
    """
    settings: Settings | None = getattr(app.state, "settings", None)
    proxy = settings.proxy if settings else ""
    return uvicorn.Config(
        app, host="127.0.0.1", http=_Line, access_log=False, timeout_graceful_shutdown=1, ws_max_size=MOST_BYTES,
        proxy_headers=bool(proxy), forwarded_allow_ips=proxy or None, **more,
    )  # fmt: skip


def allow_many_lines() -> None:
    """Let as many lines be open as the machine lets us: one visitor can soon hold the usual thousand."""
    _, most = resource.getrlimit(resource.RLIMIT_NOFILE)
    resource.setrlimit(resource.RLIMIT_NOFILE, (most, most))


class Beside(uvicorn.Server):
    """A listener that starts and stops with the main one, which alone hears signals."""

    @contextlib.contextmanager
    def capture_signals(self) -> Iterator[None]:
        """Leave signals to the main server."""
        yield


Listener = tuple[Beside, socket.socket]


class Server(uvicorn.Server):
    """Says where it is once it really listens, and lets its streams end before it stops."""

    def __init__(
        self, app: FastAPI, words: str, began: float, port: int, beside: Callable[[], Sequence[Listener]] = list
    ) -> None:
        super().__init__(configured(app, port=port, log_level="warning"))
        self._app = app
        self._words = words
        self._began = began
        self._make_beside = beside
        self._beside: Sequence[Listener] = ()
        self._tasks: list[asyncio.Task[None]] = []

    async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
        """End the open streams by themselves instead of cutting them off, then stop."""
        self._app.state.hub.close()
        for server, _ in self._beside:
            server.should_exit = True
        await asyncio.gather(*self._tasks, return_exceptions=True)
        await super().shutdown(sockets)

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        """Begin to listen, and say so."""
        await super().startup(sockets)
        if self.started:
            self._beside = self._make_beside()
            self._tasks = [asyncio.create_task(server.serve(sockets=[bound])) for server, bound in self._beside]
            took = time.monotonic() - self._began
            print(f"{self._words}  (ready in {took:.1f} s; Ctrl-C stops it)", flush=True)  # noqa: T201
