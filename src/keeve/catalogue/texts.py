"""Texts of the catalogue's records: which fields people read, and the quantities that stand in them."""

import re
from typing import Any, Final

from keeve.core.message.said import ROUND, Amount, Said, Words

READ: Final = frozenset(
    ("name", "use", "family", "short", "source", "test", "dry", "right", "wet", "too_dry", "too_wet", "stiffened",
     "sentence", "title", "detail", "question", "why", "says", "refused", "when", "pack_word", "kind",
     "role", "measure", "look", "good_for", "clean", "leftover", "asks", "how", "out", "what")
)  # fmt: skip
"""Fields of the records that people read."""
_QUANTITY: Final = re.compile(r"\{(?P<value>-?[0-9.]+) (?P<unit>[^{}]+)\}")


def _parted(text: str) -> tuple[str, dict[str, Amount]]:
    given: dict[str, Amount] = {}

    def field(found: re.Match[str]) -> str:
        name = chr(ord("a") + len(given))
        given[name] = Amount(float(found["value"]), f"{ROUND}{found['unit']}")
        return f"{{{name}}}"

    return _QUANTITY.sub(field, text), given


def msg_of(text: str) -> str:
    """Return the message of a text: its quantities are fields.

    >>> msg_of("At {21 °C} it sets in {90 min}.")
    'At {a} it sets in {b}.'
    """
    return _parted(text)[0]


def said_of(text: str) -> Words:
    """Read a text of a record; where it holds quantities it becomes a message with them.

    >>> said_of("Not under {5 °C}.").json()
    ['Not under {a}.', {'a': ['~°C', 5.0]}]
    """
    msg, given = _parted(text)
    return Said(msg, **given) if given else text


def with_quantities(value: Any, key: str = "") -> Any:
    """Put messages in the place of a record's texts that hold quantities."""
    if isinstance(value, dict):
        return {name: with_quantities(one, key if key in ("refused",) else name) for name, one in value.items()}
    if isinstance(value, list):
        return [with_quantities(one, key) for one in value]
    return said_of(value) if isinstance(value, str) and key in READ else value


def texts_in(value: Any, key: str = "") -> list[str]:
    """Collect the texts of a record that people read, tables in them too."""
    if isinstance(value, dict):
        return [text for name, one in value.items() for text in texts_in(one, key if key == "refused" else name)]
    if isinstance(value, list):
        return [text for one in value for text in texts_in(one, key)]
    return [value] if isinstance(value, str) and value and key in READ else []
