"""The logs of jobs, read once: what was read is kept in the process, and only what came since is asked for.

What a transaction has written and not committed yet is never kept: nobody else may see it, and it may be taken back.
"""

import json
from collections import OrderedDict
from collections.abc import Collection, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from functools import lru_cache
from threading import Lock
from typing import Final, NamedTuple
from uuid import UUID
from weakref import WeakKeyDictionary

from pydantic import ValidationError
from sqlalchemy import text
from sqlalchemy.orm import Session
from sqlalchemy.pool import Pool

from keeve.core.message.said import Words, mark
from keeve.core.run.events import Event, read_event
from keeve.core.run.folding import Folding
from keeve.core.run.models import Run
from keeve.core.run.tap_order import Tap
from keeve.core.ticket.ticket import Ticket
from keeve.core.ticket.ticket_past import open_ticket
from keeve.store.tables import JobRow

MOST_KEPT: Final = 200_000
"""Entries of all logs that are kept; the log not asked for longest is forgotten first."""


@lru_cache(maxsize=64)
def _opened(text: str) -> Ticket:
    """Read a ticket once: it never changes, and every page of a job that is mixed stands on it."""
    return open_ticket(json.loads(text))


class Unreadable(NamedTuple):
    """A row that cannot be read: shown as what it is, and it takes nothing else down."""

    what: str
    key: str
    at: datetime
    why: Words


@dataclass(frozen=True, slots=True)
class Log:
    """All a job's tickets and events, and the run they fold to."""

    tickets: dict[int, Ticket]
    made_at: dict[int, datetime]
    made_from: dict[int, str]
    events: list[Event]
    """As they came."""
    numbers: list[int]
    """Of each of them."""
    unreadable: list[Unreadable]
    run: Run
    taps: list[Tap]
    """In the order they happened."""
    n: int

    @property
    def newest(self) -> Ticket | None:
        """Return the ticket that is mixed from now, where one can be read."""
        return self.tickets[max(self.tickets)] if self.tickets else None


class _Row(NamedTuple):
    job_id: UUID
    what: int
    """0 a ticket, 1 an entry."""
    n: int
    at: datetime
    named: str
    """What a ticket was made from; the id of an entry."""
    document: str


class _Used(NamedTuple):
    """What was used before a moment, of so many entries."""

    entries: int
    kg: dict[str, float]


@dataclass(slots=True)
class _Kept:
    """One log as far as it was read."""

    n: int = 0
    id: str = ""
    """Of the last entry: another under its number means that the log was put together anew."""
    revision: int = 0
    tickets: dict[int, Ticket] = field(default_factory=dict)
    made_at: dict[int, datetime] = field(default_factory=dict)
    made_from: dict[int, str] = field(default_factory=dict)
    events: list[Event] = field(default_factory=list)
    numbers: list[int] = field(default_factory=list)
    lost: list[Unreadable] = field(default_factory=list)
    folding: Folding | None = None
    run: Run | None = None
    used: dict[datetime, _Used] = field(default_factory=dict)
    lock: Lock = field(default_factory=Lock)

    def apart(self) -> "_Kept":
        """Return the same for one transaction alone."""
        return _Kept(
            self.n, self.id, self.revision, dict(self.tickets), dict(self.made_at), dict(self.made_from),
            list(self.events), list(self.numbers), list(self.lost),
        )  # fmt: skip

    def take(self, rows: Sequence[_Row]) -> None:
        """Read what came since, in order; what is known already passes by."""
        came: list[Event] = []
        for row in rows:
            if row.what and row.n > self.n:
                self.n, self.id = row.n, row.named
                self._entry(row, came)
            elif not row.what and row.n > self.revision:
                self.revision = row.n
                self._ticket(row)
        if came:
            self.events += came
            self.run = None
            if self.folding is not None:
                self.folding.take(came)

    def _entry(self, row: _Row, came: list[Event]) -> None:
        try:
            came.append(read_event(json.loads(row.document)))
            self.numbers.append(row.n)
        except (ValidationError, ValueError):
            self.lost.append(
                Unreadable("entry", str(row.n), row.at, mark("This entry of the log cannot be read."))
            )  # fmt: skip

    def _ticket(self, row: _Row) -> None:
        self.folding = self.run = None
        try:
            self.tickets[row.n] = _opened(row.document).model_copy(update={"revision": row.n})
            self.made_at[row.n], self.made_from[row.n] = row.at, row.named
        except ValueError as error:
            self.lost.append(Unreadable("ticket", str(row.n), row.at, str(error)))

    def shown(self, n: int) -> Log:
        """Return the log as it stands."""
        if self.folding is None:
            self.folding = Folding(self.tickets).take(self.events)
        if self.run is None:
            self.run = self.folding.run()
        return Log(
            dict(self.tickets), dict(self.made_at), dict(self.made_from), list(self.events), list(self.numbers),
            list(self.lost), self.run, list(self.folding.taps), n,
        )  # fmt: skip


class _Shelf:
    """The logs one database's readers keep."""

    def __init__(self) -> None:
        self._logs: OrderedDict[tuple[UUID, UUID], _Kept] = OrderedDict()
        self._lock = Lock()

    def of(self, key: tuple[UUID, UUID], *, anew: bool = False) -> _Kept:
        with self._lock:
            kept = self._logs.pop(key, None)
            kept = _Kept() if kept is None or anew else kept
            self._logs[key] = kept
            return kept

    def tidy(self) -> None:
        with self._lock:
            most = sum(len(kept.events) for kept in self._logs.values())
            while most > MOST_KEPT and len(self._logs) > 1:
                most -= len(self._logs.popitem(last=False)[1].events)


_SHELVES: WeakKeyDictionary[Pool, _Shelf] = WeakKeyDictionary()
_SHELVES_LOCK: Final = Lock()


def _shelf_of(session: Session) -> _Shelf:
    pool = session.get_bind().engine.pool
    with _SHELVES_LOCK:
        if pool not in _SHELVES:
            _SHELVES[pool] = _Shelf()
        return _SHELVES[pool]


def read_logs(session: Session, crew_id: UUID, jobs: Sequence[JobRow], written: Collection[UUID]) -> list[Log]:
    """Read the logs of several jobs; what cannot be read is set apart.

    Parameters
    ----------
    session, crew_id, jobs : whose, and which
    written : jobs whose log this very transaction has written to

    Returns
    -------
    a log for each, in the order of the jobs
    """
    shelf = _shelf_of(session)
    kept = {job.id: shelf.of((crew_id, job.id)) for job in jobs}
    known = {job_id: (one.n, one.id, one.revision) for job_id, one in kept.items()}
    found = _rows(session, crew_id, known)
    anew = [job_id for job_id, rows in found.items() if not _goes_on(known[job_id], rows)]
    if anew:
        kept |= {job_id: shelf.of((crew_id, job_id), anew=True) for job_id in anew}
        found |= _rows(session, crew_id, dict.fromkeys(anew, (0, "", 0)))
    logs = []
    for job in jobs:
        one = kept[job.id]
        with one.lock:
            one = one.apart() if job.id in written else one
            one.take(found[job.id])
            logs.append(one.shown(job.event_n))
    shelf.tidy()
    return logs


def _goes_on(known: tuple[int, str, int], rows: list[_Row]) -> bool:
    """Whether the entry that was read last still stands where it stood."""
    n, id_, _ = known
    first = next((row for row in rows if row.what), None)
    return n == 0 or (first is not None and (first.n, first.named) == (n, id_))


_ASKED: Final = text(
    """
    with asked as (
      select * from unnest(cast(:jobs as uuid[]), cast(:numbers as bigint[]), cast(:revisions as integer[]))
        as asked (job, n, revision)
    )
    select job_id, 0, t.revision, made_at, made_from, cast(document as text)
      from tickets t join asked on job_id = job where crew_id = :crew and t.revision > asked.revision
    union all
    select job_id, 1, e.n, received_at, id, cast(body as text)
      from run_events e join asked on job_id = job where crew_id = :crew and e.n >= asked.n
    order by 2, 3
    """
)
"""Tickets and entries of several jobs in one question, from the entry on that was read last."""


def _rows(session: Session, crew_id: UUID, known: dict[UUID, tuple[int, str, int]]) -> dict[UUID, list[_Row]]:
    found: dict[UUID, list[_Row]] = {job_id: [] for job_id in known}
    if known:
        numbers, _, revisions = map(list, zip(*known.values(), strict=True))
        asked = {"crew": crew_id, "jobs": list(known), "numbers": numbers, "revisions": revisions}
        for row in session.execute(_ASKED, asked):
            found[row[0]].append(_Row(*row))
    return found


def used_before(
    session: Session, crew_id: UUID, job: JobRow, log: Log, moments: Sequence[datetime]
) -> list[dict[str, float]]:
    """Say what a job's loads had used before each of some moments [kg], by material key; read once and kept.

    Parameters
    ----------
    session, crew_id, job, log : the job and its log as it was read
    moments : each a moment

    Returns
    -------
    what was used before each
    """
    kept = _shelf_of(session).of((crew_id, job.id))
    with kept.lock:
        many = len(log.events)
        open_ = [at for at in sorted(set(moments)) if not _still(kept.used.get(at), at, log.events)]
        folding, rest = Folding(log.tickets), sorted(log.events, key=lambda event: event.at) if open_ else []
        done = 0
        for at in open_:
            upto = next((n for n in range(done, len(rest)) if rest[n].at >= at), len(rest))
            folding.take(rest[done:upto])
            done = upto
            kept.used[at] = _Used(many, folding.run().used_kg)
        kept.used = {at: _Used(many, kept.used[at].kg) for at in moments}
        return [kept.used[at].kg for at in moments]


def _still(used: _Used | None, at: datetime, events: list[Event]) -> bool:
    """Whether nothing came since that belongs before the moment."""
    return used is not None and used.entries <= len(events) and all(e.at >= at for e in events[used.entries :])
