"""A crew's mix book: what they wrote down themselves, beside the catalogue that ships."""

from collections.abc import Callable
from datetime import UTC, datetime
from functools import lru_cache
from typing import Any, Literal, TypeVar
from uuid import UUID, uuid4

from pydantic import ValidationError
from sqlalchemy import Text, cast, func, or_, select
from sqlalchemy.orm import Session

from keeve.catalogue import Catalogue
from keeve.core.admixtures import Admixture
from keeve.core.errors import Code, Fault, MixError
from keeve.core.mix import Mix
from keeve.core.said import Amount, Said
from keeve.store.tables import BookRow, Crew, JobRow

T = TypeVar("T")
Kind = Literal["mix", "admixture", "sand"]
MOST_ENTRIES = 500
OWN = "own-"
"""Begins the key of everything that is a crew's own."""


# Parsed once for each text: every keystroke of a sheet asks for the shelf.
@lru_cache(maxsize=2 * MOST_ENTRIES)
def _mix(text: str) -> Mix:
    return Mix.model_validate_json(text)


@lru_cache(maxsize=2 * MOST_ENTRIES)
def _admixture(text: str) -> Admixture:
    return Admixture.model_validate_json(text)


def _readable(read: Callable[[Any], T], given: Any) -> T | None:
    try:
        return read(given)
    except (ValidationError, ValueError):
        return None


def readable(row: BookRow) -> bool:
    """Whether an entry of the book can still be read, as typed and as understood."""
    parts: tuple[Any, ...] = (row.entry, row.document or {}, row.base or {})
    if not all(isinstance(part, dict) for part in parts):
        return False
    if row.kind == "mix" and _readable(Mix.model_validate, row.base) is None:
        return False
    reader = {"mix": Mix.model_validate, "admixture": Admixture.model_validate}.get(row.kind)
    return reader is None or row.document is None or _readable(reader, row.document) is not None


_SHELVES: dict[UUID, tuple[int, Catalogue, Catalogue]] = {}
"""The shelf of each crew as it was last laid out: revision of its book, what ships, both together."""


class BookStore:
    """The mix book of one crew; flushes only, the caller commits."""

    def __init__(self, session: Session, crew_id: UUID) -> None:
        self._session = session
        self.crew_id = crew_id

    def revision(self) -> int:
        """Return the number that changes whenever anything in the book does."""
        return self._session.scalar(select(Crew.book_n).where(Crew.id == self.crew_id)) or 0

    def shelf(self, catalogue: Catalogue, revision: int | None = None) -> Catalogue:
        """Return the catalogue with the crew's own mixes and admixtures.

        Parameters
        ----------
        catalogue : what ships
        revision : of the book, where it is known that it is committed: then the shelf is laid out once for it
        """
        if revision is None:
            return self._laid(catalogue)
        kept = _SHELVES.get(self.crew_id)
        if kept is None or kept[0] != revision or kept[1] is not catalogue:
            kept = _SHELVES[self.crew_id] = (revision, catalogue, self._laid(catalogue))
        return kept[2]

    def _laid(self, catalogue: Catalogue) -> Catalogue:
        query = (
            select(BookRow.kind, cast(BookRow.document, Text))
            .where(
                BookRow.crew_id == self.crew_id,
                BookRow.kind.in_(("mix", "admixture")),
                BookRow.document.is_not(None),
                ~BookRow.away,
            )
            .order_by(BookRow.changed_at.desc())
        )
        rows = self._session.execute(query).all()
        return catalogue.with_own(
            tuple(mix for kind, text in rows if kind == "mix" and (mix := _readable(_mix, text))),
            tuple(label for kind, text in rows if kind == "admixture" and (label := _readable(_admixture, text))),
        )

    def unread_or(self, key: str | None) -> list[BookRow]:
        """Return all entries that are not put away, and one by its key even then: whether they can be read is asked."""
        wanted = ~BookRow.away if key is None else or_(~BookRow.away, BookRow.key == key)
        query = select(BookRow).where(BookRow.crew_id == self.crew_id, wanted)
        return list(self._session.scalars(query.order_by(BookRow.changed_at.desc())))

    def entries(self, kind: Kind) -> list[BookRow]:
        """Return what is in the book, the one last worked on first."""
        query = select(BookRow).where(BookRow.crew_id == self.crew_id, BookRow.kind == kind, ~BookRow.away)
        return list(self._session.scalars(query.order_by(BookRow.changed_at.desc())))

    def entry(self, kind: Kind, key: str, *, lock: bool = False) -> BookRow | None:
        """Return one entry, put away or not; locked until the end of the request where it is going to be written."""
        query = select(BookRow).where(BookRow.crew_id == self.crew_id, BookRow.kind == kind, BookRow.key == key)
        if lock:
            query = query.with_for_update().execution_options(populate_existing=True)
        return self._session.scalars(query).one_or_none()

    def count(self) -> int:
        """How many entries the book holds."""
        query = select(func.count()).select_from(BookRow).where(BookRow.crew_id == self.crew_id, ~BookRow.away)
        return self._session.scalar(query) or 0

    def add(
        self, kind: Kind, entry: dict[str, Any], document: dict[str, Any] | None, base: dict[str, Any] | None = None
    ) -> BookRow:
        """Write something new into the book.

        Raises
        ------
        MixError : the book is full
        """
        if self.count() >= MOST_ENTRIES:
            raise MixError(
                Fault(
                    Code.TOO_MANY,
                    Said("The book is full: it holds {n} entries of your own.", n=Amount(MOST_ENTRIES, "whole")),
                    "Put some away first.",
                )
            )
        row = BookRow(
            crew_id=self.crew_id,
            id=uuid4(),
            kind=kind,
            key=new_key(),
            base=base,
            entry=entry,
            document=document,
            version=1,
        )
        if document is not None:
            row.document = document | {"key": row.key}
        self._session.add(row)
        self._session.flush()
        return row

    def save(self, row: BookRow, entry: dict[str, Any], document: dict[str, Any] | None) -> None:
        """Keep an entry as typed; what could not be understood leaves the last understood form in use."""
        row.entry = entry
        if document is not None:
            row.document = document | {"key": row.key}
        row.changed_at = datetime.now(UTC)
        row.version += 1
        self._session.flush()

    def put_away(self, row: BookRow, *, away: bool) -> None:
        """Take an entry out of the book, or put it back."""
        row.away = away
        self._session.flush()

    def used_by(self, key: str) -> list[str]:
        """Name the crew's jobs that are mixed with an own mix."""
        query = select(JobRow.name).where(JobRow.crew_id == self.crew_id, JobRow.mix_key == key)
        return list(self._session.scalars(query))


def new_key() -> str:
    """Make a key for something of one's own."""
    return f"{OWN}{uuid4().hex[:12]}"
