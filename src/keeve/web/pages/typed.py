"""A document as somebody typed it, for templates: what is not in it is empty, whatever else it may hold."""

from collections.abc import Mapping
from typing import Any


class TypedDocument(dict[str, Any]):
    """Entries by their names; one nobody made is None, so that a template need not ask whether it is there."""

    def __missing__(self, name: str) -> None:
        return None


def typed(document: Any) -> Any:
    """Return a document whose parts may be asked for anything; what is no document is an empty one."""
    if isinstance(document, Mapping):
        return TypedDocument({str(name): _part(value) for name, value in document.items()})
    return TypedDocument()


def _part(value: Any) -> Any:
    if isinstance(value, Mapping):
        return typed(value)
    return [_part(one) for one in value] if isinstance(value, list) else value
