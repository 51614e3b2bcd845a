"""Stands before every request and behind every answer."""

import asyncio
import secrets
import time
from collections.abc import Callable
from typing import Any, Final

import structlog
from fastapi import HTTPException, Request, status
from fastapi.concurrency import run_in_threadpool
from starlette.datastructures import MutableHeaders
from starlette.requests import ClientDisconnect, HTTPConnection
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from keeve.core.message.said import Said, mark
from keeve.web.edge.bounds import Incoming
from keeve.web.edge.links import from_outside, may_from_outside, shown_path, still_open
from keeve.web.edge.security import VISITOR_COOKIE, cookie, cookie_name, is_tls

SaysHttp = Callable[[Request, HTTPException], Response]
SaysBroken = Callable[[Request, Exception], Response]
log = structlog.stdlib.get_logger("keeve.requests")
MOST_VISITOR: Final = 64
"""Letters of a visitor's cookie: ours has 22, and stands in the token of each page."""
_CHANGES: Final = ("POST", "PUT", "PATCH", "DELETE")
_HEADERS: Final = {
    "content-security-policy": "default-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'; "
    "object-src 'none'",
    "x-content-type-options": "nosniff",
    "referrer-policy": "same-origin",
    "cross-origin-opener-policy": "same-origin",
    "cross-origin-resource-policy": "same-origin",
    "cache-control": "private, no-cache",
}


class Guard:
    """Lets a request in or refuses it, and sees that each has one answer, with the security headers, and one line.

    Refused is what asks for another host than ours, sends too much, too slowly or too many things at once. What breaks
    inside is answered in words; the next request on the line is none the wiser. HEAD is answered as GET without its
    body. Each visitor has a cookie.
    """

    def __init__(self, app: ASGIApp, hosts: tuple[str, ...], said_by_http: SaysHttp, unknown: SaysBroken) -> None:
        self.app, self.hosts = app, hosts
        self._said_by_http, self._unknown = said_by_http, unknown

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass one request through."""
        if scope["type"] == "websocket" and not await self._lets_in_line(HTTPConnection(scope)):
            await send({"type": "websocket.close", "code": 1008, "reason": ""})
            return
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        head = scope["method"] == "HEAD"
        request = Request(dict(scope) | {"method": "GET"} if head else scope)
        known = cookie(request, VISITOR_COOKIE)
        known = known if known and len(known) <= MOST_VISITOR else None
        request.state.visitor = known or secrets.token_urlsafe(16)
        request.state.number = secrets.token_hex(4)
        answer = _Answer(request, send, new_visitor=known is None, head=head)
        if head:
            receive = answer.gone
        try:
            await self._let_in(request, receive, answer)
        except HTTPException as error:
            await answer.say(self._said_by_http(request, error))
        except ClientDisconnect:
            log.info("left", path=shown_path(request.url.path), number=request.state.number)
        except Exception as error:  # whatever it is, it must not take the line or the server down
            await answer.say(self._unknown(request, error))
        await answer.finish()

    async def _lets_in_line(self, line: HTTPConnection) -> bool:
        """Whether a page of ours asks for a line both ways: a browser lets any page open one, and says which it was."""
        host = line.headers.get("host", "")
        own = (f"http://{host}", f"https://{host}")
        if not _is_ours(host, self.hosts) or line.headers.get("origin") not in own:
            return False
        return not from_outside(line) or await _may_from_outside(line)

    async def _let_in(self, request: Request, receive: Receive, answer: "_Answer") -> None:
        if not _is_ours(request.headers.get("host", ""), self.hosts):
            raise HTTPException(
                status.HTTP_421_MISDIRECTED_REQUEST,
                Said(
                    "Keeve is not at “{host}”. Open it by its own address.", host=request.headers.get("host", "")[:80]
                ),
            )
        if _asked_by_another(request):
            raise HTTPException(
                status.HTTP_403_FORBIDDEN, mark("Another site's page asked for this. Open it from a page of Keeve.")
            )
        if from_outside(request) and not await _may_from_outside(request):
            raise HTTPException(
                status.HTTP_403_FORBIDDEN,
                mark("A phone sees only the run it was let in to, while its code is good. Scan one at the table."),
            )
        if request.method not in _CHANGES:
            await self.app(request.scope, receive, answer.send)
            return
        incoming = Incoming(request, receive)
        try:
            await self.app(request.scope, incoming.receive, lambda message: answer.unless(incoming, message))
        except ClientDisconnect:
            if incoming.refused is None:
                raise
        finally:
            incoming.over()
        if incoming.refused is not None:
            raise incoming.refused


async def _may_from_outside(request: HTTPConnection) -> bool:
    """Whether a request from the network may go on; its link may have been taken back meanwhile."""
    return may_from_outside(request) and await run_in_threadpool(still_open, request)


def _asked_by_another(request: Request) -> bool:
    """Whether another site's page asks, and not a person who follows a link: no work is done for it.

    Browsers say so where the address is one they trust; what is no browser says nothing. A program that asks as a
    page of its own names where it is from.
    """
    origin, host = request.headers.get("origin"), request.headers.get("host", "")
    if origin is not None and request.method not in _CHANGES:
        return origin not in (f"http://{host}", f"https://{host}")
    if request.headers.get("sec-fetch-site") not in ("cross-site", "same-site"):
        return False
    opened = request.headers.get("sec-fetch-dest") == "document"
    return not (opened and request.headers.get("sec-fetch-mode") == "navigate" and request.method == "GET")


def _is_ours(host: str, hosts: tuple[str, ...]) -> bool:
    """Whether a request asks for one of our hosts: a foreign name that leads here is somebody else's page asking."""
    name = host.rsplit(":", 1)[0].lower() if not host.endswith("]") else host.lower()
    return "*" in hosts or name in hosts or any(one.startswith("*.") and name.endswith(one[1:]) for one in hosts)


class _Answer:
    """The one answer to a request."""

    def __init__(self, request: Request, send: Send, *, new_visitor: bool, head: bool) -> None:
        self._request, self._send, self._new_visitor, self._head = request, send, new_visitor, head
        self._began = time.perf_counter()
        self._begun = False
        self._head_sent = asyncio.Event()
        self._asked = False

    async def gone(self) -> Message:
        """Say that whoever asked only for the head left when it had it: an endless answer ends by that."""
        if not self._asked:
            self._asked = True
            return {"type": "http.request", "body": b"", "more_body": False}
        await self._head_sent.wait()
        return {"type": "http.disconnect"}

    async def finish(self) -> None:
        """End an answer of which only the head was wanted."""
        if self._head and self._begun:
            await self._send({"type": "http.response.body", "body": b""})

    async def unless(self, incoming: Incoming, message: Message) -> None:
        """Send, unless the body was refused: then that is the answer."""
        if incoming.refused is None or self._begun:
            await self.send(message)

    async def say(self, response: Any) -> None:
        """Answer in the place of the app, unless it has begun to answer."""
        if not self._begun:
            await response(self._request.scope, self.gone, self.send)

    async def send(self, message: Message) -> None:
        """Send a piece of the answer."""
        if message["type"] == "http.response.start":
            self._begun = True
            self._dress(message)
            self._note(message["status"])
            await self._send(message)
            self._head_sent.set()
        elif not self._head:
            await self._send(message)

    def _dress(self, message: Message) -> None:
        headers = MutableHeaders(scope=message)
        for name, value in _HEADERS.items():
            headers.setdefault(name, value)
        if message["status"] >= status.HTTP_400_BAD_REQUEST:
            headers["x-keeve-number"] = self._request.state.number
        link = getattr(self._request.state, "link", None)
        if link is not None:
            headers["x-keeve-until"] = str(link.until_ms)
        if self._new_visitor and not self._request.url.path.startswith("/static/"):
            secure = "; Secure" if is_tls(self._request) else ""
            named = cookie_name(self._request, VISITOR_COOKIE)
            visitor = self._request.state.visitor
            headers.append("set-cookie", f"{named}={visitor}; Path=/; HttpOnly; SameSite=Strict{secure}")

    def _note(self, status_: int) -> None:
        took_ms = round((time.perf_counter() - self._began) * 1000, 1)
        method = "HEAD" if self._head else self._request.method
        told: dict[str, Any] = {"method": method, "path": shown_path(self._request.url.path), "status": status_}
        if status_ >= status.HTTP_400_BAD_REQUEST:
            told["number"] = self._request.state.number
        log.info("request", **told, ms=took_ms)
