"""A made-up language, accented and longer by two fifths: on a page it shows what nobody can translate, or is cut."""

import math
import re
from typing import Final

from babel.messages.catalog import Catalog

MADE_UP: Final = "en-XA"
_FROM: Final = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz"
_TO: Final = "ÀƁÇÐÉƑĜĤÎĴĶĻṀÑÕÞǪŔŠŢÛṼŴẊÝŽàƀçđéƒĝĥîĵķļɱñõþǫŕšţûṽŵẋýž"
_ACCENTS: Final = str.maketrans(_FROM, _TO)
_FIELD: Final = re.compile(r"(\{[a-z_]+[0-9]?\})")
_LONGER: Final = 0.4
_WORD: Final = 6


def accented(text: str) -> str:
    """Write a message in the made-up language; its fields stay.

    >>> accented("Pour {water}")
    'Þõûŕ {water} ẋẋ'
    """
    parts = _FIELD.split(text)
    said = "".join(part if i % 2 else part.translate(_ACCENTS) for i, part in enumerate(parts))
    letters = sum(len(part) for part in parts[::2])
    more = math.ceil(letters * _LONGER)
    padding = " ".join("ẋ" * min(_WORD, more - at) for at in range(0, more, _WORD))
    return f"{said} {padding}" if letters > 1 else said


def made_up(messages: Catalog) -> Catalog:
    """Translate every message into the made-up language."""
    catalog = Catalog(locale="en")
    for message in messages:
        if isinstance(message.id, (tuple, list)):
            catalog.add(tuple(message.id), tuple(map(accented, message.id)))
        elif message.id:
            catalog.add(message.id, accented(message.id))
    return catalog
