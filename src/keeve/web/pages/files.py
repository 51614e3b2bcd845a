"""Hands kept documents out as files."""

from typing import Any, Final, Literal

from fastapi.responses import JSONResponse, Response

TableKind = Literal["csv", "xlsx", "json"]
Kind = Literal["pdf", "csv", "xlsx", "json"]
TYPES: Final[dict[Kind, str]] = {
    "pdf": "application/pdf",
    "csv": "text/csv; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "json": "application/json",
}
"""What each kind of file is called on the wire."""


def as_file(document: Any, name: str) -> Response:
    """Hand a kept document out as a JSON file, whatever it holds."""
    return JSONResponse(document, headers={"content-disposition": f'attachment; filename="{name}.json"'})
