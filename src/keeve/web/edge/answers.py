"""What an address answers, as /openapi.json tells it."""

from typing import Any, Final

from fastapi.responses import HTMLResponse, RedirectResponse, Response
from pydantic import Field

from keeve.core.message.errors import Frozen


class ToldFault(Frozen):
    """One thing that is wrong, in a sentence, with the way out."""

    field: str
    sentence: str
    hint: str
    station: str = Field("", description="where it is mended")
    code: str = ""
    value: Any = None
    limit: Any = None
    unit: str = ""


class ToldFaults(Frozen):
    """Why a request was not done."""

    faults: list[ToldFault]


_PAGE_TOO: Final = {"text/html": {"schema": {"type": "string"}}}
_EXAMPLE: Final = {
    "faults": [
        {
            "field": "shapes.0.post_mm",
            "sentence": "The post measures 283 mm across its widest and the hole only 250 mm.",
            "hint": "Check which of the two is the hole.",
            "station": "1 Measure",
            "code": "does_not_fit",
            "value": 282.8,
            "limit": 250.0,
            "unit": "mm",
        }
    ]
}


_REFUSED: Final = {"schema": {"$ref": "#/components/schemas/ToldFaults"}}
"""By its name: a model would be built anew for each of nine answers of each route, at the first request of each."""
TOLD_ONCE: Final[dict[int | str, dict[str, Any]]] = {500: {"model": ToldFaults, "description": "Something broke."}}
"""For one route: so the name stands for something."""


def _told(description: str, example: Any = None) -> dict[str, Any]:
    as_json = _REFUSED if example is None else _REFUSED | {"example": example}
    return {"description": description, "content": {"application/json": as_json} | _PAGE_TOO}


REFUSALS: Final[dict[int | str, dict[str, Any]]] = {
    400: _told("The body is cut short or not of its kind."),
    401: _told("The program's token is not known here."),
    403: _told("Neither a page of ours nor a program of the crew asked for this change."),
    404: _told("There is nothing at this address."),
    408: _told("The body came too slowly, or stopped half way."),
    413: _told("The body is more than this address takes."),
    415: _told("No file can be sent to this address."),
    422: _told("The trade refuses: one sentence for each fault, with the field it belongs to.", _EXAMPLE),
    429: _told("This visitor has too many things on the way."),
    503: _told("The database is away or busy: try again."),
}
"""Any address may answer so. Who takes HTML gets a page that says it, others JSON."""
PAGE: Final[dict[str, Any]] = {"response_class": HTMLResponse}
"""A page, or a part of one."""
GOES: Final[dict[str, Any]] = {"response_class": RedirectResponse, "status_code": 303}
"""Goes on to a page."""
GOES_OR_SHOWS: Final[dict[str, Any]] = GOES | {
    "responses": {200: {"description": "What is still wrong.", "content": _PAGE_TOO}}
}
SHOWS_OR_GOES: Final[dict[str, Any]] = PAGE | {"responses": {303: {"description": "There is nothing to show."}}}


def file_of(*kinds: str) -> dict[str, Any]:
    """Describe an address that hands out a file of one of some media types."""
    content = {
        kind: {
            "schema": {}
            if kind == "application/json"
            else {"type": "object"}
            if kind.endswith("+json")
            else {"type": "string"}
        }
        for kind in kinds
    }
    told = {200: {"description": "The file.", "content": content}}
    return {"response_class": Response, "responses": told}
