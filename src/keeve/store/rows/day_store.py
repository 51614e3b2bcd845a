"""What happened in a yard between loads, and what was looked at: appended, never changed."""

import json
from collections.abc import Mapping
from datetime import UTC, date, datetime, timedelta
from typing import Final, Literal
from uuid import UUID

from sqlalchemy import and_, func, select, text
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from keeve.core.materials.looks import HeapLook
from keeve.core.yard.day_log import HEAP_CHANGES, Changed, Entry, read_entry
from keeve.store.tables import DayPlanRow, DayRow, Document, EventRow, JobRow

MOST_READ: Final = 4000
CHANGED_TO_MIXED: Final = 3
"""So many more jobs are looked at than are wanted: some were changed and not mixed."""
LOOKED_BACK: Final = timedelta(days=400)
"""An answer older than that is asked for again whatever it was."""

_CHANGED: Final = text(
    """
    update jobs set version = version + 1,
      sheet = jsonb_set(sheet, '{heap_changed}',
        case jsonb_typeof(sheet->'heap_changed') when 'object' then sheet->'heap_changed' else '{}' end
        || (select jsonb_object_agg(key, to_jsonb(cast(:at as text)))
            from jsonb_object_keys(sheet->'moisture_percent') as key where :of = '' or key = :of))
    where crew_id = :crew and state <> 'done' and jsonb_typeof(sheet->'moisture_percent') = 'object'
      and exists (select 1 from jsonb_object_keys(sheet->'moisture_percent') as key where :of = '' or key = :of)
    """
)

_LOOKED: Final = text(
    """
    update jobs set version = version + 1,
      sheet = sheet || jsonb_build_object(
        'moisture_percent', sheet->'moisture_percent' || jsonb_build_object(cast(:of as text), cast(:look as text)),
        'looked_at', case jsonb_typeof(sheet->'looked_at') when 'object' then sheet->'looked_at' else '{}' end
          || jsonb_build_object(cast(:of as text), cast(:at as text)))
    where crew_id = :crew and state <> 'done' and jsonb_typeof(sheet->'moisture_percent') = 'object'
      and (id = :job or jsonb_exists(sheet->'moisture_percent', cast(:of as text)))
      and left(coalesce(sheet->'looked_at'->>cast(:of as text), ''), 19) < left(cast(:at as text), 19)
    """
)

_TOLD: Final = text(
    """
    update jobs set version = version + 1,
      sheet = jsonb_set(sheet, array[cast(:part as text)], cast(:told as jsonb))
    where crew_id = :crew and state <> 'done' and jsonb_typeof(sheet) = 'object'
      and coalesce(sheet->cast(:part as text), '{}') <> cast(:told as jsonb)
    """
)


class DayStore:
    """The day log of one crew; flushes only, the caller commits."""

    def __init__(self, session: Session, crew_id: UUID) -> None:
        self._session = session
        self._crew_id = crew_id

    def log(self, now: datetime | None = None) -> tuple[Entry, ...]:
        """Return the entries of the last year, oldest first; one that cannot be read is left out."""
        since = (now or datetime.now(UTC)) - LOOKED_BACK
        query = (
            select(DayRow.body)
            .where(DayRow.crew_id == self._crew_id, DayRow.at >= since)
            .order_by(DayRow.at.desc(), DayRow.id)
            .limit(MOST_READ)
        )
        found: list[Entry] = []
        for body in self._session.scalars(query):
            try:
                found.append(read_entry(body))
            except ValueError:
                continue
        return tuple(reversed(found))

    def tell(self, part: Literal["aged", "own"], told: Mapping[str, object]) -> None:
        """Tell every open job what the yard knows: what old stock leaves of working lives, or its own figures."""
        self._session.execute(_TOLD, {"crew": self._crew_id, "part": part, "told": json.dumps(told)})

    def plan(self, day: date) -> Document | None:
        """Return how a day is planned, as typed; None where nobody has."""
        found = self._session.get(DayPlanRow, (self._crew_id, day))
        return found.document if found is not None and isinstance(found.document, dict) else None

    def keep_plan(self, day: date, document: Document) -> None:
        """Keep how a day is planned."""
        values = {"crew_id": self._crew_id, "day": day, "document": document}
        query = insert(DayPlanRow).values(values)
        changed = {"document": document, "changed_at": func.clock_timestamp()}
        self._session.execute(query.on_conflict_do_update(index_elements=["crew_id", "day"], set_=changed))

    def planned_for(self, job_id: str) -> tuple[date, Document] | None:
        """Return the last day a job is planned on."""
        query = (
            select(DayPlanRow)
            .where(DayPlanRow.crew_id == self._crew_id)
            .where(DayPlanRow.document["jobs"].contains([{"job": job_id}]))
            .order_by(DayPlanRow.day.desc())
            .limit(1)
        )
        found = self._session.scalar(query)
        return (found.day, found.document) if found is not None else None

    def last_worked(self, job_id: UUID) -> datetime | None:
        """Return when the last entry of a job's log came; None where it has none."""
        of_job = (EventRow.crew_id == self._crew_id, EventRow.job_id == job_id)
        return self._session.scalar(select(func.max(EventRow.received_at)).where(*of_job))

    def worked_since(self, since: datetime, most: int, mix_key: str = "") -> list[tuple[JobRow, datetime]]:
        """Return the jobs that were mixed since a moment, of one mix or of all, with their last entry, latest first.

        Whatever is entered in a log changes its job: the jobs changed last are looked at, never all that was entered.
        Of very many that were changed since and not mixed, one mixed longer ago may be missing.
        """
        ends_it = (EventRow.crew_id == JobRow.crew_id, EventRow.job_id == JobRow.id, EventRow.n == JobRow.event_n)
        query = (
            select(JobRow, EventRow.received_at)
            .join(EventRow, and_(*ends_it))
            .where(JobRow.crew_id == self._crew_id, JobRow.away.is_(False), JobRow.changed_at > since)
            .order_by(JobRow.changed_at.desc(), JobRow.id)
            .limit(CHANGED_TO_MIXED * most)
        )
        if mix_key:
            query = query.where(JobRow.mix_key == mix_key)
        found = [(job, at) for job, at in self._session.execute(query) if at > since]
        return sorted(found, key=lambda one: one[1], reverse=True)[:most]

    def looked(self, job: UUID, of: str, look: HeapLook, at: datetime) -> None:
        """Take a look at a heap into the sheet of the job it was told in, and of each open job on the same heap.

        A younger look stays.
        """
        given = {"crew": self._crew_id, "job": job, "of": of, "look": look, "at": at.astimezone(UTC).isoformat()}
        self._session.execute(_LOOKED, given)

    def append(self, *entries: Entry) -> None:
        """Append entries; one that is there already stays as it is. Heaps that changed are marked in every open job."""
        if not entries:
            return
        rows = [
            {"crew_id": self._crew_id, "id": one.id, "at": one.at, "body": json.loads(one.model_dump_json())}
            for one in entries
        ]
        self._session.execute(insert(DayRow).values(rows).on_conflict_do_nothing())
        for one in entries:
            if isinstance(one, Changed) and one.kind in HEAP_CHANGES:
                at = one.at.isoformat()
                self._session.execute(_CHANGED, {"crew": self._crew_id, "of": one.of, "at": at})
