"""The sieve sheet of a heap: which of the crew's it is, and what it says of the sand."""

from typing import Any, NamedTuple

from keeve.catalogue import SandResult
from keeve.catalogue.sand_test import SandSide
from keeve.core.yard.day_log import Entry, last_change, sieved
from keeve.store.rows.book_store import readable
from keeve.web.asking.deps import Desk
from keeve.web.asking.entries import try_sand


class HeapSieve(NamedTuple):
    """A heap's sieve sheet."""

    key: str
    name: str
    result: SandResult | None
    """None where nothing was weighed yet."""
    side: SandSide | None
    """The sand that is judged: the blend, where two are mixed."""
    older: bool
    """Whether another delivery came since it was said."""


def sieves_of(at: Desk, log: tuple[Entry, ...]) -> tuple[tuple[tuple[str, str], ...], dict[str, HeapSieve]]:
    """Name the crew's sieve sheets with their keys, and find what the sieves say of each heap that was given one."""
    rows = {row.key: row.entry for row in at.book.entries("sand") if readable(row)}
    found: dict[str, HeapSieve] = {}
    for of, one in sieved(log).items():
        if one.sheet not in rows:
            continue  # put away since
        result = try_sand(rows[one.sheet], at.shelf())[0]
        came = last_change(log, ("delivery",), of)
        older = came is not None and came.at > one.at
        side = (result.blended or result.first) if result else None
        found[of] = HeapSieve(one.sheet, _name(one.sheet, rows[one.sheet]), result, side, older)
    return tuple((key, _name(key, entry)) for key, entry in rows.items()), found


def _name(key: str, entry: dict[str, Any]) -> str:
    return str(entry.get("name") or key)
