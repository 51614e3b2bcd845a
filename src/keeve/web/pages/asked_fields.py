"""What a mix asks for, as the fields of a page: labels in the reader's words, values as typed, its own in grey."""

from collections.abc import Mapping
from functools import reduce
from typing import Any, NamedTuple

from keeve.core.message.said import mark
from keeve.core.proportions.asked import Asked, AskedList
from keeve.core.proportions.base import Basis
from keeve.words.beside import number_beside, unit_beside
from keeve.words.putting import put
from keeve.words.reader import Reader


class AskedEntry(NamedTuple):
    """A field that is written in."""

    path: str
    label: str
    value: Any
    unit: str
    hint: str
    placeholder: str
    kind: str = "entry"
    folded: bool = False


class AskedChoice(NamedTuple):
    """A field with a few ways; the mix's own way is the empty one, for choosing it changes nothing."""

    path: str
    label: str
    value: str
    options: tuple[tuple[str, str], ...]
    kind: str = "choice"
    folded: bool = False


class AskedRows(NamedTuple):
    """Materials with an amount each."""

    path: str
    says: str
    label: str
    amount: str
    unit: str
    rows: list[Any]
    kind: str = "rows"
    folded: bool = False


Field = AskedEntry | AskedChoice | AskedRows


def asked_fields(basis: Basis, typed: Mapping[str, Any], root: str, reader: Reader, *, for_job: bool) -> list[Field]:
    """List the fields by which a basis is set, for one job or for a mix of the crew's own."""
    found: list[Field] = []
    for one in basis.asked():
        if isinstance(one, AskedList):
            if not for_job:
                found.append(_rows(basis, one, typed, root, reader))
        elif one.job if for_job else one.own:
            found.append(_field(basis, one, typed, root, reader))
    return found


def _inside(holder: Any, path: str) -> Any:
    def step(at: Any, name: str) -> Any:
        return at.get(name) if isinstance(at, Mapping) else getattr(at, name, None)

    return reduce(step, path.split("."), holder)


def _field(basis: Basis, one: Asked, typed: Mapping[str, Any], root: str, reader: Reader) -> Field:
    own, value = _inside(basis, one.field), _inside(typed, one.field)
    path, label = f"{root}.{one.field}", put(one.label, reader)
    if not one.options:
        grey = number_beside(own, one.beside, reader) if isinstance(own, int | float) else ""
        unit, hint = unit_beside(one.beside, reader), put(one.hint, reader)
        return AskedEntry(path, label, value, unit, hint, grey, folded=one.folded)
    key = _key(own)
    options = tuple(("" if name == key else name, put(words, reader)) for name, words in one.options)
    if "" not in dict(options):
        options = (("", put(mark("as the mix counts it"), reader)), *options)
    chosen = _key(value)
    return AskedChoice(path, label, "" if chosen == key else chosen, options)


def _key(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "true" if value else "false"
    return f"{value:g}" if isinstance(value, int | float) else str(value)


def _rows(basis: Basis, one: AskedList, typed: Mapping[str, Any], root: str, reader: Reader) -> AskedRows:
    rows = typed.get(one.field)
    if not isinstance(rows, list):
        rows = [
            {"material": row.material.key, one.amount: number_beside(getattr(row, one.amount), one.beside, reader)}
            for row in getattr(basis, one.field)
        ]
    unit = unit_beside(one.beside, reader)
    return AskedRows(f"{root}.{one.field}", put(one.says, reader), put(one.label, reader), one.amount, unit, rows)
