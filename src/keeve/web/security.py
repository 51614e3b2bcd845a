"""Guards every answer: what a page may load, and that a change was asked for by our own page."""

import secrets
import time
from functools import lru_cache
from typing import Annotated, Final

import structlog
from fastapi import Depends, HTTPException, Request, status
from itsdangerous import BadSignature, URLSafeSerializer
from starlette.datastructures import MutableHeaders
from starlette.requests import ClientDisconnect
from starlette.types import ASGIApp, Message, Receive, Scope, Send

log = structlog.stdlib.get_logger("keeve.requests")

VISITOR_COOKIE: Final = "keeve_visitor"
TOKEN_HEADER: Final = "x-keeve-token"  # noqa: S105 - a header's name, not a secret
TOKEN_FIELD: Final = "token"  # noqa: S105 - a field's name, not a secret
MOST_BYTES: Final = 1_000_000
"""A job sheet of 200 shapes is about 60 kB, one with twenty scans 400 kB."""
MOST_LIST_BYTES: Final = 20_000_000
MOST_MODEL_BYTES: Final = 300_000_000
"""A million triangles are 50 MB of binary STL, 250 MB as text."""


def most_bytes(path: str) -> int:
    """Say how much an address takes."""
    if path.startswith("/jobs/") and path.endswith("/models"):
        return MOST_MODEL_BYTES
    return MOST_LIST_BYTES if path.startswith("/jobs/") and "/import" in path else MOST_BYTES


_HEADERS: Final = {
    "content-security-policy": "default-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'; "
    "object-src 'none'",
    "x-content-type-options": "nosniff",
    "referrer-policy": "same-origin",
    "cross-origin-opener-policy": "same-origin",
}


class Guard:
    """Adds the security headers, refuses oversized bodies, gives each visitor a cookie, logs one line a request."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass one request through."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        request = Request(scope)
        began = time.perf_counter()
        known = request.cookies.get(VISITOR_COOKIE)
        visitor = known or secrets.token_urlsafe(16)
        scope.setdefault("state", {})["visitor"] = visitor

        async def guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in _HEADERS.items():
                    headers.setdefault(name, value)
                if known is None and not request.url.path.startswith("/static/"):
                    headers.append("set-cookie", f"{VISITOR_COOKIE}={visitor}; Path=/; HttpOnly; SameSite=Strict")
                took_ms = round((time.perf_counter() - began) * 1000, 1)
                status_ = message["status"]
                log.info("request", method=request.method, path=request.url.path, status=status_, ms=took_ms)
            await send(message)

        await _Bounded(self.app, most_bytes(request.url.path)).pass_on(request, receive, guarded)


class _Bounded:
    """Counts what comes in; past the limit the answer is 413, whatever the app makes of a body cut short."""

    def __init__(self, app: ASGIApp, limit: int) -> None:
        self.app = app
        self.limit = limit
        self.came = 0
        self.refused = False

    async def pass_on(self, request: Request, receive: Receive, guarded: Send) -> None:
        """Pass a request on, or refuse it."""
        said = request.headers.get("content-length") or "0"
        if not said.isdigit() or int(said) > self.limit:
            await self._refuse(guarded)
            return

        async def counted() -> Message:
            message = await receive()
            self.came += len(message.get("body", b""))
            if self.came <= self.limit:  # a body sent in pieces does not say beforehand how long it is
                return message
            await self._refuse(guarded)
            return {"type": "http.disconnect"}

        async def unless_refused(message: Message) -> None:
            if not self.refused:
                await guarded(message)

        try:
            await self.app(request.scope, counted, unless_refused)
        except ClientDisconnect:
            if not self.refused:
                raise

    async def _refuse(self, send: Send) -> None:
        if self.refused:
            return
        self.refused = True
        words = b"That is more than can be taken in here."
        await send({"type": "http.response.start", "status": 413, "headers": [(b"content-type", b"text/plain")]})
        await send({"type": "http.response.body", "body": words})


@lru_cache(maxsize=16)
def _signer(secret: str) -> URLSafeSerializer:
    return URLSafeSerializer(secret, salt="keeve-page")


def page_token(request: Request) -> str:
    """Make the token a page sends back with each change; it fits only this visitor."""
    return _token_of(request.app.state.settings.secret, request.state.visitor)


@lru_cache(maxsize=4096)
def _token_of(secret: str, visitor: str) -> str:
    return str(_signer(secret).dumps(visitor))


async def own_page(request: Request) -> None:
    """Refuse a change that one of our own pages did not ask for."""
    token = request.headers.get(TOKEN_HEADER)
    kind = request.headers.get("content-type", "")
    if token is None and kind.startswith(("application/x-www-form-urlencoded", "multipart/form-data")):
        token = str((await request.form()).get(TOKEN_FIELD, ""))
    try:
        named = _signer(request.app.state.settings.secret).loads(token or "")
    except BadSignature:
        named = None
    if named != request.cookies.get(VISITOR_COOKIE) or named is None:
        raise HTTPException(status.HTTP_403_FORBIDDEN, "This page was open for too long. Load it again and repeat.")


OwnPage = Depends(own_page)
Token = Annotated[str, Depends(page_token)]
