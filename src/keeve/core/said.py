"""What is said is kept as a message and its quantities; words and units come where it is shown."""

import re
from collections.abc import Callable
from functools import lru_cache
from typing import Any, Final, NamedTuple

from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic_core import CoreSchema, core_schema

from keeve.core.units import System, show

_FIELD: Final = re.compile(r"\{([a-z_]+)\}")
_PLACES: Final = {"ratio": 2, "whole": 0}
"""Decimals of figures that have no unit of measure."""


@lru_cache(maxsize=4096)  # stored documents may hold anything
def _fields(msg: str) -> frozenset[str]:
    return frozenset(_FIELD.findall(msg))


class Amount(NamedTuple):
    """A quantity inside a message, in the core's unit."""

    value: float
    unit: str


def percent(value: float) -> Amount:
    """Return a share [%]. Plain arithmetic."""
    return Amount(value, "%")


class Names(NamedTuple):
    """Names that stand in a message one after another: cement and lime."""

    names: tuple[str, ...]


class Said:
    """A message with its quantities. A message that has none is a plain string: see `Words`.

    Values are amounts, names as typed (plain strings, shown verbatim), lists of names, or messages again. They are
    kept sorted, so that a database which reorders keys changes nothing.

    >>> Said("The {heap} brings {water} too much.", heap="sand", water=Amount(3.1, "L")).json()
    ['The {heap} brings {water} too much.', {'heap': 'sand', 'water': ['L', 3.1]}]
    """

    __slots__ = ("msg", "values")
    msg: str
    values: tuple[tuple[str, Any], ...]

    def __init__(self, msg: str, **values: Any) -> None:
        if values.keys() != _fields(msg):
            missing = values.keys() ^ _fields(msg)
            raise ValueError(f"“{msg}” and its quantities do not fit: {', '.join(sorted(missing))}")
        object.__setattr__(self, "msg", msg)
        object.__setattr__(self, "values", tuple(sorted(values.items())))

    def __setattr__(self, name: str, value: object) -> None:
        raise AttributeError(name)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Said) and (self.msg, self.values) == (other.msg, other.values)

    def __hash__(self) -> int:
        return hash((self.msg, self.values))

    def __repr__(self) -> str:
        return f"Said({self.msg!r}, {dict(self.values)!r})"

    def json(self) -> list[Any]:
        """Return what is stored: the message, and its quantities by name."""
        return [self.msg, {name: _value_json(value) for name, value in self.values}]

    @classmethod
    def __get_pydantic_core_schema__(cls, _source: Any, _handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.no_info_plain_validator_function(
            _read, serialization=core_schema.plain_serializer_function_ser_schema(lambda said: said.json())
        )

    @classmethod
    def __get_pydantic_json_schema__(cls, _schema: CoreSchema, _handler: GetJsonSchemaHandler) -> dict[str, Any]:
        return {
            "type": "array",
            "description": "a message, and the quantities its fields stand for",
            "prefixItems": [{"type": "string"}, {"type": "object"}],
            "minItems": 2,
            "maxItems": 2,
        }


Words = str | Said
"""A message: a plain string where it holds no quantity."""


def _value_json(value: Any) -> Any:
    if isinstance(value, Amount):
        return [value.unit, value.value]
    if isinstance(value, Names):
        return {"names": list(value.names)}
    return {"said": value.json()} if isinstance(value, Said) else str(value)


def _read(given: Any) -> Said:
    if isinstance(given, Said):
        return given
    pair = isinstance(given, (list, tuple)) and len(given) == 2
    if not pair or not isinstance(given[0], str) or not isinstance(given[1], dict):
        raise ValueError("A message is a text and its quantities.")
    msg, values = given
    return Said(msg, **{str(key): _read_value(value) for key, value in values.items()})


def _read_value(given: Any) -> Any:
    if isinstance(given, str):
        return given
    if isinstance(given, (list, tuple)) and len(given) == 2 and isinstance(given[0], str):
        return Amount(float(given[1]), given[0])
    if isinstance(given, dict) and isinstance(given.get("names"), list):
        return Names(tuple(str(one) for one in given["names"]))
    if isinstance(given, dict) and "said" in given:
        return _read(given["said"])
    raise ValueError("This quantity of a message cannot be read.")


def _shown(value: Any, system: System) -> str:
    if isinstance(value, Amount):
        places = _PLACES.get(value.unit)
        return show(value.value, value.unit, system) if places is None else f"{value.value:.{places}f}"
    if isinstance(value, Names):
        return " and ".join(one if i == 0 else one[:1].lower() + one[1:] for i, one in enumerate(value.names))
    return put(value, system) if isinstance(value, Said) else str(value)


def put(words: Words, system: System) -> str:
    """Put a message into the reader's units.

    Parameters
    ----------
    words : a message
    system : units of the reader

    Returns
    -------
    the sentence

    References
    ----------
    Common practice, no source.

    >>> put(Said("Pour {water}.", water=Amount(18.927, "L")), "us")
    'Pour 5.00 gal.'
    """
    if isinstance(words, str):
        return words
    values = dict(words.values)
    fill: Callable[[re.Match[str]], str] = lambda found: _shown(values[found[1]], system)  # noqa: E731
    return _FIELD.sub(fill, words.msg)


def plain(words: Words) -> str:
    """Put a message into metric units, for logs and terminals. Common practice, no source."""
    return put(words, "metric")
