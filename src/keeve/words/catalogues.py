"""The translations: one `.po` a language, read once; a broken entry falls back to English and is logged."""

import logging
from collections.abc import Sequence
from functools import cache
from io import BytesIO
from pathlib import Path
from typing import Final

from babel.messages.catalog import Catalog
from babel.messages.mofile import write_mo
from babel.messages.pofile import PoFileError, read_po
from babel.support import NullTranslations, Translations

from keeve.core.message.said import fields
from keeve.words.made_up import MADE_UP, made_up

ENGLISH: Final = "en"
FOLDER: Final = Path(__file__).parent / "locale"
ALL_MESSAGES: Final = FOLDER / "messages.pot"

log = logging.getLogger("keeve.words")


def languages() -> tuple[str, ...]:
    """Return the languages there are: English, those translated, and the made-up one that tests the pages."""
    return (ENGLISH, *_translated_in(FOLDER), MADE_UP)


@cache
def _translated_in(folder: Path) -> tuple[str, ...]:
    return tuple(sorted(path.stem for path in folder.glob("*.po")))


@cache
def every_message() -> Catalog:
    """Return all messages there are, as they were collected from the code."""
    with ALL_MESSAGES.open("rb") as file:
        return read_po(file)


def fits(msg: str | Sequence[str], translated: object) -> bool:
    """Say whether a translation has the fields of its message and no others."""
    texts = (translated,) if isinstance(translated, str) else tuple(translated) if isinstance(translated, tuple) else ()
    one = (msg,) if isinstance(msg, str) else msg
    wanted, most = fields(one[-1]), frozenset().union(*map(fields, one))
    return bool(texts) and all(isinstance(t, str) and (fields(t) == wanted or fields(t) == fields(one[0]))
                               and fields(t) <= most for t in texts)  # fmt: skip


def compiled(catalog: Catalog, name: str) -> NullTranslations:
    """Return what looks translations up; entries whose fields do not fit, or a broken plural, are left in English."""
    for message in list(catalog):
        if message.id and message.string and any(message.string) and not fits(message.id, message.string):
            log.warning("%s: the fields of a translation do not fit: %r", name, message.id)
            catalog.delete(message.id)
    file = BytesIO()
    write_mo(file, catalog)
    file.seek(0)
    try:
        return Translations(file)
    except (ValueError, SyntaxError):
        log.warning("%s: its rule for plurals cannot be read; English is shown", name)
        return NullTranslations()


@cache
def translations(language: str) -> NullTranslations:
    """Return the translations of a language; none for English, or for one nobody knows."""
    if language == MADE_UP:
        return compiled(made_up(every_message()), language)
    path = FOLDER / f"{language}.po"
    if language == ENGLISH or language not in languages():
        return NullTranslations()
    try:
        with path.open("rb") as file:
            return compiled(read_po(file, locale=language.replace("-", "_"), abort_invalid=True), language)
    except (PoFileError, ValueError, OSError) as error:
        log.warning("%s cannot be read: %s; English is shown", path.name, error)
        return NullTranslations()


@cache
def script_messages(language: str) -> dict[str, str | list[str]]:
    """Return what the scripts of the pages say, in a language; nothing for English, which they hold themselves."""
    if language == ENGLISH:
        return {}
    found = translations(language)
    said: dict[str, str | list[str]] = {}
    for message in every_message():
        if not any(path.endswith(".js") for path, _ in message.locations):
            continue
        if isinstance(message.id, tuple | list):
            one, other = message.id
            said[one] = [str(found.ngettext(one, other, 1)), str(found.ngettext(one, other, 2))]
        elif message.id:
            said[message.id] = str(found.gettext(message.id))
    return said
