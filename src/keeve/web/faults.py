"""The one place where what went wrong becomes a page, a part of one, or JSON."""

import logging
import math
import secrets
from typing import Any

from fastapi import FastAPI, Request, status
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, Response
from pydantic import ValidationError
from sqlalchemy.exc import InterfaceError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from starlette.exceptions import HTTPException

from keeve.core.errors import Fault, TradeError, faults_of
from keeve.core.units import System, show
from keeve.web.deps import CannotBeRead, get_units
from keeve.web.render import page

log = logging.getLogger("keeve.faults")


def fault_rows(faults: tuple[Fault, ...], units: System = "metric") -> list[dict[str, Any]]:
    """Write faults as the API gives them: measures said in the reader's units."""

    def row(fault: Fault) -> dict[str, Any]:
        sentence, hint = fault.said(lambda value, unit: show(value, unit, units))
        return {
            "field": fault.field,
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


def _refused(request: Request, error: Exception) -> Response:
    faults = faults_in(error)
    if _wants_page(request):
        return page(
            request,
            "shared/sorry.html",
            status=status.HTTP_422_UNPROCESSABLE_CONTENT,
            title="That does not work yet",
            sentences=[" ".join(f.said()) for f in faults],
        )
    return JSONResponse(
        {"faults": fault_rows(faults, get_units(request))}, status_code=status.HTTP_422_UNPROCESSABLE_CONTENT
    )


def _http(request: Request, error: HTTPException) -> Response:
    sentence = str(error.detail)
    if error.status_code == status.HTTP_404_NOT_FOUND and sentence == "Not Found":
        sentence = "There is nothing at this address."
    if not _wants_page(request):
        return JSONResponse({"faults": [{"field": "", "sentence": sentence, "hint": ""}]}, error.status_code)
    return page(request, "shared/sorry.html", status=error.status_code, title="Not here", sentences=[sentence])


def _unreadable(request: Request, error: CannotBeRead) -> Response:
    log.warning("a %s cannot be read at %s", error.what, request.url.path)
    if not _wants_page(request):
        sentence = f"This {error.what} cannot be read; its raw file is at {error.raw}"
        return JSONResponse({"faults": [{"field": "", "sentence": sentence, "hint": ""}]}, 422)
    return page(
        request,
        "shared/unreadable.html",
        status=422,
        what=error.what,
        titled=error.titled,
        raw=error.raw,
        mixer=error.mixer,
    )


def _database(request: Request, error: Exception) -> Response:
    log.warning("database unreachable: %s", type(error).__name__)
    sentence = "Keeve cannot reach its memory just now. Nothing is lost; it tries again by itself."
    if not _wants_page(request):
        return JSONResponse(
            {"faults": [{"field": "", "sentence": sentence, "hint": ""}]},
            status.HTTP_503_SERVICE_UNAVAILABLE,
            {"retry-after": "3"},
        )
    answer = page(request, "shared/sorry.html", status=503, title="One moment", sentences=[sentence], again_after_s=3)
    answer.headers["retry-after"] = "3"
    return answer


def _unknown(request: Request, error: Exception) -> Response:
    number = secrets.token_hex(4)
    log.error("fault %s at %s", number, request.url.path, exc_info=error)
    sentence = f"Something broke on our side. Nothing you entered is lost. If it happens again, say number {number}."
    if not _wants_page(request):
        return JSONResponse({"faults": [{"field": "", "sentence": sentence, "hint": ""}]}, 500)
    return page(request, "shared/sorry.html", status=500, title="Sorry", sentences=[sentence])


def install(app: FastAPI) -> None:
    """Teach the app to say what went wrong."""
    for kind in (TradeError, RequestValidationError, ValidationError):
        app.add_exception_handler(kind, _refused)
    app.add_exception_handler(HTTPException, _http)  # type: ignore[arg-type]
    app.add_exception_handler(CannotBeRead, _unreadable)  # type: ignore[arg-type]
    app.add_exception_handler(OperationalError, _database)
    app.add_exception_handler(InterfaceError, _database)
    app.add_exception_handler(PoolTimeout, _database)
    app.add_exception_handler(Exception, _unknown)
