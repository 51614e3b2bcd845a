"""The mixes of a shelf as lists show them, by family; those that ship are put into words once for each reader."""

from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

from keeve.catalogue import OWN, Catalogue, load_catalogue
from keeve.core.mixes.mix import Mix
from keeve.words.putting import put, translated
from keeve.words.reader import Reader


class MixRow(NamedTuple):
    """One mix of a list."""

    key: str
    family: str
    name: str
    use: str
    suits: str
    """Keys of the mixers it is mixed in."""
    words: str
    """Words of the trade by which it is found besides, one to a stroke."""


class MixFamily(NamedTuple):
    """Mixes of one kind, under its name."""

    name: str
    members: tuple[MixRow, ...]


def _row(mix: Mix, shelf: Catalogue, reader: Reader) -> MixRow:
    words = "|".join(shelf.found_by.get(mix.key, ()))
    suits = " ".join(mixer.key for mixer in shelf.mixers_for(mix))
    return MixRow(mix.key, mix.family, put(mix.name, reader), put(mix.use, reader), suits, words)


@lru_cache(maxsize=32)
def _shipped(reader: Reader) -> tuple[MixRow, ...]:
    shelf = load_catalogue()
    return tuple(_row(mix, shelf, reader) for mix in shelf.mixes.values())


@lru_cache(maxsize=32)
def own_rows(shelf: Catalogue, reader: Reader) -> tuple[MixRow, ...]:
    """List the crew's own mixes."""
    return tuple(_row(mix, shelf, reader) for key, mix in shelf.mixes.items() if key.startswith(OWN))


def families(rows: Sequence[MixRow], reader: Reader) -> tuple[MixFamily, ...]:
    """Put given mixes, and after them those that ship, under their families in the order of their names."""
    found: dict[str, list[MixRow]] = {}
    for row in (*rows, *_shipped(reader)):
        found.setdefault(row.family, []).append(row)
    named = ((translated(family, reader), found[family]) for family in sorted(found))
    return tuple(MixFamily(name[:1].upper() + name[1:], tuple(members)) for name, members in named)
