"""Notes about a job's loads: appended, corrected by later ones, never overwritten."""

from collections.abc import Iterable
from typing import NamedTuple

from keeve.core.records.proofs import Note, Proof


class Noted(NamedTuple):
    """A note as it stands, with what it was before."""

    first: str
    """Id of the first of it: what a correction names."""
    load: int | None
    last: Note
    before: tuple[Note, ...]
    """Earlier words of it, oldest first."""


def notes_of(entries: Iterable[Proof]) -> tuple[Noted, ...]:
    """Put notes together with their corrections, oldest first; one that was taken back has an empty text.

    A correction of what is not there stands by itself. Common practice, no source.

    >>> from datetime import UTC, datetime
    >>> one = Note(id="note-0001", at=datetime(2026, 9, 14, 9, tzinfo=UTC), load=3, text="sand darker")
    >>> two = Note(id="note-0002", at=datetime(2026, 9, 14, 10, tzinfo=UTC), text="sand wetter", corrects="note-0001")
    >>> [(noted.load, noted.last.text, len(noted.before)) for noted in notes_of((two, one))]
    [(3, 'sand wetter', 1)]
    """
    chains: dict[str, list[Note]] = {}
    head_of: dict[str, str] = {}
    for one in sorted((one for one in entries if isinstance(one, Note)), key=lambda one: (one.at, one.id)):
        head_of[one.id] = head_of.get(one.corrects, one.id)
        chains.setdefault(head_of[one.id], []).append(one)
    return tuple(Noted(key, found[0].load, found[-1], tuple(found[:-1])) for key, found in chains.items())
