"""Looks at what a request carries before anything is built of it: how deep, how many, and no letter that is none."""

import json
import math
from collections.abc import Callable
from typing import Any, Final
from urllib.parse import unquote_plus

from fastapi import HTTPException, Request, WebSocket, WebSocketDisconnect, status
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from keeve.core.message.errors import Code, Fault, UnitError
from keeve.core.message.letters import harmless, shown
from keeve.core.message.said import Amount, Said, mark
from keeve.web.edge.bounds import MOST_MODEL_BYTES, Visitors, address_of, most_bytes
from keeve.web.edge.security import before_its_body

MOST_DEEP: Final = 32
MOST_KEYS: Final = 5000
"""A sheet of two hundred masonry panels has some four thousand."""
MOST_SHAPES: Final = 200
MOST_BEGUN_BYTES: Final = 8_000
"""Of a form with files: its token stands there."""
_FORM: Final = "application/x-www-form-urlencoded"
_PARTS: Final = "multipart/form-data"
_NO_FILES: Final = mark("No file can be sent to this address.")
_READ: Final = frozenset(("", "application/json", _FORM))


class Bodies:
    """Refuses addresses, and bodies of JSON and of forms, that hold what nothing of ours can keep; files pass.

    Only a body that is all there, and in order, takes one of its visitor's turns to be worked out.
    """

    def __init__(self, app: ASGIApp, refused: Callable[[Request, Exception], Response]) -> None:
        self.app, self.refused = app, refused

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass one request through."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        request = Request(scope)
        asked = scope["path"] + unquote_plus(scope["query_string"].decode("latin-1"))
        if not harmless(asked):
            await self.refused(request, UnitError(_strange(asked)))(scope, receive, send)
            return
        if scope["method"] not in ("POST", "PUT", "PATCH", "DELETE"):
            await self._look(request, receive, send)
            return
        kind = request.headers.get("content-type", "").partition(";")[0].strip().lower()
        if kind == _PARTS and not _takes_files(request.url.path):
            raise HTTPException(status.HTTP_415_UNSUPPORTED_MEDIA_TYPE, _NO_FILES)
        if _is_model(request.url.path) or (kind not in _READ and not kind.endswith("+json")):  # not read whole
            if kind == _PARTS or _is_model(request.url.path):
                receive = await _of_ours(request, receive, form=kind == _PARTS)
            await self.app(scope, receive, send)
            return
        body, ended = await _whole(receive)
        visitors: Visitors = request.app.state.visitors
        async with visitors.at_work(address_of(request)):
            fault = None if body is None else _fault(body, kind)
            if fault is None:
                await self.app(scope, _again(body, ended, receive), send)
            else:
                await self.refused(request, UnitError(fault))(scope, receive, send)

    async def _look(self, request: Request, receive: Receive, send: Send) -> None:
        """Pass on who only looks: one turn while the answer is worked out, none while it goes out or waits in line."""
        if request.url.path.startswith("/static/"):
            await self.app(request.scope, receive, send)
            return
        visitors: Visitors = request.app.state.visitors
        let_go = await visitors.turn(address_of(request), looking=True)
        request.state.let_go = let_go

        async def answer(message: Message) -> None:
            let_go()
            await send(message)

        try:
            await self.app(request.scope, receive, answer)
        finally:
            let_go()


def _is_model(path: str) -> bool:
    """Whether an address takes a model as it is; the browser often does not say of what kind it is."""
    return most_bytes(path) == MOST_MODEL_BYTES


def _takes_files(path: str) -> bool:
    return path in ("/book/bring", "/archive/restore") or (
        path.startswith("/jobs/") and path.endswith(("/import", "/photo"))
    )


async def _of_ours(request: Request, receive: Receive, *, form: bool) -> Receive:
    """Look at what an upload begins with, and refuse it before the rest is read; returns what hands all of it on."""
    first: list[Message] = []
    while form and sum(len(message.get("body", b"")) for message in first) < MOST_BEGUN_BYTES:
        first.append(await receive())
        if first[-1]["type"] != "http.request" or not first[-1].get("more_body", False):
            break
    await before_its_body(request, b"".join(message.get("body", b"") for message in first))

    async def all_of_it() -> Message:
        return first.pop(0) if first else await receive()

    return all_of_it


async def _whole(receive: Receive) -> tuple[bytes | None, Message]:
    """Read a body to its end; it is bounded where it comes from."""
    parts: list[bytes] = []
    while True:
        message = await receive()
        if message["type"] != "http.request":
            return None, message
        parts.append(message.get("body", b""))
        if not message.get("more_body", False):
            return b"".join(parts), message


def _again(body: bytes | None, ended: Message, receive: Receive) -> Receive:
    """Hand a body on that was read already."""
    told = False

    async def once() -> Message:
        nonlocal told
        if told:
            return await receive()
        told = True
        return ended if body is None else {"type": "http.request", "body": body, "more_body": False}

    return once


def _fault(body: bytes, kind: str) -> Fault | None:
    if kind == _FORM:
        text = unquote_plus(body.decode("utf-8", "replace"))
        return None if harmless(text) else _strange(text)
    try:
        document = json.loads(body)
    except RecursionError:
        return TOO_DEEP
    except UnicodeDecodeError:
        return Fault(Code.UNREADABLE, "What was sent is not written in UTF-8.", "Save it as UTF-8, and send it again.")
    except ValueError:
        return None  # whoever wanted JSON says that this is none
    return fault_of(document)


async def text_from(line: WebSocket) -> str:
    """Wait for what comes next on a line.

    Raises
    ------
    WebSocketDisconnect : whoever sends has gone
    ValueError : it is no text
    """
    message = await line.receive()
    if message["type"] == "websocket.disconnect":
        raise WebSocketDisconnect(message.get("code", 1005))
    text: str | None = message.get("text")
    if text is None:
        raise ValueError
    return text


def fault_of(document: Any, most_keys: int = MOST_KEYS) -> Fault | None:
    """Find what keeps a document from being taken in; None where nothing does.

    Parameters
    ----------
    document : as JSON gives it
    most_keys : so many entries it may hold

    Returns
    -------
    how deep or how many it is too much, or the first text or number that cannot be kept
    """
    keys = 0
    waiting: list[tuple[Any, int]] = [(document, 1)]
    while waiting:
        value, depth = waiting.pop()
        if isinstance(value, (dict, list)):
            if depth > MOST_DEEP:
                return TOO_DEEP
            keys += len(value)
            if keys > most_keys:
                return _too_many(mark("That holds more than {n} entries."), most_keys)
            if isinstance(value, dict) and isinstance(value.get("shapes"), list) and len(value["shapes"]) > MOST_SHAPES:
                return _too_many(mark("A job holds {n} shapes at most."), MOST_SHAPES)
            waiting += [(one, depth + 1) for one in (value.values() if isinstance(value, dict) else value)]
            waiting += [(key, depth) for key in value] if isinstance(value, dict) else []
        elif isinstance(value, str) and not harmless(value):
            return _strange(value)
        elif isinstance(value, float) and not math.isfinite(value):
            return Fault(Code.UNREADABLE, "A number without an end cannot be taken in.", "Write it out.")
    return None


def _strange(text: str) -> Fault:
    return Fault(
        Code.UNREADABLE,
        Said("“{typed}” holds letters that cannot be kept.", typed=shown(text)),
        "Write it again by hand: it was copied from somewhere.",
    )


TOO_DEEP: Final = Fault(
    Code.TOO_MANY, "That is nested deeper than anything here.", "Send a sheet as the pages send it."
)


def _too_many(msg: str, most: int) -> Fault:
    return Fault(Code.TOO_MANY, Said(msg, n=Amount(most, "whole")), "Split it.")
