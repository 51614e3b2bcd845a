"""A crew's mix book: what they wrote down themselves, beside the catalogue that ships."""

import json
from collections import defaultdict
from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any, Final, Literal, NamedTuple, TypeVar
from uuid import UUID, uuid4

from pydantic import ValidationError
from sqlalchemy import ARRAY, Text, any_, case, cast, func, literal, literal_column, or_, select
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Session

from keeve.catalogue import OWN, Catalogue
from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import Amount, Said, verbatim
from keeve.core.mixes.admixtures import Admixture
from keeve.core.mixes.mix import Mix
from keeve.core.vessels.scales import Scale
from keeve.core.vessels.vessels import Container, Mixer
from keeve.store.tables import BookRow, Crew, JobRow

T = TypeVar("T")
Kind = Literal["mix", "admixture", "sand", "vessel", "stock"]
MOST_ENTRIES = 500
Understood = Mix | Admixture | Container | Mixer | Scale


def _vessel(document: Any) -> Container | Mixer | Scale:
    """Read what stands in the yard: only a scale has a step, and of the rest only what is mixed in is of a kind."""
    if "step_kg" in document:
        return Scale.model_validate(document)
    return Mixer.model_validate(document) if "kind" in document else Container.model_validate(document)


_READERS: Final[dict[str, Callable[[Any], Understood]]] = {
    "mix": Mix.model_validate,
    "admixture": Admixture.model_validate,
    "vessel": _vessel,
}


def _readable(read: Callable[[Any], T], given: Any) -> T | None:
    try:
        return read(given)
    except (ValidationError, ValueError, TypeError):
        return None


def readable(row: BookRow) -> bool:
    """Whether an entry of the book can still be read, as typed and as understood."""
    texts = tuple(None if part is None else json.dumps(part) for part in (row.entry, row.document, row.base))
    return _listed(row.kind, row.key, row.changed_at, texts).readable


class Listed(NamedTuple):
    """An entry of the book as it was last read."""

    kind: str
    key: str
    changed_at: datetime
    understood: Understood | None
    readable: bool


class _Laid(NamedTuple):
    """A shelf, and what it was laid of."""

    revision: int
    ships: Catalogue
    shelf: Catalogue
    lost: tuple[Listed, ...]


class _Crew:
    """What was read of one crew's book: each entry once for each write of it, and the shelf once for each revision."""

    def __init__(self) -> None:
        self.entries: dict[UUID, tuple[str, Listed]] = {}
        self.laid: _Laid | None = None


_CREWS: defaultdict[UUID, _Crew] = defaultdict(_Crew)
_STAMP: Final = literal_column("book_entries.xmin::text || book_entries.ctid::text", Text)
"""Another at every write of a row, whoever writes it."""


def _listed(kind: str, key: str, changed_at: datetime, texts: tuple[str | None, ...]) -> Listed:
    """Read an entry as it is kept: as typed, as understood, and what it began as."""
    entry, document, base = (None if text is None else json.loads(text) for text in texts)
    reader = _READERS.get(kind)
    understood = _readable(reader, document) if reader and document is not None else None
    if understood is not None and isinstance(entry, dict) and understood.name == entry.get("name"):
        # As it was kept before names were told from messages.
        understood = understood.model_copy(update={"name": verbatim(str(understood.name))})
    good = all(isinstance(part, dict) for part in (entry, document or {}, base or {}))
    good = good and (reader is None or document is None or understood is not None)
    if kind == "mix" and _readable(Mix.model_validate, base) is None:
        good = False
    return Listed(kind, key, changed_at, understood, good)


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
        return self._kept(catalogue, revision).shelf

    def unreadable(self, catalogue: Catalogue, revision: int | None = None) -> tuple[Listed, ...]:
        """Return the entries that cannot be read any more; they take nothing else down. Parameters as `shelf`."""
        return self._kept(catalogue, revision).lost

    def _kept(self, catalogue: Catalogue, revision: int | None) -> _Laid:
        known = _CREWS[self.crew_id]
        kept = known.laid
        if revision is not None and kept is not None and (kept.revision, kept.ships) == (revision, catalogue):
            return kept
        listed = self.listed()
        understood = [one.understood for one in listed]
        shelf = catalogue.with_own(
            tuple(mix for mix in understood if isinstance(mix, Mix)),
            tuple(label for label in understood if isinstance(label, Admixture)),
            tuple(vessel for vessel in understood if isinstance(vessel, Container | Mixer | Scale)),
        )
        laid = _Laid(revision or 0, catalogue, shelf, tuple(one for one in listed if not one.readable))
        if revision is not None:
            known.laid = laid
        return laid

    def listed(self) -> list[Listed]:
        """Return what is in the book and not put away, the one last worked on first.

        A book of hundreds of mixes is megabytes: only what was written since it was read last is asked for and read.
        """
        known = _CREWS[self.crew_id]
        read = known.entries  # others may put a newer one in its place meanwhile
        stamps = [stamp for stamp, _ in read.values()]
        texts = [
            case((any_(literal(stamps, ARRAY(Text))) == _STAMP, None), else_=cast(column, Text))
            for column in (BookRow.entry, BookRow.document, BookRow.base)
        ]
        query = (
            select(BookRow.id, BookRow.kind, BookRow.key, BookRow.changed_at, _STAMP, *texts)
            .where(BookRow.crew_id == self.crew_id, ~BookRow.away)
            .order_by(BookRow.changed_at.desc())
        )
        found: dict[UUID, tuple[str, Listed]] = {}
        for id_, kind, key, changed_at, stamp, *document in self._session.execute(query):
            before = read.get(id_)
            same = before is not None and before[0] == stamp
            listed = before[1] if before and same else _listed(kind, key, changed_at, tuple(document))
            found[id_] = (stamp, listed)
        known.entries = found
        return [one for _, one in found.values()]

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

    def in_sheets(self, key: str) -> list[str]:
        """Name the crew's jobs whose sheets name a thing of its own."""
        sheet = JobRow.sheet
        named = or_(
            JobRow.mix_key == key,
            sheet["admixtures"].contains(cast([{"admixture": key}], JSONB)),
            sheet["mixer"].astext == key,
            sheet["jug"].astext == key,
            sheet["gauges"].contains(cast([key], JSONB)),
            sheet["scales"].contains(cast([key], JSONB)),
        )
        return list(self._session.scalars(select(JobRow.name).where(JobRow.crew_id == self.crew_id, named)))


def new_key() -> str:
    """Make a key for something of one's own."""
    return f"{OWN}{uuid4().hex[:12]}"
