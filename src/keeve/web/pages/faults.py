"""The one place where what went wrong becomes a page, a part of one, or JSON."""

import math
from collections.abc import Mapping
from typing import Any, Final

import structlog
from fastapi import FastAPI, Request, status
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, Response
from psycopg.errors import LockNotAvailable, QueryCanceled
from pydantic import ValidationError
from sqlalchemy.exc import DataError, InterfaceError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from starlette.exceptions import HTTPException

from keeve.core.message.errors import Code, Fault, TradeError, UnitError, faults_of
from keeve.core.message.said import Said, mark
from keeve.web.asking.deps import CannotBeRead, get_reader
from keeve.web.pages.render import page
from keeve.web.pages.stations import station_of
from keeve.words.putting import put, t
from keeve.words.reader import METRIC, Reader

log = structlog.stdlib.get_logger("keeve.faults")


def fault_rows(faults: tuple[Fault, ...], reader: Reader = METRIC) -> list[dict[str, Any]]:
    """Write faults as the API gives them: measures said in the reader's units."""

    def row(fault: Fault) -> dict[str, Any]:
        sentence, hint = put(fault.sentence, reader), put(fault.hint, reader)
        return {
            "field": fault.field,
            "station": put(station_of(fault.field), reader),
            "sentence": sentence,
            "hint": hint,
            "code": fault.code,
            "value": None if isinstance(fault.value, float) and not math.isfinite(fault.value) else fault.value,
            "limit": fault.limit,
            "unit": fault.unit,
        }

    return [row(fault) for fault in faults]


def faults_in(error: Exception) -> tuple[Fault, ...]:
    """Find the faults an exception carries."""
    if isinstance(error, TradeError):
        return error.faults
    if isinstance(error, RequestValidationError):
        return faults_of(list(error.errors()))
    return faults_of(error) if isinstance(error, ValidationError) else ()


def _wants_page(request: Request) -> bool:
    return "text/html" in request.headers.get("accept", "") and not request.url.path.startswith("/api/")


def refused(request: Request, error: Exception) -> Response:
    """Answer a request that the trade refuses, as a page or as JSON."""
    faults = faults_in(error)
    if _wants_page(request):
        return page(
            request,
            "shared/sorry.html",
            status=status.HTTP_422_UNPROCESSABLE_CONTENT,
            title=t(get_reader(request), "That does not work yet"),
            sentences=[f"{row['sentence']} {row['hint']}" for row in fault_rows(faults, get_reader(request))],
        )
    return JSONResponse(
        {"faults": fault_rows(faults, get_reader(request))}, status_code=status.HTTP_422_UNPROCESSABLE_CONTENT
    )


def _said(sentence: str, status_code: int, headers: Mapping[str, str] | None = None) -> JSONResponse:
    return JSONResponse({"faults": [{"field": "", "sentence": sentence, "hint": ""}]}, status_code, headers)


_TITLES: Final = {
    status.HTTP_404_NOT_FOUND: mark("Not here"),
    status.HTTP_405_METHOD_NOT_ALLOWED: mark("Not here"),
    status.HTTP_413_CONTENT_TOO_LARGE: mark("Too much at once"),
}


def said_by_http(request: Request, error: HTTPException) -> Response:
    """Answer what the web itself refuses: nothing there, too much, too slow, not allowed."""
    reader = get_reader(request)
    detail = error.detail
    if detail == "Not Found":
        detail = mark("There is nothing at this address.")
    elif error.status_code == status.HTTP_400_BAD_REQUEST:
        detail = mark("What was sent is cut short, or not of its kind.")
    elif detail == "Method Not Allowed":
        detail = mark("This address does not take that.")
    sentence = put(detail if isinstance(detail, Said) else str(detail), reader)
    if not _wants_page(request):
        return _said(sentence, error.status_code, error.headers)
    title = t(reader, _TITLES.get(error.status_code, mark("Not now")))
    answer = page(request, "shared/sorry.html", status=error.status_code, title=title, sentences=[sentence])
    answer.headers.update(error.headers or {})
    return answer


def _unreadable(request: Request, error: CannotBeRead) -> Response:
    log.warning("row cannot be read", what=error.what, path=request.url.path, number=number_of(request))
    if not _wants_page(request):
        reader = get_reader(request)
        return _said(t(reader, "{what}; its raw file is at {raw}", what=error.what, raw=error.raw), 422)
    return page(
        request,
        "shared/unreadable.html",
        status=422,
        what=error.what,
        titled=error.titled,
        raw=error.raw,
        mixer=error.mixer,
    )


_AWAY: Final = mark("Keeve cannot reach its memory just now. Nothing is lost; it tries again by itself.")
_TOOK_TOO_LONG: Final = mark(
    "Keeve is very busy just now, and this took too long. Nothing is lost; try again in a moment."
)


def _database(request: Request, error: Exception) -> Response:
    log.warning("database unreachable", kind=type(error).__name__, number=number_of(request))
    reader = get_reader(request)
    cause = getattr(error, "orig", None)
    # No connection to be had in time, a question or a lock that took too long: it is there, but busy.
    busy = isinstance(error, PoolTimeout) or isinstance(cause, QueryCanceled | LockNotAvailable)
    sentence = t(reader, _TOOK_TOO_LONG if busy else _AWAY)
    if not _wants_page(request):
        return _said(sentence, status.HTTP_503_SERVICE_UNAVAILABLE, {"retry-after": "3"})
    title = t(reader, "One moment")
    answer = page(request, "shared/sorry.html", status=503, title=title, sentences=[sentence], again_after_s=3)
    answer.headers["retry-after"] = "3"
    return answer


def _not_kept(request: Request, error: Exception) -> Response:
    """Say that the database takes no such number or text: whoever let it through should have said so before."""
    log.error("database refused a value", path=request.url.path, number=number_of(request), exc_info=error)
    said = Fault(Code.UNREADABLE, "Something in that cannot be kept.", "Write it anew.")
    return refused(request, UnitError(said))


def number_of(request: Request) -> str:
    """Return the number by which a request is found in the log again."""
    return str(getattr(request.state, "number", "-"))


def unknown(request: Request, error: Exception) -> Response:
    """Answer a request at which something of ours broke."""
    number = number_of(request)
    log.error("fault", number=number, path=request.url.path, exc_info=error)
    reader = get_reader(request)
    sentence = t(
        reader,
        "Something broke on our side. Nothing you entered is lost. If it happens again, say number {number}.",
        number=number,
    )
    if not _wants_page(request):
        return _said(sentence, 500)
    return page(request, "shared/sorry.html", status=500, title=t(reader, "Sorry"), sentences=[sentence])


def install(app: FastAPI) -> None:
    """Teach the app to say what went wrong; what nobody expected, the guard of all answers says."""
    for kind in (TradeError, RequestValidationError, ValidationError):
        app.add_exception_handler(kind, refused)
    app.add_exception_handler(HTTPException, said_by_http)  # type: ignore[arg-type]
    app.add_exception_handler(CannotBeRead, _unreadable)  # type: ignore[arg-type]
    app.add_exception_handler(OperationalError, _database)
    app.add_exception_handler(DataError, _not_kept)
    app.add_exception_handler(InterfaceError, _database)
    app.add_exception_handler(PoolTimeout, _database)
