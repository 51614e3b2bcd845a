"""Hands kept documents out as files."""

from typing import Any

from fastapi.responses import JSONResponse, Response


def as_file(document: Any, name: str) -> Response:
    """Hand a kept document out as a JSON file, whatever it holds."""
    return JSONResponse(document, headers={"content-disposition": f'attachment; filename="{name}.json"'})
