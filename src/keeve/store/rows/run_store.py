"""A job's tickets and its log: taken in, numbered, and read back; flushes only, the caller commits."""

from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any, Final, NamedTuple
from uuid import UUID

from pydantic import ValidationError
from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from keeve.catalogue.trying import Outlook
from keeve.core.measure.moments import FIRST_YEAR, LAST_YEAR
from keeve.core.message.said import Amount, Said, Words, mark, plain
from keeve.core.run.events import (
    Accepted,
    Event,
    LoadEvent,
    OneMore,
    Poured,
    Settled,
    Started,
    ThrownAway,
    Undone,
    read_event,
)
from keeve.core.ticket.ticket import LoadKey, Ticket
from keeve.store.rows.logs import Log, read_logs
from keeve.store.tables import Document, EventRow, JobRow, TicketRow

CHANNEL: Final = "keeve_run"
AHEAD: Final = timedelta(minutes=5)
"""A tap without the phone's own word on its clock may be so far ahead of ours."""
BEFORE: Final = timedelta(days=1)
"""A tap may be so much older than the job's first ticket: clocks stray, years do not."""
FAR: Final = 100
MOST_POURS: Final = 1000
"""Of one load: no hand pours as often."""
_CHANGES_THE_LIST: Final = (Started, Accepted, ThrownAway, Undone, OneMore, Settled)


class Refused(NamedTuple):
    """An event that is refused for good, and why."""

    id: str
    sentence: Words


class Numbered(NamedTuple):
    """An event as the log has it."""

    n: int
    body: Document | None
    """None where it cannot be read: no phone is told of it."""

    @property
    def told(self) -> Document | None:
        """What a phone is told."""
        return None if self.body is None else self.body | {"n": self.n}


class Heads(NamedTuple):
    """What stands over a job's log."""

    ticket_n: int
    """Of its newest ticket."""
    link_n: int
    """How often its links were taken back."""


@dataclass(frozen=True, slots=True)
class Posted:
    """What came of a post: events new or known, with their numbers, and those refused."""

    numbered: list[Numbered]
    refused: list[Refused]
    n: int
    new: list[Event]

    @property
    def added(self) -> int:
        """How many were not known."""
        return len(self.new)


class RunStore:
    """Tickets and log of a crew's jobs."""

    def __init__(self, session: Session, crew_id: UUID) -> None:
        self.session = session
        self.crew_id = crew_id
        self.written: set[UUID] = set()
        """Jobs whose log this transaction has written to: what it reads of them is its own."""

    # ── reading ──────────────────────────────────────────────────────────────

    def log(self, job: JobRow) -> Log:
        """Read everything that was kept of a job's mixing; what cannot be read is set apart."""
        return self.logs([job])[0]

    def logs(self, jobs: Sequence[JobRow]) -> list[Log]:
        """Read the logs of several jobs in one question, each as `log` does."""
        return read_logs(self.session, self.crew_id, jobs, self.written)

    def since(self, job_id: UUID, n: int, most: int = 500) -> list[Numbered]:
        """Return events of a job's log after number `n`."""
        query = (
            select(EventRow.n, EventRow.body)
            .where(EventRow.crew_id == self.crew_id, EventRow.job_id == job_id, EventRow.n > n)
            .order_by(EventRow.n)
            .limit(most)
        )
        return [Numbered(n, _readable(body)) for n, body in self.session.execute(query)]

    def heads(self, job_id: UUID) -> Heads:
        """Return what a job's row says of its newest ticket and of its links."""
        query = select(JobRow.ticket_n, JobRow.link_n).where(JobRow.crew_id == self.crew_id, JobRow.id == job_id)
        found = self.session.execute(query).one_or_none()
        return Heads(0, 0) if found is None else Heads(*found)

    def raw(self, job_id: UUID, what: str, key: int) -> Any:
        """Return a ticket or an entry of the log as it is kept; None where there is none."""
        if what == "ticket":
            query = select(TicketRow.document).where(TicketRow.revision == key, TicketRow.job_id == job_id)
            query = query.where(TicketRow.crew_id == self.crew_id)
        else:
            query = select(EventRow.body).where(EventRow.n == key, EventRow.job_id == job_id)
            query = query.where(EventRow.crew_id == self.crew_id)
        return self.session.scalar(query)

    # ── tickets ──────────────────────────────────────────────────────────────

    def keep(
        self,
        job: JobRow,
        ticket: Ticket,
        origin: str,
        log: Log,
        *,
        again: bool = False,
        made_at: datetime | None = None,
    ) -> Ticket:
        """Keep a ticket as the job's next revision; the job is locked.

        Parameters
        ----------
        job, ticket : the job, and the ticket of what is still to fill
        origin : print of the request
        log : the log it was made beside
        again : the whole order is begun once more
        made_at : when; now, unless it is told
        """
        before = log.newest
        round_ = (before.round if before else 1) + (1 if again and before else 0)
        counted = tuple(
            LoadKey(number=load.number, mixer=load.mixer) for load in log.run.loads if load.ended != "thrown_away"
        )
        self.written.add(job.id)
        kept = ticket.model_copy(update={"revision": job.ticket_n + 1, "round": round_, "counted": counted})
        self.session.add(
            TicketRow(
                crew_id=self.crew_id,
                job_id=job.id,
                revision=kept.revision,
                made_at=made_at or datetime.now(UTC),
                made_from=origin,
                document=kept.document(),
            )
        )
        job.ticket_n = kept.revision
        job.changed_at = datetime.now(UTC)
        self.session.flush()
        self.tell(job)
        self.refresh(job)
        return kept

    def tell(self, job: JobRow) -> None:
        """Tell who listens that a job's log or its ticket changed, once this is committed."""
        payload = f"{self.crew_id} {job.id} {job.event_n} {job.ticket_n}"
        self.session.execute(select(func.pg_notify(CHANNEL, payload)))

    # ── the log ──────────────────────────────────────────────────────────────

    def append(
        self, job: JobRow, raws: Iterable[Any], sent_at: datetime | None = None, received: datetime | None = None
    ) -> Posted:
        """Take events in; ids already there change nothing. The job is locked.

        Parameters
        ----------
        job : whose log
        raws : event documents as sent
        sent_at : the sender's clock when it sent them
        received : our clock
        """
        now = received or datetime.now(UTC)
        if sent_at is not None and not FIRST_YEAR <= sent_at.year <= LAST_YEAR:
            sent_at = None  # that clock says nothing of how far it is off
        first = self.session.scalar(
            select(func.min(TicketRow.made_at)).where(TicketRow.crew_id == self.crew_id, TicketRow.job_id == job.id)
        )
        good: dict[str, Event] = {}
        refused: list[Refused] = []
        sent = list(raws)
        # Each load has an entry of its own: a number far past them all is a slip that would number all loads after it.
        most_load = job.event_n + len(sent) + FAR
        for raw in sent:
            try:
                event = _corrected(raw, sent_at, now)
                _sensible(event, now, first, job, most_load)
                if not _same(good.setdefault(event.id, event), event):
                    raise ValueError(_ANOTHER)  # noqa: TRY301 - refused like any other
            except ValueError as error:
                refused.append(Refused(_id_of(raw), _sentence(error)))
        known = self._known(good)
        for id_ in [i for i, where in known.items() if where[0] != job.id]:
            refused.append(Refused(id_, mark("This entry is in another job's log already.")))
            del good[id_]
        for id_ in [i for i, (where, _, body) in known.items() if where == job.id and not _same_as_kept(good[i], body)]:
            refused.append(Refused(id_, _ANOTHER))
            del good[id_], known[id_]
        for event in self._too_many(job, [event for event in good.values() if event.id not in known]):
            refused.append(Refused(event.id, _TOO_MANY))
            del good[event.id]
        numbered = [Numbered(n, _readable(body)) for where, n, body in known.values() if where == job.id]
        new = [event for event in good.values() if event.id not in known]
        numbered += self._insert(job, new, now)
        if new:
            self.tell(job)
        if any(isinstance(event, _CHANGES_THE_LIST) for event in new):
            self.refresh(job)
        return Posted(numbered, refused, job.event_n, new)

    def _too_many(self, job: JobRow, new: list[Event]) -> list[Event]:
        """Return those of new pours that are more than a load takes; the log is looked at only where it is long."""
        poured = [event for event in new if isinstance(event, Poured)]
        if not poured or job.event_n + len(poured) <= MOST_POURS:
            return []
        pours = Counter({(load.number, load.mixer): load.pours for load in self.log(job).run.loads})
        found: list[Event] = []
        for event in poured:
            pours[(event.load, event.mixer)] += 1
            if pours[(event.load, event.mixer)] > MOST_POURS:
                found.append(event)
        return found

    def _known(self, good: dict[str, Event]) -> dict[str, tuple[UUID, int, Document]]:
        query = select(EventRow.id, EventRow.job_id, EventRow.n, EventRow.body).where(
            EventRow.crew_id == self.crew_id, EventRow.id.in_(list(good))
        )
        return {id_: (job_id, n, body) for id_, job_id, n, body in self.session.execute(query)}

    def _insert(self, job: JobRow, new: list[Event], now: datetime) -> list[Numbered]:
        of_job = {"crew_id": self.crew_id, "job_id": job.id, "received_at": now}
        rows: list[dict[str, Any]] = [
            of_job | {"n": n, "id": event.id, "body": event.model_dump(mode="json", exclude_none=True)}
            for n, event in enumerate(new, job.event_n + 1)
        ]
        if rows:
            self.written.add(job.id)
            self.session.execute(insert(EventRow).values(rows))
            job.event_n += len(rows)
            self.session.flush()
        return [Numbered(row["n"], row["body"]) for row in rows]

    def refresh(self, job: JobRow) -> None:
        """Bring what the list of jobs says of a run up to date."""
        log = self.log(job)
        ticket = log.newest
        if ticket is None:
            return
        run = log.run
        in_round = [s for s in run.loads if s.ticket in log.tickets and log.tickets[s.ticket].round == ticket.round]
        job.made = sum(1 for state in in_round if state.ended == "accepted")
        job.loads = job.made + len(run.to_fill) + sum(1 for state in in_round if not state.ended)
        job.state = "done" if run.done else "mixing"
        job.to_fill_m3 = ticket.net_m3
        job.mix_name = plain(ticket.mix_name)
        self.session.flush()


_TOO_MANY: Final = Said(
    "This load has {n} pours already, and takes no more: begin the next one.", n=Amount(MOST_POURS, "whole")
)
_ANOTHER: Final = mark("This entry has the number of another that is in the log already: it was not taken in.")
_MOMENTS: Final = ("at", "tapped_at")
"""When it was is set right anew at each sending."""


def _same(one: Event, other: Event) -> bool:
    """Whether two entries tell the same."""
    return one.model_dump(mode="json", exclude={*_MOMENTS}) == other.model_dump(mode="json", exclude={*_MOMENTS})


def _readable(body: Any) -> Document | None:
    """Return an entry's document as it is kept; None for one that cannot be read."""
    try:
        read_event(body)
    except ValueError:
        return None
    return dict(body)


def _same_as_kept(event: Event, body: Document) -> bool:
    """Whether an entry tells what the log has under its id; one that cannot be read any more tells nothing else."""
    try:
        return _same(event, read_event(body))
    except ValueError:
        return True


def _corrected(raw: Any, sent_at: datetime | None, now: datetime) -> Event:
    """Read an event as sent, and put its moment onto our clock.

    While the page that took the tap lives it says the tap's age by its monotonic clock; after that the tap's wall
    time is set right by how far the sender's clock is off now.
    """
    if not isinstance(raw, dict):
        raise ValueError(mark("An entry of the log is a document."))  # noqa: TRY004 - one family for the caller
    document = dict(raw)
    age_s = document.pop("age_s", None)
    document.pop("n", None)  # its number is ours to give
    event = read_event(document)
    at = event.at
    if isinstance(age_s, int | float) and 0 <= age_s <= 30 * 86_400:
        at = now - timedelta(seconds=age_s)
    elif sent_at is not None:
        at = event.at + (now - sent_at)
    elif event.at > now + AHEAD:
        raise ValueError(mark("This entry is dated in the future, and nothing says how far that clock is off."))
    at = min(at, now)
    at = at.astimezone(UTC).replace(microsecond=at.microsecond // 1000 * 1000)
    return event.model_copy(update={"at": at, "tapped_at": event.at})


def _sensible(event: Event, now: datetime, first: datetime | None, job: JobRow, most_load: int) -> None:
    if first is not None and event.at < min(first, job.created_at, now) - BEFORE:
        raise ValueError(mark("This entry is dated long before the job was begun: set that phone's clock."))
    if isinstance(event, LoadEvent) and event.load > most_load:
        raise ValueError(mark("This entry names a load far past any that was begun."))
    if isinstance(event, Started | OneMore) and event.ticket > job.ticket_n:
        raise ValueError(mark("This entry names a ticket the job does not have."))


def _id_of(raw: Any) -> str:
    return str(raw.get("id", ""))[:36] if isinstance(raw, dict) else ""


def _sentence(error: ValueError) -> Words:
    if not isinstance(error, ValidationError):
        return str(error)
    first = error.errors(include_url=False)[0]
    if first["type"] == "value_error":
        return mark("The time of this entry cannot be: set that phone's clock.")
    if first["type"] == "timezone_aware":
        return mark("The time of this entry has no zone.")
    return Said("This entry cannot be read: {field}.", field=".".join(str(part) for part in first["loc"][-1:]))


def catch_up(session: Session, seen: Callable[[JobRow], Outlook]) -> int:
    """Bring the list's words of jobs up to date that were kept by an earlier version; returns how many.

    Parameters
    ----------
    session : open session; the caller commits
    seen : says what the list shows of a job's sheet
    """
    jobs = list(session.scalars(select(JobRow).where(JobRow.state == "")))
    for job in jobs:
        if job.ticket_n:
            RunStore(session, job.crew_id).refresh(job)
        if not job.state:
            job.state, job.to_fill_m3, job.mix_name, job.loads = seen(job)
    session.flush()
    return len(jobs)
