"""Mixes in and out: a JSON document with a version, and the JSON Schema it keeps to."""

import json
from typing import Any, Final, Literal

from pydantic import Field

from keeve.core.message.errors import Frozen
from keeve.core.mixes.mix import Mix

VERSION: Final = 1


class MixFile(Frozen):
    """One mix as it is handed on."""

    keeve_mix: Literal[1] = Field(1, description="version of this format")
    mix: Mix


def write_mix(mix: Mix) -> str:
    """Write a mix as an exchange file; what a person typed stands in it as plain text."""
    return json.dumps(_plainly(MixFile(mix=mix).model_dump(mode="json")), indent=2, ensure_ascii=False) + "\n"


def _plainly(document: Any) -> Any:
    match document:
        case dict():
            return {name: _plainly(value) for name, value in document.items()}
        case [str(), {"text": str(text)}] if len(document[1]) == 1:
            return text
        case list():
            return [_plainly(one) for one in document]
    return document


def read_mix(text: str | bytes) -> Mix:
    """Read an exchange file.

    Raises
    ------
    pydantic.ValidationError : not such a file, another version, or a mix that makes no sense
    """
    return MixFile.model_validate_json(text).mix


def mix_schema() -> dict[str, Any]:
    """Return the JSON Schema of an exchange file."""
    return MixFile.model_json_schema() | {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"Keeve mix, version {VERSION}",
    }
