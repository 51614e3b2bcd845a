"""A yard's file put back in: what nobody here has is added, what both have parted on is put together."""

from collections.abc import Iterable, Iterator, Sequence
from typing import Any, Final, NamedTuple
from uuid import UUID

from sqlalchemy import Column, MetaData, Table, bindparam, delete, func, insert, literal, or_, select, text, update
from sqlalchemy.dialects.postgresql import insert as upsert
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import mark
from keeve.store.rows.run_store import RunStore
from keeve.store.tables import EventRow, JobRow, TicketRow
from keeve.store.whole.archive import COLUMNS, TABLES, rows_of, table_of
from keeve.store.whole.uniting import COPIED_FROM, Entry, beside, numbers, own_id, put_in, said_first

_AT_ONCE: Final = 500
_LETTERS_AT_ONCE: Final = 4_000_000
"""Of pictures, which are larger than anything else."""
_NEWER: Final = {"book": ("version", "changed_at"), "job": ("version", "changed_at"), "day plan": ("changed_at",)}
"""By what the newer of two writings of one row is told: it stays."""
_OF_A_JOB: Final = ("ticket", "event", "proof", "photo")
_MOST_COPIES: Final = 100


class Beside(NamedTuple):
    """A job that came in beside one of its number."""

    name: str
    named: str
    """What it is called here."""


class Restored(NamedTuple):
    """What came of a restore."""

    new: int
    known: int
    """Lines whose row was there already, as new as theirs."""
    newer: int
    """Sheets, entries of the book and plans of a day in the place of which theirs stand now."""
    copies: tuple[Beside, ...]


def restore(session: Session, crew_id: UUID, lines: Iterable[str]) -> Restored:
    """Put the rows of a file into a crew's yard. The caller commits.

    A job that both have holds the taps of both afterwards, whatever their numbers; where both took another ticket of
    one number, theirs comes in as a job beside ours. Of what is written over, the newer stays.

    Raises
    ------
    MixError : another file, another version, half of one, or a row that is none; then the caller takes all back
    """
    session.execute(text("set local statement_timeout = '600s'"))  # of very many rows at once
    try:
        return _Restore(session, crew_id).put_in(lines)
    except IntegrityError:
        said = mark("The file holds a row that belongs to nothing before it.")
        raise MixError(Fault(Code.UNREADABLE, said, mark("Nothing was changed. Take a whole file."))) from None


class _Restore:
    """One file on its way in: it is laid beside the yard's own rows first, and then put together job by job."""

    def __init__(self, session: Session, crew_id: UUID) -> None:
        self.session, self.crew_id = session, crew_id
        self.runs = RunStore(session, crew_id)
        self.new = self.lines = self.newer = 0
        self.copies: list[Beside] = []
        # A column has the name and kind it has where it is going, and none of what that asks of it.
        self.came = {
            kind: Table(
                f"came_{kind}", MetaData(),
                *(Column(c.name, c.type) for c in COLUMNS[kind]),
                prefixes=["TEMPORARY"], postgresql_on_commit="DROP",
            )
            for kind in ("job", *_OF_A_JOB)
        }  # fmt: skip

    def put_in(self, lines: Iterable[str]) -> Restored:
        for table in self.came.values():
            table.create(self.session.connection())
        for kind, rows in _parts(rows_of(lines)):
            self.lines += len(rows)
            if kind in self.came:
                self.session.execute(insert(self.came[kind]).values(rows))
            else:
                self._add(kind, [row | {"crew_id": self.crew_id} for row in rows])
        self._jobs()
        return Restored(self.new, self.lines - self.new - self.newer, self.newer, tuple(self.copies))

    def _add(self, kind: str, rows: list[dict[str, Any]]) -> None:
        """Add what is not here; where a row can be written over, the newer of both stays."""
        table = table_of(kind)
        query = upsert(TABLES[kind]).values(rows)
        keys = [one.name for one in table.primary_key]
        if kind in _NEWER:
            stamp = [func.row(*(part[name] for name in _NEWER[kind])) for part in (query.excluded, table.c)]
            taken = {one.name: query.excluded[one.name] for one in COLUMNS[kind] if one.name not in keys}
            query = query.on_conflict_do_update(index_elements=keys, set_=taken, where=stamp[0] > stamp[1])
        else:
            query = query.on_conflict_do_nothing()
        # Only a row that was there before has somebody who wrote over it: that is how new ones are told.
        added = self.session.scalars(query.returning(text("(xmax = 0)"))).all()
        self.new += sum(added)
        self.newer += len(added) - sum(added)

    # ── jobs, one by one ─────────────────────────────────────────────────────

    def _jobs(self) -> None:
        came = self.came["job"]
        orphan = or_(*(
            select(self.came[kind].c.job_id).where(self.came[kind].c.job_id.not_in(select(came.c.id))).exists()
            for kind in _OF_A_JOB
        ))  # fmt: skip
        if self.session.scalar(select(orphan)):
            raise IntegrityError("a row of no job", None, ValueError())
        self._whole_jobs()
        for job_id in self.session.scalars(select(came.c.id).order_by(came.c.id)).all():
            self._job(job_id)

    def _whole_jobs(self) -> None:
        """Take jobs that nobody here knows as they are, all at once, and leave the others."""
        came = self.came["job"]
        here = select(JobRow.id).where(JobRow.crew_id == self.crew_id)
        known = or_(came.c.id.in_(here), came.c.sheet.has_key(COPIED_FROM))
        whole = self.session.scalars(select(came.c.id).where(~known)).all()
        for at in range(0, len(whole), _AT_ONCE):
            ids = whole[at : at + _AT_ONCE]
            for kind, table in self.came.items():
                of = table.c.id if kind == "job" else table.c.job_id
                names = ["crew_id", *(one.name for one in table.c)]
                query = select(literal(self.crew_id), *table.c).where(of.in_(ids))
                self.new += self.session.scalar(select(func.count()).select_from(table).where(of.in_(ids))) or 0
                self.session.execute(insert(table_of(kind)).from_select(names, query))
            self._counters(ids)
            self.session.execute(delete(came).where(came.c.id.in_(ids)))

    def _job(self, job_id: UUID) -> None:
        came = self.came["job"]
        row = dict(self.session.execute(select(came).where(came.c.id == job_id)).mappings().one())
        self._locked(job_id)  # nobody takes a ticket of it meanwhile
        home = self._home(row)
        target, ids = home or (self._target(job_id), {})
        if home is None and target != job_id:
            ids = self._ids_in(job_id, target)
            self._named_beside(row, target)
        ours = self._locked(target)
        if home is None:
            self._add("job", [row | {"id": target, "crew_id": self.crew_id}])
        for kind in ("ticket", "proof", "photo"):
            self._rows(kind, job_id, target, ids)
        self._log(job_id, target, ids)
        self._counters([target])
        if ours is not None:
            self.session.refresh(ours)
            self.runs.written.add(target)
            self.runs.refresh(ours)
            self.runs.tell(ours)

    def _locked(self, job_id: UUID) -> JobRow | None:
        query = select(JobRow).where(JobRow.crew_id == self.crew_id, JobRow.id == job_id).with_for_update()
        return self.session.scalars(query).one_or_none()

    def _tickets(self, job_id: UUID) -> dict[int, tuple[Any, str]]:
        query = select(TicketRow.revision, TicketRow.document, TicketRow.made_from)
        query = query.where(TicketRow.crew_id == self.crew_id, TicketRow.job_id == job_id)
        return {n: (document, origin) for n, document, origin in self.session.execute(query)}

    def _came_tickets(self, job_id: UUID) -> dict[int, tuple[Any, str]]:
        came = self.came["ticket"].c
        query = select(came.revision, came.document, came.made_from).where(came.job_id == job_id)
        return {n: (document, origin) for n, document, origin in self.session.execute(query)}

    def _target(self, job_id: UUID) -> UUID:
        """Say which job of ours theirs belongs to: its own, or one beside it where tickets of one number differ."""
        theirs = self._came_tickets(job_id)
        target = job_id
        for _ in range(_MOST_COPIES):
            ours = self._tickets(target)
            parted = [n for n in sorted(theirs) if n in ours and ours[n] != theirs[n]]
            if not parted:
                break
            target = beside(target, theirs[parted[0]][0])
        return target

    def _home(self, row: dict[str, Any]) -> tuple[UUID, dict[str, str]] | None:
        """Find the job of ours of which theirs is a copy that came in there: it comes home, with what was added."""
        sheet = row["sheet"]
        try:
            ours = UUID(sheet[COPIED_FROM]) if isinstance(sheet, dict) else None
        except (KeyError, ValueError, TypeError, AttributeError):
            ours = None
        if ours is None or row["id"] not in {beside(ours, document) for document, _ in self._tickets(ours).values()}:
            return None
        mine, theirs = self._tickets(ours), self._came_tickets(row["id"])
        if any(mine.get(n, ticket) != ticket for n, ticket in theirs.items()):
            return None
        kept = select(EventRow.id).where(EventRow.crew_id == self.crew_id, EventRow.job_id == ours)
        named = [table_of(kind).c for kind in ("proof", "photo")]
        others = (select(c.id).where(c.crew_id == self.crew_id, c.job_id == ours) for c in named)
        return ours, {own_id(row["id"], one): one for query in (kept, *others) for one in self.session.scalars(query)}

    def _ids_in(self, job_id: UUID, target: UUID) -> dict[str, str]:
        """Give every entry of a job that comes in beside ours an id of its own."""
        return {
            one: own_id(target, one)
            for kind in ("event", "proof", "photo")
            for one in self.session.scalars(select(self.came[kind].c.id).where(self.came[kind].c.job_id == job_id))
        }

    def _named_beside(self, row: dict[str, Any], target: UUID) -> None:
        named = f"{row['name']} (2)"
        if self._locked(target) is None:
            self.copies.append(Beside(row["name"], named))
        if isinstance(row["sheet"], dict):
            row["sheet"] = row["sheet"] | {"job": named, COPIED_FROM: str(row["id"])}
        row["name"] = named

    def _rows(self, kind: str, job_id: UUID, target: UUID, ids: dict[str, str]) -> None:
        came = self.came[kind]
        query = select(came).where(came.c.job_id == job_id)
        rows = []
        for found in self.session.execute(query.execution_options(yield_per=20 if kind == "photo" else 200)).mappings():
            row = dict(found) | {"job_id": target, "crew_id": self.crew_id}
            if ids and kind != "ticket":
                row["id"] = ids.get(row["id"], row["id"])
                row |= {"body": put_in(row["body"], ids)} if "body" in row else {}
            rows.append(row)
            if len(rows) >= (20 if kind == "photo" else 200):
                self._add(kind, rows)
                rows = []
        if rows:
            self._add(kind, rows)

    # ── the log ──────────────────────────────────────────────────────────────

    def _log(self, job_id: UUID, target: UUID, ids: dict[str, str]) -> None:
        came = self.came["event"].c
        theirs = {
            ids.get(id_, id_): Entry(n, at)
            for id_, n, at in self.session.execute(
                select(came.id, came.n, came.received_at).where(came.job_id == job_id)
            )
        }
        mine = (EventRow.crew_id == self.crew_id, EventRow.job_id == target)
        query = select(EventRow.id, EventRow.n, EventRow.received_at).where(*mine)
        ours = {id_: Entry(n, at) for id_, n, at in self.session.execute(query)}
        parted = self._told_twice(job_id, target, ids) if ours else set()
        found = numbers(ours, theirs, parted) if ours else {key: entry.n for key, entry in theirs.items()}
        self._numbered_anew({key: found[key] for key, entry in ours.items() if found[key] != entry.n}, target)
        query = select(self.came["event"]).where(came.job_id == job_id).order_by(came.n)
        rows = []
        for row in self.session.execute(query.execution_options(yield_per=_AT_ONCE)).mappings():
            id_ = ids.get(row["id"], row["id"])
            if id_ in ours:
                continue
            body = put_in(row["body"], ids) if ids else row["body"]
            more = {"crew_id": self.crew_id, "job_id": target, "id": id_, "n": found[id_], "body": body}
            rows.append(dict(row) | more)
            if len(rows) >= _AT_ONCE:
                self._enter(rows)
                rows = []
        if rows:
            self._enter(rows)

    def _enter(self, rows: list[dict[str, Any]]) -> None:
        """Enter what is new; an entry that stands in another job's log already belongs to nothing here."""
        self.session.execute(insert(EventRow).values(rows))
        self.new += len(rows)

    def _told_twice(self, job_id: UUID, target: UUID, ids: dict[str, str]) -> set[str]:
        """Of taps that were told to both yards, keep the same telling in both; which these are."""
        if ids:
            return set()
        came = self.came["event"].c
        query = (
            select(came.id, came.body, came.received_at, EventRow.body, EventRow.received_at)
            .join(EventRow, (EventRow.id == came.id) & (EventRow.crew_id == self.crew_id))
            .where(came.job_id == job_id, EventRow.job_id == target)
            .where((came.body != EventRow.body) | (came.received_at != EventRow.received_at))
        )
        found = set()
        for id_, theirs, their_at, ours, our_at in self.session.execute(query).all():
            self._merging()
            told = {"body": said_first([theirs, ours]), "received_at": min(their_at, our_at)}
            of_tap = (EventRow.crew_id == self.crew_id, EventRow.id == id_)
            self.session.execute(update(EventRow).where(*of_tap).values(told))
            found.add(id_)
        return found

    def _numbered_anew(self, wanted: dict[str, int], target: UUID) -> None:
        if not wanted:
            return
        self._merging()
        table = table_of("event")
        of_tap = (table.c.crew_id == self.crew_id, table.c.job_id == target, table.c.id == bindparam("of"))
        # Below nothing first: a number that is just being given may still be another's.
        rows = [{"of": key, "to": -n} for key, n in wanted.items()]
        self.session.connection().execute(update(table).where(*of_tap).values(n=bindparam("to")), rows)
        below = (EventRow.crew_id == self.crew_id, EventRow.job_id == target, EventRow.n < 0)
        self.session.execute(update(EventRow).where(*below).values(n=-EventRow.n))

    def _merging(self) -> None:
        """Tell the database that entries are numbered anew: for this transaction, and by nobody else."""
        self.session.execute(text("set local keeve.merging = 'on'"))

    def _counters(self, job_ids: Sequence[UUID]) -> None:
        """Let the counters of jobs follow what they hold now."""
        last = {
            name: select(func.coalesce(func.max(column), 0))
            .where(row.crew_id == JobRow.crew_id, row.job_id == JobRow.id)
            .scalar_subquery()
            for name, row, column in (("event_n", EventRow, EventRow.n), ("ticket_n", TicketRow, TicketRow.revision))
        }
        of_jobs = (JobRow.crew_id == self.crew_id, JobRow.id.in_(job_ids))
        self.session.execute(update(JobRow).where(*of_jobs).values(last).execution_options(synchronize_session=False))


def _parts(rows: Iterable[tuple[str, dict[str, Any]]]) -> Iterator[tuple[str, list[dict[str, Any]]]]:
    """Hand rows on in their order, some hundreds of one kind at once: a large yard is never in the memory whole."""
    kind, letters = "", 0
    waiting: list[dict[str, Any]] = []
    for of, row in rows:
        if waiting and (of != kind or len(waiting) >= _AT_ONCE or letters >= _LETTERS_AT_ONCE):
            yield kind, waiting
            waiting, letters = [], 0
        kind = of
        waiting.append(row)
        letters += len(row.get("jpeg") or b"")
    if waiting:
        yield kind, waiting
