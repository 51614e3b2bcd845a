"""Puts a message into the reader's language and units."""

from typing import Any

from babel.lists import format_list

from keeve.core.message.said import AS_TYPED, COUNT, Amount, Msg, Names, Words, fill
from keeve.words.catalogues import ENGLISH, translations
from keeve.words.reader import METRIC, Reader, locale_of
from keeve.words.showing import show


def _listed(names: Names, reader: Reader) -> str:
    said = [put(name, reader) for name in names.names]
    if reader.language == ENGLISH:  # other languages keep their capitals
        said = [one if i == 0 else one[:1].lower() + one[1:] for i, one in enumerate(said)]
    return format_list(said, locale=locale_of(reader.language)) if said else ""


def _shown(name: str, value: Any, reader: Reader) -> str:
    if type(value) is str:  # a name of ours, as most are, or as a person typed it
        return value if name in AS_TYPED else translated(value, reader)
    if isinstance(value, Amount):
        return show(value.value, value.unit, reader)
    return _listed(value, reader) if isinstance(value, Names) else put(value, reader)


def translated(msg: Msg, reader: Reader, count: int = 1) -> str:
    """Look a message up; whatever no catalogue knows is returned as it is."""
    if isinstance(msg, str):
        # An empty message is a catalogue's own header.
        return msg if reader.language == ENGLISH or not msg else str(translations(reader.language).gettext(msg))
    one, other = msg
    if reader.language == ENGLISH:
        return one if count == 1 else other
    return str(translations(reader.language).ngettext(one, other, count))


def put(words: Words, reader: Reader = METRIC) -> str:
    """Put a message into the reader's language and units.

    >>> from keeve.core.message.said import Amount, Said
    >>> from keeve.words.reader import US
    >>> put(Said("Pour {water}.", water=Amount(18.927, "L")), US)
    'Pour 5.00 gal.'
    """
    if isinstance(words, str):
        return translated(words, reader)
    msg, shown = words.msg, {name: _shown(name, value, reader) for name, value in words.values}
    if isinstance(msg, str):
        return fill(translated(msg, reader), shown)
    counted = dict(words.values).get(COUNT)
    count = round(counted.value) if isinstance(counted, Amount) else 1
    return fill(translated(msg, reader, count), shown)


def t(reader: Reader, msg: str, **values: Any) -> str:
    """Say a message of a page: fields may be words, or text that is ready.

    >>> from keeve.core.message.said import Amount, Said
    >>> t(METRIC, "{a} of {b}", a="1", b=Said("{x} more", x=Amount(2, "L")))
    '1 of 2.00 L more'
    """
    text = translated(msg, reader)
    return fill(text, {name: _shown(name, value, reader) for name, value in values.items()}) if values else text
