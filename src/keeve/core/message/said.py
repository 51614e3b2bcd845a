"""What is said is kept as a message and its quantities; words and units come where it is shown."""

import re
from collections.abc import Callable, Mapping
from functools import lru_cache
from typing import Any, Final, NamedTuple

from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic_core import CoreSchema, core_schema

_FIELD: Final = re.compile(r"\{([a-z_]+[0-9]?)\}")
COUNT: Final = "n"
"""The field whose whole number chooses between one and many."""
PLACES: Final = {"ratio": 2, "whole": 0, "tenths": 1}
"""Decimals of figures that have no unit of measure."""
Msg = str | tuple[str, str]
"""The English sentence with its fields; two where one thing is said otherwise than many."""


@lru_cache(maxsize=4096)  # stored documents may hold anything
def fields(msg: str) -> frozenset[str]:
    """Return the names of the fields in a message.

    >>> sorted(fields("Pour {water} into {n} loads."))
    ['n', 'water']
    """
    return frozenset(_FIELD.findall(msg))


def fill(text: str, shown: Mapping[str, str]) -> str:
    """Put what each field stands for in its place; whatever else has braces was typed, and stays.

    >>> fill("Pour {water} {now}.", {"water": "3.1 L"})
    'Pour 3.1 L {now}.'
    """
    put: Callable[[re.Match[str]], str] = lambda found: shown.get(found[1], found[0])  # noqa: E731
    return _FIELD.sub(put, text)


AS_TYPED: Final = frozenset({"typed", "text", "job", "file", "host", "key", "number", "numbers", "day"})
"""Fields that hold what a person typed, or a figure: never looked up as a message, whatever they say."""
_VERBATIM: Final = "{text}"


class Amount(NamedTuple):
    """A quantity inside a message, in the core's unit."""

    value: float
    unit: str


def percent(value: float) -> Amount:
    """Return a share [%]. Plain arithmetic."""
    return Amount(value, "%")


ROUND: Final = "~"
"""Before a unit: the figure is a round one, and is said without trailing zeros."""
ONE_M3: Final = "one m³"
ONE_M2: Final = "one m²"
WHOLE: Final = Amount(1.0, ONE_M3)
"""The volume for which contents are told: one cubic metre, or the cubic yard of a US reader."""
FACE: Final = Amount(1.0, ONE_M2)
"""The area for which contents are told: one square metre, or the square foot of a US reader."""


class Names(NamedTuple):
    """Names that stand in a message one after another: cement and lime."""

    names: "tuple[Words, ...]"


class Said:
    """A message with its quantities. A message that has none is a plain string: see `Words`.

    Values are amounts, names (a catalogue's, or as typed), lists of names, or messages again. They are kept sorted, so
    that a database which reorders keys changes nothing.

    >>> Said("The {heap} brings {water} too much.", heap="sand", water=Amount(3.1, "L")).json()
    ['The {heap} brings {water} too much.', {'heap': 'sand', 'water': ['L', 3.1]}]
    """

    __slots__ = ("msg", "values")
    msg: Msg
    values: tuple[tuple[str, Any], ...]

    def __init__(self, msg: Msg, **values: Any) -> None:
        wanted = fields(msg) if isinstance(msg, str) else fields(msg[0]) | fields(msg[1]) | {COUNT}
        if values.keys() != wanted:
            missing = values.keys() ^ wanted
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
        msg = self.msg if isinstance(self.msg, str) else list(self.msg)
        return [msg, {name: _value_json(value) for name, value in self.values}]

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
            "items": {
                "anyOf": [{"type": "string"}, {"type": "array", "items": {"type": "string"}}, {"type": "object"}]
            },
            "minItems": 2,
            "maxItems": 2,
        }


Words = str | Said
"""A message: a plain string where it holds no quantity."""


def measured(msg: str, value: float | None, limit: float | None, unit: str) -> Words:
    """Say a message that may speak of a {value} [unit] and a {limit} [unit]. Plain arithmetic.

    >>> plain(measured("It holds {value} too much.", 3.1, None, "L"))
    'It holds 3.1 L too much.'
    """
    given = {"value": value, "limit": limit}
    said = {name: Amount(number, unit) for name, number in given.items() if name in fields(msg) and number is not None}
    return Said(msg, **said) if said else msg


def many(one: str, other: str, n: int, **values: Any) -> Said:
    """Say a count [-]: one message for one, another for many; the reader's language may have more. Plain arithmetic.

    >>> plain(many("1 load of {mix}", "{n} loads of {mix}", 3, mix="render"))
    '3 loads of render'
    """
    return Said((one, other), n=Amount(n, "whole"), **values)


def mark(msg: str) -> str:
    """Mark a message that stands in a table, so that it is found when messages are collected.

    >>> mark("in the water")
    'in the water'
    """
    return msg


def verbatim(text: str) -> Words:
    """Return a name as a person typed it: said so in every language, though it may be a word of ours.

    >>> verbatim("Measure").json(), verbatim("")
    (['{text}', {'text': 'Measure'}], '')
    """
    return Said(_VERBATIM, text=text) if text else text


def as_typed(words: Words) -> str | None:
    """Return what was typed; None for a message of ours.

    >>> as_typed(verbatim("Measure")), as_typed("Measure")
    ('Measure', None)
    """
    return str(dict(words.values)["text"]) if isinstance(words, Said) and words.msg == _VERBATIM else None


def _value_json(value: Any) -> Any:
    if isinstance(value, Amount):
        return [value.unit, value.value]
    if isinstance(value, Names):
        return {"names": [words_json(name) for name in value.names]}
    return {"said": value.json()} if isinstance(value, Said) else str(value)


def _read(given: Any) -> Said:
    if isinstance(given, Said):
        return given
    pair = isinstance(given, (list, tuple)) and len(given) == 2
    if not pair or not isinstance(given[1], dict):
        raise ValueError("A message is a text and its quantities.")
    msg, values = given
    if isinstance(msg, (list, tuple)) and len(msg) == 2 and all(isinstance(one, str) for one in msg):
        msg = (msg[0], msg[1])
    elif not isinstance(msg, str):
        raise ValueError("A message is a text and its quantities.")
    return Said(msg, **{str(key): _read_value(value) for key, value in values.items()})


def _read_value(given: Any) -> Any:
    if isinstance(given, str):
        return given
    if isinstance(given, (list, tuple)) and len(given) == 2 and isinstance(given[0], str):
        return Amount(float(given[1]), given[0])
    if isinstance(given, dict) and isinstance(given.get("names"), list):
        return Names(tuple(read_words(one) for one in given["names"]))
    if isinstance(given, dict) and "said" in given:
        return _read(given["said"])
    raise ValueError("This quantity of a message cannot be read.")


def words_json(words: Words) -> Any:
    """Return what is stored of words.

    >>> words_json(Said("Pour {water}.", water=Amount(3.1, "L"))), words_json("Mix.")
    (['Pour {water}.', {'water': ['L', 3.1]}], 'Mix.')
    """
    return words if isinstance(words, str) else words.json()


def read_words(given: Any) -> Words:
    """Read words as they are stored; what is no text and no message raises ValueError.

    >>> read_words("Mix."), plain(read_words(["Pour {water}.", {"water": ["L", 3.1]}]))
    ('Mix.', 'Pour 3.1 L.')
    """
    return given if isinstance(given, str) else _read(given)


def figures(value: float) -> str:
    """Write a figure [any unit] with four digits, or all of them where it has more before the point.

    >>> figures(0.61234), figures(100_000), figures(2650.0)
    ('0.6123', '100000', '2650')
    """
    return f"{value:.4g}" if abs(value) < 9999.5 else f"{value:.0f}"


def shown(value: float, unit: str) -> str:
    """Write a value [the core's own unit, as named] with four figures at most.

    >>> shown(3.1, "L"), shown(0.617, "ratio"), shown(4, "whole")
    ('3.1 L', '0.62', '4')
    """
    unit = unit.removeprefix(ROUND).removesuffix(" in 1 m³").removesuffix("in 1 m³")
    if unit in (ONE_M3, ONE_M2):
        return unit.replace("one", "1")
    places = PLACES.get(unit)
    return f"{value:.{places}f}" if places is not None else f"{figures(value)} {unit}".strip()


def _plain_value(value: Any) -> str:
    if isinstance(value, Amount):
        return shown(*value)
    if isinstance(value, Names):
        return " and ".join(
            one if i == 0 else one[:1].lower() + one[1:] for i, one in enumerate(map(plain, value.names))
        )
    return plain(value)


def plain(words: Words) -> str:
    """Write a message in English and the core's own units: for logs and for programs. Common practice, no source.

    >>> plain(Said("Pour {water}.", water=Amount(18.927, "L")))
    'Pour 18.93 L.'
    """
    if isinstance(words, str):
        return words
    values = dict(words.values)
    msg = words.msg
    if not isinstance(msg, str):
        msg = msg[0] if round(values[COUNT].value) == 1 else msg[1]
    return fill(msg, {name: _plain_value(value) for name, value in values.items()})
