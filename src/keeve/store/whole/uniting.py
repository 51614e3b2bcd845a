"""Two logs of one job, or two jobs of one number, become one: what both sides work out alike. Pure."""

import hashlib
import json
from collections.abc import Collection, Mapping
from datetime import datetime
from typing import Any, Final, NamedTuple
from uuid import UUID, uuid5

from keeve.core.run.events import read_event

COPIED_FROM: Final = "copied_from"
"""In the sheet of a job that came in beside another of its number: that number."""


class Entry(NamedTuple):
    """An entry of a log as it is kept, without what it says."""

    n: int
    received_at: datetime


def numbers(ours: Mapping[str, Entry], theirs: Mapping[str, Entry], parted: Collection[str] = ()) -> dict[str, int]:
    """Number the entries of two logs that are put together; what nobody lacked keeps its numbers.

    Parameters
    ----------
    ours, theirs : entries by id; each tap has one id wherever it was told
    parted : ids of taps that were told to both and differ: they count as new to both

    Returns
    -------
    the number of every entry of both, by id: the same whichever side asks, where each has what the other lacks

    Notes
    -----
    What both have under the same numbers from the first on stays. The rest is numbered by when it was received, past
    every number that was given on either side: a phone that has heard all up to a number hears what is new to it.

    >>> from datetime import UTC
    >>> at = lambda minute: datetime(2026, 9, 14, 8, minute, tzinfo=UTC)
    >>> begun = {"a": Entry(1, at(0))}
    >>> one, other = begun | {"b": Entry(2, at(5))}, begun | {"c": Entry(2, at(3))}
    >>> numbers(one, other) == numbers(other, one) == {"a": 1, "c": 3, "b": 4}
    True
    """
    if not parted and theirs.keys() <= ours.keys():
        return {key: entry.n for key, entry in ours.items()}
    heard = max((entry.n for entry in ours.values()), default=0)
    if (
        not parted
        and ours.keys() <= theirs.keys()
        and all(theirs[key].n > heard for key in theirs.keys() - ours.keys())
    ):
        return {key: entry.n for key, entry in theirs.items()}
    found = _together(ours, theirs, parted)
    given = max(heard, *(entry.n for entry in theirs.values()))
    rest = {key: entry.received_at for key, entry in theirs.items() if key not in found}
    for key, entry in ours.items():
        if key not in found:
            rest[key] = min(entry.received_at, rest.get(key, entry.received_at))
    return found | {key: n for n, key in enumerate(sorted(rest, key=lambda key: (rest[key], key)), given + 1)}


def _together(ours: Mapping[str, Entry], theirs: Mapping[str, Entry], parted: Collection[str]) -> dict[str, int]:
    """Return what both logs begin with alike."""
    in_order = (sorted((entry.n, key) for key, entry in side.items()) for side in (ours, theirs))
    found = {}
    for mine, other in zip(*in_order, strict=False):
        if mine != other or mine[1] in parted:
            break
        found[mine[1]] = mine[0]
    return found


def said_first(bodies: list[Any]) -> Any:
    """Choose which of two tellings of one tap is kept: one that can be read, and on both sides the same."""
    return min(bodies, key=lambda body: (not _read(body), json.dumps(body, sort_keys=True, ensure_ascii=False)))


def _read(body: Any) -> bool:
    try:
        read_event(body)
    except ValueError:
        return False
    return True


def beside(job_id: UUID, document: Any) -> UUID:
    """Return the number of the job that comes in beside one of its number, by the ticket that parts the two."""
    written = json.dumps(document, sort_keys=True, ensure_ascii=False)
    return uuid5(job_id, hashlib.sha256(written.encode()).hexdigest())


def own_id(job_id: UUID, given: str) -> str:
    """Return the id an entry has in the copy of a job: two jobs of one yard share none."""
    return str(uuid5(job_id, given))


def put_in(value: Any, ids: Mapping[str, str]) -> Any:
    """Put other ids in the place of those a document names, at any depth.

    >>> put_in({"id": "a", "undoes": ["b", "c"]}, {"a": "x", "b": "y"})
    {'id': 'x', 'undoes': ['y', 'c']}
    """
    if isinstance(value, str):
        return ids.get(value, value)
    if isinstance(value, dict):
        return {key: put_in(one, ids) for key, one in value.items()}
    return [put_in(one, ids) for one in value] if isinstance(value, list) else value
